"""The Qt desktop: a session, a table of commands, the plumb line, one folder a stage."""
