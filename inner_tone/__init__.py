"""Inner Tone: lessons in sound synthesis that can be written, played, seen, followed and checked."""
