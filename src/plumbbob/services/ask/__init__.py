"""What the calculators of the window answer without one: a question a line, an answer a line."""
