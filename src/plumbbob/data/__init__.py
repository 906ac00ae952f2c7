"""Data that ships with the program: the demo pass, its temperature profile, the demo waters. Never written to."""
