"""What the command line and the desk both ask for. No Qt here."""
