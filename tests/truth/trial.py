"""The trial: many sounds, every lens, every clause."""

from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from inner_tone.core.lens.kinds.level import LevelView
from inner_tone.core.lens.kinds.response import ResponseView
from inner_tone.core.lens.kinds.spectrum import SpectrumView
from inner_tone.core.lens.kinds.sweep import SweepView
from inner_tone.core.lens.kinds.wave import WaveView
from inner_tone.core.lens.look import View, look
from tests.truth.built import BUILT
from tests.truth.checks import is_true
from tests.truth.known import Known
from tests.truth.makers import MAKERS

PAGE = Path(__file__).resolve().parents[2] / "docs" / "truths.md"
VIEWS: tuple[type[SpectrumView | WaveView | SweepView | LevelView | ResponseView], ...] = (
    SpectrumView,
    WaveView,
    SweepView,
    LevelView,
    ResponseView,
)
PER_TASK = 20

# what each lens promises to say of what it is shown: any of these codes will do
PROMISED: dict[str, dict[str, tuple[str, ...]]] = {
    "wave": {"spectrum": ("pitch", "missing"), "wave": ("cycle",), "sweep": ("note", "no pitch")},
    "few partials": {"spectrum": ("which", "tones", "sine"), "wave": ("cycle", "no cycle")},
    "filtered": {"spectrum": ("cut",), "wave": ("cycle",), "sweep": ("note",)},
    "FM": {"spectrum": ("which", "inharmonic", "tones", "sine")},
    "vibrato": {"spectrum": ("vibrato",), "sweep": ("vibrato",)},
    "glide": {"sweep": ("glide",)},
    "melody": {"sweep": ("notes",), "spectrum": ("pitch",), "wave": ("cycle",)},
    "beating": {"spectrum": ("unison",), "level": ("beating",)},
    "tremolo": {"spectrum": ("pitch",), "level": ("beating",), "sweep": ("note",)},
    "noise": {"spectrum": ("noise only",), "sweep": ("no pitch",), "wave": ("no cycle",)},
    "several": {"spectrum": ("notes", "tones")},
    "struck": {"level": ("attack",), "spectrum": ("pitch",)},
    "gated": {"spectrum": ("pitch",), "sweep": ("note",), "wave": ("cycle",)},
    "clipped": {"level": ("clipped",), "wave": ("clipped",)},
    "slow": {"spectrum": ("slow",), "wave": ("cycle",)},
    "opening": {"spectrum": ("pitch",), "sweep": ("brightness",)},
    "patch: wave": {"spectrum": ("pitch",), "wave": ("cycle",), "sweep": ("note",)},
    "patch: FM": {"spectrum": ("which", "inharmonic", "tones", "sine")},
    "patch: vibrato": {"spectrum": ("vibrato",), "sweep": ("vibrato",)},
    "patch: filtered": {"spectrum": ("cut",), "wave": ("cycle",), "sweep": ("note",)},
    "patch: struck": {"level": ("attack",), "spectrum": ("pitch",)},
    "patch: melody": {"sweep": ("notes", "note"), "spectrum": ("pitch",), "wave": ("cycle",)},
    "patch: plucked": {"sweep": ("notes", "no pitch")},
    "patch: whirring": {"sweep": ("note",)},
    "patch: crossed": {"sweep": ("notes", "no pitch")},
    "patch: swung": {"sweep": ("vibrato", "note")},
    "patch: response": {"response": ("passes", "band", "notch")},
}


@dataclass
class Result:
    """How many clauses were true and false, by lens and code; how many promises were kept, by lens and kind."""

    true: Counter[tuple[str, str]] = field(default_factory=Counter)
    false: Counter[tuple[str, str]] = field(default_factory=Counter)
    kept: Counter[tuple[str, str]] = field(default_factory=Counter)
    broken: Counter[tuple[str, str]] = field(default_factory=Counter)
    wrong: list[str] = field(default_factory=list)

    def add(self, other: "Result") -> None:
        """Take in another result."""
        for name in ("true", "false", "kept", "broken"):
            getattr(self, name).update(getattr(other, name))
        self.wrong += other.wrong

    @property
    def truth_share(self) -> float:
        """Which share of the clauses is true."""
        return self.true.total() / max(1, self.true.total() + self.false.total())

    @property
    def promise_share(self) -> float:
        """Which share of the promises is kept."""
        return self.kept.total() / max(1, self.kept.total() + self.broken.total())


def sound_number(number: int, seed: int) -> tuple[str, Known]:
    """Return the sound of a number, and of which kind it is; each kind in its turn."""
    makers = MAKERS | BUILT
    kind = list(makers)[number % len(makers)]
    return kind, makers[kind](np.random.default_rng((seed, number)))


def judged(kind: str, known: Known, result: Result) -> None:
    """Let every lens say what it says of a sound, and judge each clause."""
    source = known.source
    for make in VIEWS:
        view: View = make(taps=(known.tap,))
        # a patch may be made for its response alone, and what only sounds has none
        if (make is ResponseView) != (known.made.passes is not None):
            continue
        chart = look(view, source)
        claims = chart.facts["claims"]
        for code in claims:
            verdict = is_true(code, view.kind, known.truth, chart.facts)
            if verdict is None:
                continue
            (result.true if verdict else result.false)[view.kind, code] += 1
            if not verdict:
                result.wrong.append(f"FALSE {view.kind} “{code}”: {chart.sentence} — {known.name}")
        wanted = PROMISED[kind].get(view.kind)
        if wanted is None:
            continue
        is_kept = any(code in claims for code in wanted)
        (result.kept if is_kept else result.broken)[view.kind, kind] += 1
        if not is_kept:
            result.wrong.append(f"UNSAID {view.kind} {wanted}: {chart.sentence} — {known.name}")


def part(numbers: range, seed: int) -> Result:
    """Return the result of some of the sounds."""
    result = Result()
    for number in numbers:
        judged(*sound_number(number, seed), result)
    return result


def tried(count: int, seed: int, workers: int = 2) -> Result:
    """Return the result of so many sounds."""
    parts = [range(first, min(count, first + PER_TASK)) for first in range(0, count, PER_TASK)]
    result = Result()
    if workers < 2:
        for numbers in parts:
            result.add(part(numbers, seed))
        return result
    with ProcessPoolExecutor(workers) as pool:
        for one in pool.map(part, parts, [seed] * len(parts)):
            result.add(one)
    return result


def page(result: Result, count: int, seed: int) -> str:
    """Return docs/truths.md."""
    lines = [
        "# How true the sentences are",
        "",
        f"{count:,} sounds and patches were made whose nature is known by construction (`tests/truth/makers.py`, "
        f"`tests/truth/built.py`, seed {seed}), and "
        "every clause that the lenses said of them was held against it (`tests/truth/checks.py`). "
        "`.venv/bin/python -m tests.truth` makes this page anew.",
        "",
        f"True are {100.0 * result.truth_share:.2f} % of the clauses; said is {100.0 * result.promise_share:.2f} % of "
        "what each lens promises to say.",
        "",
        "| lens | clause | said | true |",
        "|---|---|--:|--:|",
    ]
    for lens, code in sorted({*result.true, *result.false}):
        said = result.true[lens, code] + result.false[lens, code]
        lines.append(f"| {lens} | {code} | {said} | {100.0 * result.true[lens, code] / said:.1f} % |")
    lines += ["", "| lens | of | shown | said |", "|---|---|--:|--:|"]
    for lens, kind in sorted({*result.kept, *result.broken}):
        shown = result.kept[lens, kind] + result.broken[lens, kind]
        lines.append(f"| {lens} | {kind} | {shown} | {100.0 * result.kept[lens, kind] / shown:.1f} % |")
    return "\n".join(lines) + "\n"
