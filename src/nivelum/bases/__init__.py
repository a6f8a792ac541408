"""What is built here? The brief, the base, its falls, ways of building it, the ground’s strength."""
