"""Kit: the combinations, stage by stage as things, and what a stage does to a section."""
