"""All trials: its page and what it draws."""
