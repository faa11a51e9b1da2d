"""What is kept: lessons, steps with their history, and renders, in PostgreSQL."""
