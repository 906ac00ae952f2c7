"""Work off the interface thread, a file a task."""
