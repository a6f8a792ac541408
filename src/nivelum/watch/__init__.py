"""Is the server well, and what does it do? Health, metrics, the log."""
