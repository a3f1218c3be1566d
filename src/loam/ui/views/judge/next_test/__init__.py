"""What next: its page and what it draws."""
