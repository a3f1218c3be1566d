"""Settings for every test."""

from hypothesis import settings

settings.register_profile("loam", deadline=None, max_examples=30, derandomize=True)
settings.load_profile("loam")
