"""What each view shows, without a screen."""
