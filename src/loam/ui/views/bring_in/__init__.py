"""Bringing in: the file, what its columns mean, and what will come out of it."""
