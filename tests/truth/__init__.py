"""Sounds and patches whose nature is known by construction, and what is said of them held against it."""
