"""The page of what the eye sees."""
