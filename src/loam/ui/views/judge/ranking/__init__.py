"""The ranking: its page and what it draws."""
