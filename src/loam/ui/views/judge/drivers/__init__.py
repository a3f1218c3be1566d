"""What drives it: its page and what it draws."""
