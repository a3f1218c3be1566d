"""Panels: what each is, how it is taped, what film it has."""
