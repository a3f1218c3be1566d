"""What a result costs, in clear or in minutes."""
