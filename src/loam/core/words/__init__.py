"""Sentences that the data support."""
