"""What is doubted, and what it does to the ranking."""
