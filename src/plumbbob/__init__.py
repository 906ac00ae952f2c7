"""Plumbbob: reads sonar, puts a lure at its depth, keeps the log."""

__version__ = "0.1.0"
