"""What is seen: one folder a view."""
