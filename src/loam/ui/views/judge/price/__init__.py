"""What it costs: its page and what it draws."""
