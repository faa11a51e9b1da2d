"""Holds what the lenses say of many sounds against what is known of them, and writes docs/truths.md.

Usage: python -m tests.truth [COUNT [SEED]]   how many sounds (2,000), drawn by which seed (1)
"""

import sys

from tests.truth.trial import PAGE, page, tried

if __name__ == "__main__":
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 2_000
    seed = int(sys.argv[2]) if len(sys.argv) > 2 else 1
    result = tried(count, seed)
    for line in result.wrong:
        print(line)
    text = page(result, count, seed)
    if len(sys.argv) == 1:
        PAGE.write_text(text)
    print(text)
