"""Holds what the lenses say of sounds that change against their truth, clause by clause.

Usage: python -m tests.truth.courses [COUNT [SEED]]   how many of each kind (50), drawn by which seed (11)
"""

import sys
from collections.abc import Callable, Mapping
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.lens.chart import Chart
from inner_tone.core.lens.kinds.spectrum import SpectrumView
from inner_tone.core.lens.kinds.sweep import SweepView
from inner_tone.core.lens.kinds.wave import WaveView
from inner_tone.core.lens.moment import WholeMoment
from inner_tone.core.lens.recipe import Recipe, charts
from inner_tone.core.units import midi_of
from tests.truth.lessons import TAUGHT, Taught
from tests.truth.trial import Result

PAGE = Path(__file__).resolve().parents[2] / "docs" / "changes.md"
SAME_ST, NOTE_ST = 0.25, 0.35
STEP_S = 0.001
EDGE_S = 0.03  # at the end, where what is heard fades
LEAST_HELD_S = 0.2
VIEWS = (SweepView, SpectrumView, WaveView)


@dataclass(frozen=True)
class Truth:
    """Which note sounds at each of some times in s."""

    times_s: Floats
    notes: Floats

    def between(self, begin_s: float, end_s: float) -> Floats:
        """Return the notes from one time to before another."""
        return self.notes[(self.times_s >= begin_s) & (self.times_s < end_s)]

    @property
    def swing_st(self) -> float:
        """How far it swings to each side at most."""
        return 0.5 * float(np.ptp(self.notes))


def rates_in(times_s: Floats, notes: Floats) -> Floats:
    """Return how often a second a swing comes back, between each two of its upward crossings of the middle."""
    middle = 0.5 * (np.max(notes) + np.min(notes))
    up = np.flatnonzero((notes[:-1] < middle) & (notes[1:] >= middle))
    return np.asarray(1.0 / np.diff(times_s[up])) if len(up) > 1 else np.zeros(0)


def note_is_true(truth: Truth, facts: Mapping[str, Any], chart: Chart) -> bool:
    """Tell whether one note sounds throughout, or a swing has its middle there."""
    if "note" in facts and "notes" not in facts:
        middle = 0.5 * (np.max(truth.notes) + np.min(truth.notes))
        return bool(abs(facts["note"] - middle) < NOTE_ST)
    return float(np.mean(np.abs(truth.notes - facts["notes"][0]) < SAME_ST)) > 0.95


def notes_are_true(truth: Truth, facts: Mapping[str, Any], chart: Chart) -> bool:
    """Tell whether each note that is named is held, and each that is held for long is named."""
    found = held_in(truth.notes)
    named = all(np.any(np.abs(truth.notes - one) < SAME_ST) for one in facts["notes"])
    return named and all(any(abs(one - other) < SAME_ST for other in facts["notes"]) for one in found)


def held_in(notes: Floats) -> list[float]:
    """Return the notes at which a course stands still for long."""
    edges = np.concatenate([[0], np.flatnonzero(np.abs(np.diff(notes)) > 1e-3) + 1, [len(notes)]])
    spans = pairwise(edges)
    return [float(notes[first]) for first, last in spans if (last - first) * STEP_S > LEAST_HELD_S]


def pitch_is_true(truth: Truth, facts: Mapping[str, Any], chart: Chart) -> bool:
    """Tell whether a pitch is that of the passage that is drawn, and stands there unless it is said to move."""
    seen = chart.seen
    begin, end = (seen.passage_begin_s, seen.passage_end_s) if seen else (None, None)
    notes = truth.between(begin or 0.0, end if end is not None else 1e9)
    if len(notes) == 0 or "note" not in facts:
        return len(notes) > 0
    moves = any(code in facts["claims"] for code in ("vibrato", "growing vibrato", "changing rate", "glide", "trill"))
    swings = any(code in facts["claims"] for code in ("vibrato", "growing vibrato", "changing rate"))
    whole = truth.notes if swings else notes  # of what swings, its middle
    middle = 0.5 * (np.max(whole) + np.min(whole))
    near = abs(facts["note"] - middle) < SAME_ST
    return near and (moves or float(np.ptp(notes)) < 2.0 * SAME_ST)


def about_is_true(truth: Truth, facts: Mapping[str, Any], chart: Chart) -> bool:
    """Tell whether about so high a note sounds at some time."""
    return bool(np.min(np.abs(truth.notes - midi_of(facts["about_hz"]))) < 2.0 * NOTE_ST)


def movement_is_true(truth: Truth, facts: Mapping[str, Any], chart: Chart) -> bool:
    """Tell whether the pitch moves in the passage that is drawn, or in the whole where none is."""
    seen = chart.seen
    if seen is None or seen.passage_begin_s is None or seen.passage_end_s is None:
        return float(np.ptp(truth.notes)) > SAME_ST
    notes = truth.between(seen.passage_begin_s, seen.passage_end_s)
    return len(notes) > 0 and float(np.ptp(notes)) > SAME_ST


def glide_is_true(truth: Truth, facts: Mapping[str, Any], chart: Chart) -> bool:
    """Tell whether the pitch goes from one note to another, and in that time."""
    first, last = facts["from_note"], facts["to_note"]
    if min(np.min(np.abs(truth.notes - one)) for one in (first, last)) > NOTE_ST:
        return False
    way = np.ptp(truth.notes)
    edge = 0.03 * way
    on_way = (truth.notes > np.min(truth.notes) + edge) & (truth.notes < np.max(truth.notes) - edge)
    taken = float(np.sum(on_way)) * STEP_S / 0.94
    is_ends = abs(abs(first - last) - way) < 0.1 * way + NOTE_ST
    upwards = (last > first) == (truth.notes[-1] > truth.notes[0])
    return bool(is_ends and upwards and abs(facts["glide_s"] - taken) < 0.25 * taken + 0.02)


def trill_is_true(truth: Truth, facts: Mapping[str, Any], chart: Chart) -> bool:
    """Tell whether the pitch leaps to and fro between two notes as often as it is said."""
    low, high = facts["trill_notes"]
    rates = rates_in(truth.times_s, truth.notes)
    ends = abs(low - np.min(truth.notes)) < SAME_ST and abs(high - np.max(truth.notes)) < SAME_ST
    return bool(ends and len(rates) and abs(facts["trill_hz"] / np.median(rates) - 1.0) < 0.03)


def vibrato_is_true(truth: Truth, facts: Mapping[str, Any], chart: Chart) -> bool:
    """Tell whether the pitch swings as often and as far as it is said, all the time."""
    rates = rates_in(truth.times_s, truth.notes)
    if len(rates) == 0 or np.ptp(rates) > 0.15 * np.median(rates):
        return False
    cents = facts["vibrato_cents"]
    sizes = [
        np.ptp(part) for part in np.array_split(truth.notes, max(2, round(len(truth.notes) * STEP_S / 1.5 * rates[0])))
    ]
    is_even = min(sizes) > 0.75 * max(sizes)
    depth = cents is None or abs(cents - 100.0 * truth.swing_st) < 0.08 * 100.0 * truth.swing_st + 1.5
    return bool(depth and is_even and abs(facts["vibrato_hz"] / np.median(rates) - 1.0) < 0.03)


def growth_is_true(truth: Truth, facts: Mapping[str, Any], chart: Chart) -> bool:
    """Tell whether a swing grows or fades from one depth to another."""
    rates = rates_in(truth.times_s, truth.notes)
    middle = 0.5 * (np.max(truth.notes) + np.min(truth.notes))
    size = round(1.0 / (np.median(rates) * STEP_S)) if len(rates) else len(truth.notes)
    ends = [100.0 * float(np.max(np.abs(part - middle))) for part in (truth.notes[:size], truth.notes[-size:])]
    said = (facts["vibrato_from_cents"], facts["vibrato_to_cents"])
    near = all(abs(one - other) < 0.15 * max(ends) + 2.0 for one, other in zip(said, ends, strict=True))
    return bool(near and len(rates) and abs(facts["vibrato_hz"] / np.median(rates) - 1.0) < 0.05)


def rates_are_true(truth: Truth, facts: Mapping[str, Any], chart: Chart) -> bool:
    """Tell whether a swing's rate goes from one to another."""
    rates = rates_in(truth.times_s, truth.notes)
    said = (facts["vibrato_from_hz"], facts["vibrato_to_hz"])
    return len(rates) > 1 and all(
        abs(one / other - 1.0) < 0.2 for one, other in zip(said, (rates[0], rates[-1]), strict=True)
    )


JUDGES: dict[str, Callable[[Truth, Mapping[str, Any], Chart], bool]] = {
    "note": note_is_true,
    "notes": notes_are_true,
    "pitch": pitch_is_true,
    "missing": pitch_is_true,
    "about": about_is_true,
    "moving": movement_is_true,
    "glide": glide_is_true,
    "trill": trill_is_true,
    "vibrato": vibrato_is_true,
    "growing vibrato": growth_is_true,
    "changing rate": rates_are_true,
}
# what is never true of one source with a pitch
LOST = ("no pitch", "unison", "inharmonic", "tones", "notes at once", "no cycle", "brief", "several")


def judged(kind: str, case: Taught, result: Result) -> None:
    """Let every lens speak of a case, and judge what it says of the pitch."""
    times = np.arange(0.0, case.until_s - EDGE_S, STEP_S)
    truth = Truth(times, np.asarray(case.note_at(times), dtype=float))
    said = False
    for make in VIEWS:
        recipe = Recipe(view=make(taps=(case.tap,)), patch=case.patch, phrase=case.phrase, moment=WholeMoment())
        chart = charts(recipe)[0]
        claims = chart.facts["claims"]
        said = said or (make is SweepView and any(code in claims for code in case.main))
        for code in claims:
            if code not in JUDGES and code not in LOST:
                continue
            verdict = code not in LOST and JUDGES[code](truth, chart.facts, chart)
            (result.true if verdict else result.false)[kind, code] += 1
            if not verdict:
                result.wrong.append(f"FALSE {kind} {make.__name__} “{code}”: {chart.sentence} — {case.name}")
    (result.kept if said else result.broken)[kind, case.main[0]] += 1
    if not said:
        result.wrong.append(f"UNSAID {kind} {case.main} — {case.name}")


def part(kind: str, numbers: range, seed: int) -> Result:
    """Return the result of some cases of a kind."""
    result = Result()
    for number in numbers:
        judged(kind, TAUGHT[kind](np.random.default_rng((seed, number, list(TAUGHT).index(kind)))), result)
    return result


def tried(count: int, seed: int, workers: int = 2) -> Result:
    """Return the result of so many cases of each kind."""
    result = Result()
    if workers < 2:
        for kind in TAUGHT:
            result.add(part(kind, range(count), seed))
        return result
    with ProcessPoolExecutor(workers) as pool:
        for one in pool.map(part, TAUGHT, [range(count)] * len(TAUGHT), [seed] * len(TAUGHT)):
            result.add(one)
    return result


def table(result: Result) -> str:
    """Return the result as a table, kind by kind."""
    lines = ["| kind | clauses | true | main fact said |", "|---|--:|--:|--:|"]
    for kind in TAUGHT:
        true, false, kept, broken = (
            sum(count for (of, _), count in found.items() if of == kind)
            for found in (result.true, result.false, result.kept, result.broken)
        )
        shares = (100.0 * true / max(1, true + false), 100.0 * kept / max(1, kept + broken))
        lines.append(f"| {kind} | {true + false} | {shares[0]:.1f} % | {shares[1]:.0f} % |")
    lines.append(f"| all | | {100.0 * result.truth_share:.2f} % | {100.0 * result.promise_share:.1f} % |")
    return "\n".join(lines)


def page(result: Result, count: int, seed: int) -> str:
    """Return docs/changes.md."""
    lines = [
        "# How true it is what is said of sounds that change",
        "",
        f"Of each kind {count} patches were built as lessons build them (`tests/truth/lessons.py`, seed {seed}). Which "
        "note sounds when is worked out from their parameters alone, and every clause about the pitch that the lenses "
        "sweep, spectrum and wave say of the whole phrase was held against it (`tests/truth/courses.py`). "
        "The main fact is the one that a teacher would point at. `.venv/bin/python -m tests.truth.courses` makes this "
        "page anew.",
        "",
        table(result),
    ]
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 50
    seed = int(sys.argv[2]) if len(sys.argv) > 2 else 11
    found = tried(count, seed)
    print("\n".join(found.wrong))
    if len(sys.argv) == 1:
        PAGE.write_text(page(found, count, seed))
    print(table(found))
