"""What to test next."""
