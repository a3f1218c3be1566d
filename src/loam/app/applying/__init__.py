"""From the panels to the car: its job, the ladder on it, its spots, its day."""
