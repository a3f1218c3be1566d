"""Doubts: its page and what it draws."""
