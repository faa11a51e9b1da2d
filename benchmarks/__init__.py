"""What costs what: measured beside each other in one run, never inside a test."""
