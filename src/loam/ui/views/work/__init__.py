"""Work: one cell at a time, read from two metres, driven by one key."""
