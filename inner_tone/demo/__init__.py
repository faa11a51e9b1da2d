"""The demo: the evening class of Saltmarsh, which builds the sounds of its harbour."""
