"""The views of a pass."""
