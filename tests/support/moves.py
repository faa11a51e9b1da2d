"""The table of moves that are recognised: before, after, and what is said in the three voices."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from inner_tone.core.lesson.step import with_purpose
from inner_tone.core.patch.difference import difference
from inner_tone.core.patch.model import Patch
from tests.support.patches import Line, module, patch

PAGE = Path(__file__).resolve().parents[2] / "docs" / "moves.md"
HEAD = """# Moves that are recognised

Inner Tone writes down what a step changes. These are the moves that it names, with a patch before and after each, and
what it says: briefly, plainly, and explained (where a lesson uses a type of module for the first time). All the
instructions of a step, one after the other, make of the patch before it the patch of the step;
`tests/core/test_difference.py` tries that with 500 pairs of patches.
`.venv/bin/python -m tests.support.moves` writes this page anew.

| move | before | after | brief | plain | explained, in addition |
|---|---|---|---|---|---|
"""


@dataclass(frozen=True)
class Move:
    """A move by its name, and the patches before and after it."""

    name: str
    before: Patch
    after: Patch


def named(name: str, kind: str, label: str, **settings: float | str) -> dict[str, Any]:
    return module(name, kind, **settings) | {"label": label}


PLAYER, OUT = named("player", "player", "Keeper"), named("out", "output", "Harbour")
REED = named("reed", "oscillator", "Reed")
BELL = named("bell", "filter", "Bell mouth")
AMP = named("amp", "amplifier", "Loudness")
BREATH = named("breath", "envelope", "Breath")
OUTER: list[Line] = [("reed.out", "out.left"), ("reed.out", "out.right")]
INNER: list[Line] = [("reed.out", "amp.in"), ("amp.out", "out.left"), ("amp.out", "out.right")]
TWINS: list[Line] = [*OUTER, ("reed-2.out", "out.left"), ("reed-2.out", "out.right")]
STEERED: Line = ("breath.out", "bell.cutoff", 24, "player.velocity")


def grouped(label: str) -> Patch:
    made = patch([REED, BELL, OUT])
    section = {"id": "horn", "label": label, "modules": ["reed", "bell"]}
    return Patch.model_validate({**made.to_json(), "sections": [section]})


TABLE = (
    Move("add", patch([OUT]), patch([REED, OUT])),
    Move("insert A between B and C", patch([REED, OUT], OUTER), patch([REED, AMP, OUT], INNER)),
    Move("replace", patch([REED, OUT], OUTER), patch([named("reed", "noise", "Reed"), OUT], OUTER)),
    Move(
        "duplicate",
        patch([REED, OUT], OUTER),
        patch([REED, named("reed-2", "oscillator", "Reed 2"), OUT], TWINS),
    ),
    Move("remove", patch([REED, BELL, OUT], OUTER), patch([REED, OUT], OUTER)),
    Move("connect", patch([REED, AMP]), patch([REED, AMP], [("reed.out", "amp.in")])),
    Move("let follow a pitch", patch([PLAYER, REED]), patch([PLAYER, REED], [("player.pitch", "reed.pitch")])),
    Move("let steer", patch([PLAYER, BREATH, BELL]), patch([PLAYER, BREATH, BELL], [STEERED])),
    Move(
        "move the cable’s end",
        patch([REED, AMP, BELL], [("reed.out", "amp.in")]),
        patch([REED, AMP, BELL], [("reed.out", "bell.in")]),
    ),
    Move("disconnect", patch([REED, OUT], OUTER), patch([REED, OUT])),
    Move(
        "change a depth",
        patch([BREATH, BELL], [("breath.out", "bell.cutoff", 12)]),
        patch([BREATH, BELL], [("breath.out", "bell.cutoff", 36)]),
    ),
    Move("set values", patch([BELL]), patch([named("bell", "filter", "Bell mouth", cutoff=420, resonance=0.2)])),
    Move("swap the wave", patch([REED]), patch([named("reed", "oscillator", "Reed", wave="square")])),
    Move("rename", patch([REED]), patch([named("reed", "oscillator", "Whistle")])),
    Move("group", patch([REED, BELL, OUT]), grouped("Horn")),
    Move("rename a section", grouped("Horn"), grouped("Old horn")),
    Move("take a section apart", grouped("Horn"), patch([REED, BELL, OUT])),
    Move("several notes at once", patch([REED]), patch([REED], voices=4)),
)


def drawn(shown: Patch) -> str:
    """Return a patch in a line: its modules, then its connections."""
    titles = ", ".join(one.title for one in shown.modules)
    lines = ", ".join(f"{line.source}→{line.target}" for line in shown.connections)
    sections = "".join(f"; section {one.label}" for one in shown.sections)
    return titles + (f"; {lines}" if lines else "") + sections


def page() -> str:
    """Return docs/moves.md."""
    rows = []
    for move in TABLE:
        known = {one.type for one in move.before.modules}
        said = [with_purpose(one, move.after, known) for one in difference(move.before, move.after)]
        voices = (" ".join(getattr(one, voice) for one in said) for voice in ("brief_text", "text", "purpose"))
        rows.append("| " + " | ".join((move.name, drawn(move.before), drawn(move.after), *voices)) + " |")
    return HEAD + "\n".join(rows) + "\n"


if __name__ == "__main__":
    PAGE.write_text(page())
