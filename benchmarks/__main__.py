"""Runs the benchmarks: `python -m benchmarks [voice] [edit]`."""

import sys

from benchmarks import edit, voice

ALL = {"voice": voice.main, "edit": edit.main}

if __name__ == "__main__":
    for name in sys.argv[1:] or ALL:
        ALL[name]()
