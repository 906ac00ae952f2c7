"""Sheets that belong to no stage: commands, waters, settings, guide."""
