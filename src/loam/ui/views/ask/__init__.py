"""Asking: the trials, the question as a sentence, and the trial as it grows."""
