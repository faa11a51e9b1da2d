"""Work that takes a processor: done by processes of its own, for everybody in turn, each within a budget."""
