"""The mixed model of a trial, and the ranking that rests on it."""
