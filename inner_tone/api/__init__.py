"""The HTTP interface: routers that validate, call the core or the store, and return."""
