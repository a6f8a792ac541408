"""What does an answer look like? SVG from the core’s answers; drawings place and word, they decide nothing."""
