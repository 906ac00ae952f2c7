"""The kinds of structure, each with what it is looked for by."""
