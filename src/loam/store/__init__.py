"""One SQLite file per workshop, and the open formats in and out of it."""
