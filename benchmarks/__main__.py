"""Runs the benchmarks: `python -m benchmarks [fused] [costs] [voice] [edit]`."""

import sys

from benchmarks import BENCHMARKS

if __name__ == "__main__":
    for name in sys.argv[1:] or BENCHMARKS:
        BENCHMARKS[name]()
