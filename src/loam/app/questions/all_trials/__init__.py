"""All trials of the workshop as one, and two sides held against each other."""
