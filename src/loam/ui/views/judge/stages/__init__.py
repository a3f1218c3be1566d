"""Stages: its page and what it draws."""
