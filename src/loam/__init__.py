"""Loam: plans, reads and judges controlled test panels for paint correction."""

import os

__version__ = "0.8.0"

# Before NumPy is loaded: matrices are small here, and two threads that wait for each other take up
# to five times as long as one where the other core has a window, or another program, to serve.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
