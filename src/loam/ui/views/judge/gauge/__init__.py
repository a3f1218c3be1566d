"""The gauge study: its page and what it draws."""
