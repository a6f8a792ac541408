"""The Bedding room: rails, the bed's thickness over the base, the trial patch."""
