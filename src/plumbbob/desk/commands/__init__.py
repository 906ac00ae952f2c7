"""The registry of commands and one module a menu."""
