"""The tests, by the parts of the product that they try."""
