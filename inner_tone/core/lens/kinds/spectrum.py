"""The spectrum lens: level against frequency, partials with their numbers, a table of them, and the theory."""

from collections.abc import Mapping, Sequence
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from inner_tone.core.analysis import spectrum as analysis
from inner_tone.core.analysis.excerpt import Excerpt
from inner_tone.core.analysis.sentences.clause import Clause
from inner_tone.core.analysis.sentences.spectrum import last_hz, spectrum_clauses
from inner_tone.core.analysis.sentences.words import note_text, pitch_text
from inner_tone.core.analysis.spectrum import Over, Partial, Window
from inner_tone.core.arrays import Floats
from inner_tone.core.lens.chart import Axis, Chart, Mark, Panel, Role, Table, Trace, rounded
from inner_tone.core.lens.lens import SPAN_FORM, Lens, Options, switch
from inner_tone.core.lens.source import Against, Source, excerpt, heard
from inner_tone.core.lens.telling import seen_of, told
from inner_tone.core.lens.view import Floor, Spanned, Taps
from inner_tone.core.modules.theory import ResponseTheory
from inner_tone.core.units import MINUS, midi_of, trimmed

TOP_DB = 6.0
SAME_CENTS = 30.0
LEAST_TOLD_DB = 1.0
AUDIBLE_DB = 36.0
GONE_DB = 30.0
SERIES = {"saw": 6.0, "square": 6.0, "triangle": 12.0}


class SpectrumView(Spanned):
    """Level against frequency: of the passage that says most, or over the whole moment."""

    kind: Literal["spectrum"] = "spectrum"
    taps: Taps
    floor_db: Floor = -84.0
    window: Window = "blackman-harris"
    over: Over = "passage"
    smooth: Annotated[int, Field(ge=0, le=48, description="The mean over 1/n of an octave; 0 for none.")] = 0
    theory: bool = False


def chart(view: SpectrumView, source: Source, against: Against | None) -> Chart:
    """Return the spectrum lens's chart."""
    first = view.taps[0]
    lines = [curve(view, excerpt(source, tap), "this", source.words(tap), n) for n, tap in enumerate(view.taps)]
    legend = against.legend if against else ""
    behind = [behind_of(source, against, tap, first) if against else None for tap in view.taps]
    back = [curve(view, sound, "compared", legend, n) for n, sound in enumerate(behind) if sound]
    seen, other = excerpt(source, first), behind[0]
    partials, others = tones(seen), tones(other) if other else ()
    ideal = theory_of(view, source, partials) if view.theory else []
    said, facts = told(source, view.taps, lambda tap: clauses_of(view, excerpt(source, tap)))
    return Chart(
        kind="spectrum",
        taps=list(view.taps),
        x=Axis(label="Frequency", unit="Hz", low=view.low_hz, high=view.high_hz, log=view.log),
        panels=[
            Panel(
                title="",
                y=Axis(label="Level", unit="dB", low=view.floor_db, high=TOP_DB),
                traces=[*back, *lines, *ideal],
                marks=[one for one in marks_of(seen, partials) if view.low_hz <= one.x <= view.high_hz],
                shaded=len(lines) == 1 and len(back) == 1,
            )
        ],
        sentence=said,
        difference=difference(seen, other, legend) if other else "",
        table=table(partials, others if other else None, legend, notes_in(seen)),
        facts=facts,
        seen=seen_of(source, first, seen),
    )


def behind_of(source: Source, against: Against, tap: str, first: str) -> Excerpt | None:
    """Return what stands behind a tap, in the same passage as the tap itself, if there is such a tap."""
    found = against.excerpt(tap, first)
    return found.beside(excerpt(source, tap)) if found else None


def clauses_of(view: SpectrumView, seen: Excerpt) -> list[Clause]:
    """Return what there is to say of a sound as the picture shows it."""
    bins = bins_of(view, seen)
    drawn = analysis.drawn(bins, seen.rate, analysis.LOWEST_HZ, analysis.HIGHEST_HZ)
    return spectrum_clauses(seen, last_hz(*drawn, view.floor_db))


def curve(view: SpectrumView, seen: Excerpt, role: Role, legend: str, order: int) -> Trace:
    """Return a sound's spectrum as a line."""
    bins = bins_of(view, seen)
    if view.smooth:
        bins = analysis.smoothed(bins, view.smooth)
    frequencies, levels = analysis.drawn(bins, seen.rate, view.low_hz, view.high_hz, log=view.log)
    return Trace(role=role, legend=legend, xs=rounded(frequencies, 3), ys=[*rounded(levels, 2)], order=order)


def bins_of(view: SpectrumView, seen: Excerpt) -> Floats:
    """Return the levels of the bins that a view asks for: of the passage that the sentence is about, or of all."""
    if view.over != "passage":
        return analysis.averaged(seen.signal, analysis.window_size(seen.rate), view.over, view.window)
    return analysis.levels(seen.passage, analysis.size_for(len(seen.passage)), view.window)


def tones(seen: Excerpt) -> tuple[Partial, ...]:
    """Return the partials of a sound that is more than noise."""
    return () if seen.is_silent or seen.is_noise or seen.slow_hz else seen.partials


def notes_in(seen: Excerpt) -> dict[str, tuple[Partial, ...]]:
    """Return the partials of each of several notes that sound together, by its name; none where there are not."""
    found = seen.series.notes_hz if seen.is_tonal else ()
    return {
        note_text(midi_of(hertz)): tuple(
            one for one in analysis.numbered(seen.sinusoids, hertz, seen.exactness.of) if one.number
        )
        for hertz in found
    }


def marks_of(seen: Excerpt, partials: tuple[Partial, ...]) -> list[Mark]:
    """Return the partials as marks: of several notes, those of each under its name."""
    notes = notes_in(seen)
    if not notes:
        return [mark(one) for one in partials]
    return [mark(one, name) for name, those in notes.items() for one in those]


def mark(one: Partial, of: str = "") -> Mark:
    """Return a partial as a mark; of one of several notes, if that is named."""
    number = f"partial {one.number}" if one.number else "partial"
    number += f" of {of}" if of else ""
    words = f"{number}: {trimmed(one.frequency_hz, 5)} Hz, {note_text(one.midi)}, {trimmed(one.level_db, 3)} dB"
    text = str(one.number) if one.number else ""
    return Mark(kind="partial", x=round(one.frequency_hz, 4), y=round(one.level_db, 3), text=text, words=words, of=of)


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
    wave = str(module.all_settings.get(module.declaration.named("wave"), ""))
    ones = [one for one in partials if one.number == 1]
    if wave in SERIES and ones:
        numbers = np.arange(1, int(view.high_hz / ones[0].frequency_hz) + 1)
        xs = numbers * ones[0].frequency_hz
        levels = np.asarray(ones[0].level_db - SERIES[wave] * np.log2(numbers))
        legend = f"ideal {wave}"
        return [Trace(role="theory", legend=legend, xs=rounded(np.asarray(xs), 3), ys=[*rounded(levels, 2)])]
    return []


def paired(partials: tuple[Partial, ...], others: tuple[Partial, ...]) -> list[tuple[Partial, Partial | None]]:
    """Return each partial with the one of another sound that has its frequency."""
    return [(one, counterpart(one, others)) for one in partials]


def counterpart(one: Partial, others: tuple[Partial, ...]) -> Partial | None:
    """Return the nearest partial of another sound that has the frequency of one."""
    near = [other for other in others if 100.0 * abs(other.midi - one.midi) < SAME_CENTS]
    return min(near, key=lambda other: abs(other.midi - one.midi), default=None)


def difference(seen: Excerpt, other: Excerpt, legend: str) -> str:
    """Return which partials differ most from those of another sound, which are new and which have gone.

    What the other side has too faintly to be named is no new partial, nor is it gone when it is faint here.
    """
    partials, others = tones(seen), tones(other)
    if not partials and not others:
        return ""
    pitch, before = seen.fundamental_hz, other.fundamental_hz
    if pitch and before and partials and others and 1200.0 * abs(np.log2(pitch / before)) > SAME_CENTS:
        return f"Against {legend}: {pitch_text(pitch)} instead of {pitch_text(before)}."
    audible = max(one.level_db for one in (*partials, *others)) - AUDIBLE_DB
    changed = [(one, change(one, counterpart(one, others), other)) for one in partials]
    lost = [(one, level_at(seen, one.frequency_hz) - one.level_db) for one in others if not counterpart(one, partials)]
    heard = [pair for pair in changed if max(pair[0].level_db, pair[0].level_db - pair[1]) > audible]
    gone = [one for one, by in lost if by < -GONE_DB and one.level_db > audible]
    new = [one for one, by in heard if by > GONE_DB]
    weaker = [pair for pair in heard if pair[1] <= -LEAST_TOLD_DB]
    stronger = [pair for pair in heard if LEAST_TOLD_DB <= pair[1] <= GONE_DB]
    parts = [f"{counted(weaker)} weaker, {most(weaker)}"] if weaker else []
    parts += [f"{counted(stronger)} stronger, {most(stronger)}"] if stronger else []
    parts += [f"{counted(gone)} gone, from {trimmed(gone[0].frequency_hz)} Hz on"] if gone else []
    parts += [f"{len(new)} new, from {trimmed(new[0].frequency_hz)} Hz on"] if new else []
    return f"Against {legend}: {'; '.join(parts)}." if parts else f"Against {legend}: no partial differs by a dB."


def change(one: Partial, before: Partial | None, other: Excerpt) -> float:
    """Return by how many dB a partial is stronger than in another sound."""
    return one.level_db - (before.level_db if before else level_at(other, one.frequency_hz))


def level_at(seen: Excerpt, frequency_hz: float) -> float:
    """Return the level of a sound around a frequency, in dB, whether or not there is a partial."""
    if len(seen.straight) == 0:
        return analysis.FLOOR_DB
    size = analysis.size_for(len(seen.straight))
    bins = analysis.levels(seen.straight, size)
    middle = frequency_hz * size / seen.rate
    return float(np.max(bins[max(0, int(middle) - 2) : int(middle) + 4], initial=analysis.FLOOR_DB))


def most(changed: list[tuple[Partial, float]]) -> str:
    """Return which of the partials that changed has changed most, and by how much."""
    one, by = max(changed, key=lambda pair: abs(pair[1]))
    if len(changed) == 1:
        return f"by {trimmed(abs(by), 2)} dB, at {trimmed(one.frequency_hz)} Hz"
    return f"by up to {trimmed(abs(by), 2)} dB, at {trimmed(one.frequency_hz)} Hz"


def counted(partials: Sequence[object]) -> str:
    """Return how many partials there are."""
    return f"{len(partials)} partial{'' if len(partials) == 1 else 's'}"


def table(
    partials: tuple[Partial, ...],
    others: tuple[Partial, ...] | None,
    legend: str,
    notes: Mapping[str, tuple[Partial, ...]],
) -> Table:
    """Return the harmonic table: number, of which note if there are several, frequency, note, level, what differs."""
    owners: dict[float, list[str]] = {}
    for name, those in notes.items():
        for one in those:
            owners.setdefault(one.frequency_hz, []).append(f"{one.number} of {name}")
    columns = ["Partial", "Hz", "Note", "dB"] + ([f"against {legend}"] if others is not None else [])
    rows = []
    for one, other in paired(partials, others or ()):
        row = [
            ", ".join(owners.get(one.frequency_hz, [])) or str(one.number or "–"),
            trimmed(one.frequency_hz, 6),
            note_text(one.midi),
            f"{one.level_db:.1f}".replace("-", "−"),
        ]
        if others is not None:
            row.append(f"{one.level_db - other.level_db:+.1f}".replace("-", "−") if other else "new")
        rows.append([cell.replace("-", MINUS) for cell in row])
    return Table(columns=columns, rows=rows)


LENS = Lens(
    place=2,
    title="Spectrum",
    view=SpectrumView,
    chart=chart,
    form=(
        *SPAN_FORM,
        Options(
            "over",
            "of",
            (("passage", "the passage that says most"), ("mean", "mean of all"), ("peak", "peaks held")),
        ),
        Options(
            "window",
            "window",
            (
                ("blackman-harris", "Blackman-Harris"),
                ("hann", "Hann"),
                ("hamming", "Hamming"),
                ("flat-top", "flat-top"),
                ("rectangular", "rectangular"),
            ),
        ),
        Options("smooth", "smoothed", ((0, "not"), (12, "1/12"), (6, "1/6"), (3, "1/3")), "octave"),
        switch("theory", "theory"),
    ),
    heard=True,
)
