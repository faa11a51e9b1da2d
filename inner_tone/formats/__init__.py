"""Files that leave Inner Tone and come into it."""
