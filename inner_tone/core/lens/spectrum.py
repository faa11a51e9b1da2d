"""The spectrum lens: level against frequency, partials with their numbers, a table of them, and the theory."""

from collections.abc import Sequence

import numpy as np

from inner_tone.core.analysis import shape
from inner_tone.core.analysis import spectrum as analysis
from inner_tone.core.analysis.sentences.words import note_text
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.analysis.spectrum import Partial
from inner_tone.core.lens.chart import Axis, Chart, Mark, Panel, Role, Table, Trace, rounded
from inner_tone.core.lens.source import Against, Source, heard
from inner_tone.core.lens.view import SpectrumView
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.modules.theory import ResponseTheory
from inner_tone.core.units import MINUS, trimmed

TOP_DB = 6.0
SAME_CENTS = 30.0
LEAST_TOLD_DB = 1.0
AUDIBLE_DB = 36.0
SERIES = {"saw": 6.0, "square": 6.0, "triangle": 12.0}


def chart(view: SpectrumView, source: Source, against: Against | None) -> Chart:
    """Return the spectrum lens's chart."""
    first = view.taps[0]
    lines = [curve(view, heard(source, tap), "this", source.words(tap), n) for n, tap in enumerate(view.taps)]
    legend = against.legend if against else ""
    behind = [(n, against.sound(tap, first)) for n, tap in enumerate(view.taps)] if against else []
    back = [curve(view, sound, "compared", legend, n) for n, sound in behind if sound]
    sound, other = heard(source, first), against.sound(first, first) if against else None
    partials = partials_of(view, sound)
    others = partials_of(view, other) if other else ()
    ideal = theory_of(view, source, partials) if view.theory else []
    return Chart(
        kind="spectrum",
        taps=list(view.taps),
        x=Axis(label="Frequency", unit="Hz", low=view.low_hz, high=view.high_hz, log=view.log),
        panels=[
            Panel(
                title="",
                y=Axis(label="Level", unit="dB", low=view.floor_db, high=TOP_DB),
                traces=[*back, *lines, *ideal],
                marks=[mark(one) for one in partials if view.low_hz <= one.frequency_hz <= view.high_hz],
                shaded=len(lines) == 1 and len(back) == 1,
            )
        ],
        sentence=sound.say_partials(),
        difference=difference(partials, others, legend) if other else "",
        table=table(partials, others if other else None, legend),
    )


def curve(view: SpectrumView, sound: Sound, role: Role, legend: str, order: int) -> Trace:
    """Return a sound's spectrum as a line."""
    bins = bins_of(view, sound)
    if view.smooth:
        bins = analysis.smoothed(bins, view.smooth)
    frequencies, levels = analysis.drawn(bins, sound.rate, view.low_hz, view.high_hz, log=view.log)
    return Trace(role=role, legend=legend, xs=rounded(frequencies, 3), ys=[*rounded(levels, 2)], order=order)


def bins_of(view: SpectrumView, sound: Sound) -> Floats:
    """Return the levels of the bins that a view asks for."""
    size = analysis.window_size(sound.rate)
    if view.over != "passage":
        return analysis.averaged(sound.signal, size, view.over, view.window)
    start = place_of(view, sound)
    return analysis.levels(sound.signal[start : start + size], size, view.window)


def place_of(view: SpectrumView, sound: Sound) -> int:
    """Return the first sample of the passage that is looked at."""
    return sound.start if view.at_s is None else min(round(view.at_s * sound.rate), max(0, len(sound.signal) - 1))


def partials_of(view: SpectrumView, sound: Sound) -> tuple[Partial, ...]:
    """Return the partials of the passage that is looked at."""
    if view.at_s is None:
        return () if sound.is_noise else sound.partials
    start = place_of(view, sound)
    passage = sound.signal[start : start + round(analysis.WINDOW_SECONDS * sound.rate)]
    found = analysis.partials_of(passage, sound.rate, sound.rough_hz)
    return () if shape.tonal_share(passage, found) < 0.5 else found


def mark(one: Partial) -> Mark:
    """Return a partial as a mark."""
    number = f"partial {one.number}" if one.number else "partial"
    words = f"{number}: {trimmed(one.frequency_hz, 5)} Hz, {note_text(one.midi)}, {trimmed(one.level_db, 3)} dB"
    text = str(one.number) if one.number else ""
    return Mark(kind="partial", x=round(one.frequency_hz, 4), y=round(one.level_db, 3), text=text, words=words)


def theory_of(view: SpectrumView, source: Source, partials: tuple[Partial, ...]) -> list[Trace]:
    """Return what theory has to say of a tap: the response of a filter, or the ideal series of an oscillator's wave."""
    module = source.module(view.taps[0])
    if module is None:
        return []
    spaced = np.geomspace if view.log else np.linspace
    theory = module.declaration.theory
    if isinstance(theory, ResponseTheory):
        frequencies = spaced(view.low_hz, min(view.high_hz, 20_000.0), 300)
        gains = theory.response(module.all_settings, frequencies, heard(source, view.taps[0]).rate)
        levels = np.asarray(20.0 * np.log10(np.maximum(np.abs(gains), 1e-7)))
        return [Trace(role="theory", legend="theory", xs=rounded(frequencies, 3), ys=[*rounded(levels, 2)])]
    wave = str(module.all_settings.get("wave", ""))
    ones = [one for one in partials if one.number == 1]
    if wave in SERIES and ones:
        numbers = np.arange(1, int(view.high_hz / ones[0].frequency_hz) + 1)
        xs = numbers * ones[0].frequency_hz
        levels = np.asarray(ones[0].level_db - SERIES[wave] * np.log2(numbers))
        legend = f"ideal {wave}"
        return [Trace(role="theory", legend=legend, xs=rounded(np.asarray(xs), 3), ys=[*rounded(levels, 2)])]
    return []


def paired(partials: tuple[Partial, ...], others: tuple[Partial, ...]) -> list[tuple[Partial, Partial | None]]:
    """Return each partial with the one of another sound that has its number, or else its frequency."""
    return [(one, counterpart(one, others)) for one in partials]


def counterpart(one: Partial, others: tuple[Partial, ...]) -> Partial | None:
    """Return the partial of another sound that has the number of one, or else its frequency."""
    same = [other for other in others if one.number and other.number == one.number]
    near = [other for other in others if 100.0 * abs(other.midi - one.midi) < SAME_CENTS]
    return next(iter(same or near), None)


def difference(partials: tuple[Partial, ...], others: tuple[Partial, ...], legend: str) -> str:
    """Return which partials differ most from those of another sound, which are new and which have gone."""
    if not partials and not others:
        return ""
    pairs = paired(partials, others)
    audible = max(one.level_db for one in (*partials, *others)) - AUDIBLE_DB
    heard = [(one, other) for one, other in pairs if other and max(one.level_db, other.level_db) > audible]
    changed = [(one, one.level_db - other.level_db) for one, other in heard]
    weaker = [pair for pair in changed if pair[1] <= -LEAST_TOLD_DB]
    stronger = [pair for pair in changed if pair[1] >= LEAST_TOLD_DB]
    gone = [other for other in others if counterpart(other, partials) is None]
    new = [one for one, other in pairs if other is None]
    parts = [f"{counted(weaker)} weaker, {most(weaker)}"] if weaker else []
    parts += [f"{counted(stronger)} stronger, {most(stronger)}"] if stronger else []
    parts += [f"{counted(gone)} gone, from {trimmed(gone[0].frequency_hz)} Hz on"] if gone else []
    parts += [f"{len(new)} new, from {trimmed(new[0].frequency_hz)} Hz on"] if new else []
    return f"Against {legend}: {'; '.join(parts)}." if parts else f"Against {legend}: no partial differs by a dB."


def most(changed: list[tuple[Partial, float]]) -> str:
    """Return which of the partials that changed has changed most, and by how much."""
    one, by = max(changed, key=lambda pair: abs(pair[1]))
    if len(changed) == 1:
        return f"by {trimmed(abs(by), 2)} dB, at {trimmed(one.frequency_hz)} Hz"
    return f"by up to {trimmed(abs(by), 2)} dB, at {trimmed(one.frequency_hz)} Hz"


def counted(partials: Sequence[object]) -> str:
    """Return how many partials there are."""
    return f"{len(partials)} partial{'' if len(partials) == 1 else 's'}"


def table(partials: tuple[Partial, ...], others: tuple[Partial, ...] | None, legend: str) -> Table:
    """Return the harmonic table: number, frequency, note, level, and what differs."""
    columns = ["Partial", "Hz", "Note", "dB"] + ([f"against {legend}"] if others is not None else [])
    rows = []
    for one, other in paired(partials, others or ()):
        row = [
            str(one.number or "–"),
            trimmed(one.frequency_hz, 6),
            note_text(one.midi),
            f"{one.level_db:.1f}".replace("-", "−"),
        ]
        if others is not None:
            row.append(f"{one.level_db - other.level_db:+.1f}".replace("-", "−") if other else "new")
        rows.append([cell.replace("-", MINUS) for cell in row])
    return Table(columns=columns, rows=rows)
