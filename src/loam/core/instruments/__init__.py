"""What bench instruments say on their line, and what it means."""
