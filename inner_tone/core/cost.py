"""What it costs to play a phrase: a bound that is known before anything is computed.

Each type of module takes so many nanoseconds for each sample, as its declaration says; a module that exists once per
voice takes them once per voice; in a loop each sample is computed by itself, which costs each module a call.
"""

import math
from collections.abc import Collection
from dataclasses import dataclass

from inner_tone.core.engine.render import RATE, TAIL_SECONDS
from inner_tone.core.engine.schedule import schedule
from inner_tone.core.engine.wiring import Wiring, wiring_of
from inner_tone.core.errors import InnerToneError
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Patch
from inner_tone.core.phrase import Phrase

MOST_SECONDS = 60.0  # of one core, for what somebody waits for
MOST_BYTES = 400_000_000
BYTES = 8  # of a sample that is written down
IN_A_LOOP = 140  # more, for each module
FOR_EACH_LINE = 3
CAUTION = 2.0  # settings and modulation can make a module dearer than it was when it was measured


class TooDearError(InnerToneError):
    """A wish that would keep a processor busy for longer, or fill more memory, than anybody may ask for."""


@dataclass(frozen=True)
class Cost:
    """What playing takes at most: seconds of one core, and bytes of memory; and what makes it so."""

    seconds: float
    size: int
    words: str


def cost_of(patch: Patch, phrase: Phrase, taps: Collection[str] = (), rate: float = RATE) -> Cost:
    """Return a bound on what a render costs, with the signals of some taps kept."""
    graph = Graph(patch.live)
    wiring = wiring_of(graph)
    looped = in_loops(wiring)
    seconds = phrase.seconds + TAIL_SECONDS
    each = sum(
        unit.module.declaration.nanoseconds + IN_A_LOOP * (unit.key.node in looped) for unit in wiring.units.values()
    ) + FOR_EACH_LINE * sum(len(lines) for lines in wiring.lines.values())
    samples = seconds * rate
    loop = f", {len(looped)} of them in a loop" if looped else ""
    voices = f" in {patch.voices} voices" if patch.voices > 1 else ""
    return Cost(
        seconds=CAUTION * samples * each * 1e-9,
        size=size_of(phrase, len(taps), rate),
        words=f"{len(patch.modules)} modules{loop}{voices} for {seconds:.0f} s",
    )


def size_of(phrase: Phrase, taps: int, rate: float = RATE) -> int:
    """Return how many bytes a render fills with so many taps kept, and both sides."""
    return round((phrase.seconds + TAIL_SECONDS) * rate * BYTES * (2 + taps))


def together(phrase: Phrase, taps: Collection[str], size: int = MOST_BYTES // 2) -> list[list[str]]:
    """Return taps in groups that can be kept at once: a long phrase is rendered once for each group."""
    room = max(1, math.floor(2 * size / size_of(phrase, 0)) - 2)
    ordered = sorted(taps)
    return [ordered[start : start + room] for start in range(0, len(ordered), room)]


def in_loops(wiring: Wiring) -> set[tuple[str, str]]:
    """Return the modules that feed themselves."""
    plan = schedule(wiring.feeds)
    return {node for group, loop in zip(plan.groups, plan.loops, strict=True) if loop for node in group}


def refuse_if_dear(cost: Cost, seconds: float = MOST_SECONDS, size: int = MOST_BYTES) -> None:
    """Raise TooDearError for what costs more than is allowed."""
    if cost.seconds > seconds:
        raise TooDearError(
            f"This would take about {told(cost.seconds)}: {cost.words}. Allowed are {told(seconds)} of one core. "
            "Take fewer voices or modules, open the loop, or shorten the phrase."
        )
    if cost.size > size:
        raise TooDearError(
            f"This would fill {cost.size / 1e6:.0f} MB: {cost.words}. Allowed are {size / 1e6:.0f} MB. "
            "Look at fewer places at once, or shorten the phrase."
        )


def told(seconds: float) -> str:
    """Return a duration as people say it."""
    return f"{seconds:.0f} s" if seconds < 120 else f"{seconds / 60:.0f} minutes"
