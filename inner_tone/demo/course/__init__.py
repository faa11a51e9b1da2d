"""The course of the demo: lessons written as texts in `sources`, which become bundles."""
