"""What the log says: rates with their doubt, findings with what speaks against them, the year as water."""
