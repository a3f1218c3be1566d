"""Who wins when several things matter."""
