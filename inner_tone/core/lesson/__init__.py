"""Lessons and steps: the rules."""
