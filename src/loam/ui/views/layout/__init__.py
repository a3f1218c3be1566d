"""Lay out: which combination goes into which cell, how it is dealt, what it will tell."""
