"""What stops people at a step: the same instruction that remains to be done at how many of their benches."""

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

MOST_STOPS = 4


@dataclass(frozen=True)
class Stop:
    """An instruction that remains to be done, and at how many benches."""

    text: str
    count: int


def stops(left: Iterable[Sequence[str]]) -> list[Stop]:
    """Return what remains to be done at the most benches, the most frequent first.

    Parameters
    ----------
    left
        Of each bench, the instructions that it does not show yet, each once.
    """
    counted: Counter[str] = Counter()
    for one in left:
        counted.update(set(one))
    ranked = sorted(counted.items(), key=lambda item: (-item[1], item[0]))
    return [Stop(text, count) for text, count in ranked[:MOST_STOPS]]
