"""Its page."""
