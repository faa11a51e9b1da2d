"""The demo’s course."""
