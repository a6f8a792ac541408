"""What does the product look like in use? Made-up crews and jobs, and what measures the product."""
