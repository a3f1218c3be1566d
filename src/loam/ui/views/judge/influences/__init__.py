"""What else moves it: its page and what it draws."""
