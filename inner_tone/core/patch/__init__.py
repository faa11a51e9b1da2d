"""Patches: the model, its checks, and what differs between two."""
