"""Is it compacted? How thick, how wet, how many passes, and the ground under it."""
