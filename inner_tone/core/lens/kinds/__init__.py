"""The lenses, each in a file of its own that says all about it; its name is that of its file."""
