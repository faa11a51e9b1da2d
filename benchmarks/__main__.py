"""Runs the benchmarks: `python -m benchmarks [fused] [costs] [voice] [edit]`."""

import sys

from benchmarks import costs, edit, fused, voice

ALL = {"fused": fused.main, "costs": costs.main, "voice": voice.main, "edit": edit.main}

if __name__ == "__main__":
    for name in sys.argv[1:] or ALL:
        ALL[name]()
