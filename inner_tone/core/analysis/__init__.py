"""Measurements of signals: what the lenses show."""
