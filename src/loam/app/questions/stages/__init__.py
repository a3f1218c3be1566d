"""What each stage adds."""
