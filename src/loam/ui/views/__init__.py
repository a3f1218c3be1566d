"""The views of the path, in its order."""
