"""`bin/generate`: builds the bundles of the course, and its page, where they are not current.

Usage: python -m inner_tone.demo.course
"""

import sys
from pathlib import Path

from inner_tone.demo.course.build import BUNDLES, bundles
from inner_tone.demo.course.table import PAGE, page


def stale() -> dict[Path, bytes]:
    """Return the files that are not what the sources make, with what should be in them."""
    made = {BUNDLES / name: data for name, data in bundles().items()} | {PAGE: page().encode()}
    return {file: data for file, data in made.items() if not file.exists() or file.read_bytes() != data}


def main() -> int:
    """Write what is stale; returns the exit status."""
    for file, data in stale().items():
        file.parent.mkdir(exist_ok=True)
        file.write_bytes(data)
        print(file.name)
    return 0


if __name__ == "__main__":
    sys.exit(main())
