"""Priorities: its page and what it draws."""
