"""A vehicle as panels, its job, and what the panels of a trial promise for it."""
