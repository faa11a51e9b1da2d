"""The spectrum lens in words."""

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from inner_tone.core.analysis import shape as shapes
from inner_tone.core.analysis.excerpt import Excerpt
from inner_tone.core.analysis.harmonics import Harmonics
from inner_tone.core.analysis.melody import Vibrato
from inner_tone.core.analysis.sentences.clause import Clause
from inner_tone.core.analysis.sentences.words import about, beating_clause, ordinal
from inner_tone.core.analysis.series import SIDE_HZ, dominant
from inner_tone.core.analysis.shape import Colour, Shape
from inner_tone.core.analysis.spectrum import Partial
from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.message import Listed, Message, Number, Pitch, Pitched, say
from inner_tone.core.units import decibels, midi_of

HIGH_ENOUGH_HZ = 10_000.0
COLOURS = {"white": 0.0, "pink": -3.0, "brown": -6.0, "blue": 3.0}
COLOUR_WITHIN_DB = 0.7
MOST_NAMED = 8
MOST_TONES = 4
MOST_MISSING = 4
SURELY_TONAL = 0.92
EVERY = 12  # the farthest apart that missing partials are looked for in even steps
HEARD_DB = -60.0  # below the strongest: what is fainter is not counted
CLEAR_DB = 10.0
JUDGED_DB = 18.0
HOLE_DB = 30.0
EDGE_DB = 6.0  # what lies on the edge of being heard counts with its neighbours
UNHEARD_DB = 30.0  # below the strongest: what noise could hide is at least so faint
EQUAL_DB = 0.3
BESIDE_DB = -30.0
HIGHEST_OVER_NOISE_HZ = 1500.0  # higher up, there is too little room between harmonics that are heard
NOISE_FROM, NOISE_TO = 1e-4, 0.6  # of the power: so much noise is told beneath a tone


def spectrum_clauses(seen: Excerpt, last_hz: float | None = None) -> list[Clause]:
    """Return what there is to say of partials: which, how they fall off, and where they end.

    `last_hz` is above which frequency a picture shows nothing.
    """
    if seen.is_silent:
        return [Clause("silence", say("say.silence-no-partial-is"))]
    if seen.slow_hz:
        return [slow_clause(seen)]
    if seen.is_driven:
        return driven_clauses(seen)
    if seen.is_noise:
        return noise_clauses(seen)
    if seen.fundamental_hz and not seen.has_pitch:
        return [Clause("cannot tell", say("say.cannot-tell-whether-there"))]
    found = series_clauses(seen, last_hz) if seen.fundamental_hz else other_clauses(seen)
    are_tones = any(clause.code == "unison" for clause in found)
    return [*found, *noise_under(seen), *beating_clause(seen.beating, are_tones)]


def driven_clauses(seen: Excerpt) -> list[Clause]:
    """Return what there is to say of a sound whose filter moves: its note, and that its partials do not stand still."""
    hertz = seen.note_hz or 0.0
    come_and_go = Clause("changing", say("say.its-partials-come-and"), {}, ": ")
    return [Clause("about", about(hertz), {"about_hz": hertz}), *vibrato_clause(seen.melody.vibrato), come_and_go]


def slow_clause(seen: Excerpt) -> Clause:
    """Return that a wave repeats too slowly for a pitch."""
    rate = seen.slow_hz or 0.0
    said = say("say.a-wave-that-comes", rate=Number(rate))
    return Clause("slow", said, {"repeats_hz": rate})


def series_clauses(seen: Excerpt, last_hz: float | None) -> list[Clause]:
    """Return what there is to say of a sound with a fundamental."""
    found, swing = seen.harmonics, seen.melody.vibrato
    if seen.is_on_its_way:
        return [Clause("moving", say("say.a-pitch-that-moves", around=Number(seen.fundamental_hz or 0.0, 2)))]
    fundamental = (seen.window.moving and seen.note_hz) or seen.fundamental_hz or 0.0
    pitch = Clause(
        "pitch", say("say.pitch", pitch=Pitch(fundamental)), {"pitch_hz": fundamental, "note": midi_of(fundamental)}
    )
    moved = vibrato_clause(swing)
    if seen.is_unison:
        return [pitch, *moved, unison_clause(seen)]
    if found is None:
        return [pitch, *moved, Clause("too short", say("say.too-short-for-partials"))]
    present, unclear = presence(found)
    if present.tolist() == [1]:
        return [pitch, *moved, single_clause(seen, fundamental)]
    which = which_clause(present, unclear)
    if present.size and present[0] != 1 and not unclear:
        pitch = Clause(
            "missing", say("say.which-itself-is-missing", pitch=pitch.said), {**pitch.facts, "missing": True}
        )
    shape = seen.shape
    cut = cut_clause(shape)
    return [pitch, *moved, which, *fall_clause(shape), *peak_clause(shape), *cut, *top_clause(last_hz, bool(cut))]


def vibrato_clause(swing: Vibrato | None) -> list[Clause]:
    """Return the vibrato, if there is one."""
    if swing is None:
        return []
    if swing.grows_cents is not None:
        return [growing_clause(swing, *swing.grows_cents)]
    if swing.rates_hz is not None:
        return [hurrying_clause(swing, *swing.rates_hz)]
    how = say("say.with-a-vibrato-of", rate=Number(swing.rate_hz))
    if swing.is_sure:
        how = say("say.cents", how=how, depth_cents=Number(swing.depth_cents, 2))
    facts = {"vibrato_hz": swing.rate_hz, "vibrato_cents": swing.depth_cents if swing.is_sure else None}
    return [Clause("vibrato", how, facts, " ")]


def growing_clause(swing: Vibrato, first_cents: float, last_cents: float) -> Clause:
    """Return a vibrato that grows or fades."""
    key = "say.vibrato-that-grows" if last_cents > first_cents else "say.vibrato-that-fades"
    how = say(key, rate=Number(swing.rate_hz), first_cents=Number(first_cents, 2), last_cents=Number(last_cents, 2))
    facts = {"vibrato_hz": swing.rate_hz, "vibrato_from_cents": first_cents, "vibrato_to_cents": last_cents}
    return Clause("growing vibrato", how, facts, " ")


def hurrying_clause(swing: Vibrato, first_hz: float, last_hz: float) -> Clause:
    """Return a vibrato that gets quicker or slower."""
    key = "say.vibrato-that-quickens" if last_hz > first_hz else "say.vibrato-that-slows"
    how = say(
        key, depth_cents=Number(swing.depth_cents, 2), first_rate=Number(first_hz, 2), last_rate=Number(last_hz, 2)
    )
    facts = {"vibrato_from_hz": first_hz, "vibrato_to_hz": last_hz, "vibrato_cents": swing.depth_cents}
    return Clause("changing rate", how, facts, " ")


def unison_clause(seen: Excerpt) -> Clause:
    """Return that several tones nearly agree, and by how much, where their first partials can be told apart."""
    fundamental = seen.fundamental_hz or 0.0
    firsts = [one for one in seen.sinusoids if abs(one.frequency_hz - fundamental) < 0.02 * fundamental]
    if len(firsts) > 1 and {one.number for one in seen.partials} <= {0, 1}:
        apart = firsts[-1].frequency_hz - firsts[0].frequency_hz
        said = say("say.several-tones-within", count=len(firsts), apart=Number(apart, 2))
        return Clause("unison", said, {"tones": len(firsts), "apart_hz": apart}, ": ")
    return Clause("unison", say("say.several-tones-that-nearly"), {"apart_hz": None}, ": ")


def single_clause(seen: Excerpt, fundamental_hz: float) -> Clause:
    """Return a sine, or what lies so near beside it that together they are one partial."""
    near = [one for one in seen.parted if abs(one.frequency_hz - fundamental_hz) < SIDE_HZ]
    top = max((one.level_db for one in near), default=0.0)
    near = [one for one in near if one.level_db > top + BESIDE_DB]
    if len(near) == 2:
        apart = near[1].frequency_hz - near[0].frequency_hz
        said = say("say.two-tones-within", apart=Number(apart, 2))
        return Clause("unison", said, {"tones": 2, "apart_hz": apart}, ": ")
    single = say("say.a-sine-whose-level") if len(near) > 2 or seen.beating else say("say.a-single-partial-a")
    return Clause("sine", single, {"partials": [1]}, ": ")


def presence(found: Harmonics) -> tuple[Ints, bool]:
    """Return the numbers of the harmonics that are there, and whether noise hides whether others are.

    There is what stands out of the noise, is not weaker than 60 dB below the strongest, and no hole in the outline.
    """
    levels, floors, top = found.levels_db, found.floors_db, found.strongest_db
    numbers = np.arange(1, len(levels) + 1)
    heard = (levels > top + HEARD_DB) & (levels > floors + CLEAR_DB)
    judged = heard & (np.maximum(outline_of(levels), levels) > floors + JUDGED_DB)
    last = int(numbers[judged][-1]) if np.any(judged) else 0
    if last == 0:
        return numbers[:0], True
    levels, floors = levels[:last], floors[:last]
    outline = outline_of(levels)
    hole = levels < outline - HOLE_DB
    heard = (levels > top + HEARD_DB - EDGE_DB) & (levels > floors + 0.5 * CLEAR_DB)
    hidden = ~heard & (floors > np.maximum(top, outline) - CLEAR_DB - UNHEARD_DB)
    return np.asarray(numbers[:last][heard & ~hole]), bool(np.any(hidden))


def outline_of(levels: Floats) -> Floats:
    """Return for each harmonic the weaker one of the strongest within three on either side."""
    padded = np.pad(levels, 3, mode="edge")
    before = np.max([padded[n : n + len(levels)] for n in range(3)], axis=0)
    after = np.max([padded[n : n + len(levels)] for n in range(4, 7)], axis=0)
    return np.asarray(np.minimum(before, after))


def which_clause(present: Ints, unclear: bool) -> Clause:
    """Return which partials there are."""
    found = [int(number) for number in present]
    said = which_text(found) if not unclear else say("say.a-harmonic-series-as")
    code = "which" if not unclear else "harmonic"
    return Clause(code, said, {"partials": found[:64]}, ": ")


def which_text(found: list[int]) -> Message:
    """Return which numbers of a harmonic series are there."""
    last = found[-1]
    missing = sorted({*range(1, last + 1)} - {*found})
    if not missing:
        return say("say.all-partials")
    if 1 in found and missing == list(range(2, last, 2)):
        return say("say.odd-partials-only")
    for step in range(3, EVERY + 1):
        if missing == list(range(step, last + 1, step)):
            return say("say.all-partials-but-every", step=ordinal(step))
    if len(missing) <= MOST_MISSING and len(found) > len(missing) and missing != list(range(1, len(missing) + 1)):
        return say("say.all-partials-but", missing=Listed(missing))
    if len(found) <= MOST_NAMED:
        return (
            say("say.partials-only", found=Listed(found))
            if len(found) > 1
            else say("say.partial-only", found=Listed(found))
        )
    if missing == list(range(1, found[0])):
        return say("say.all-partials-from-to", found=found[0], last=last)
    return say(
        "say.partials-of-the-first", few=", ".join(map(str, found[: MOST_NAMED - 1])), found=len(found), last=last
    )


def fall_clause(shape: Shape) -> list[Clause]:
    """Return how many dB per octave the partials fall, where a straight line says it well."""
    if shape.slope_db is None:
        return []
    if abs(shape.slope_db) < EQUAL_DB:
        return [Clause("fall", say("say.all-equally-strong"), {"fall_db": 0.0}, ", ")]
    return [Clause("fall", moving(-shape.slope_db), {"fall_db": shape.slope_db}, ", ")]


def peak_clause(shape: Shape) -> list[Clause]:
    """Return where a resonance lifts the partials, and how far."""
    peak = shape.peak
    if peak is None:
        return []
    text = say("say.lifted-by-db-around", height=Number(peak.height_db, 2), frequency=Number(peak.frequency_hz, 2))
    return [Clause("peak", text, {"peak_db": peak.height_db, "peak_hz": peak.frequency_hz})]


def cut_clause(shape: Shape) -> list[Clause]:
    """Return where a filter cuts the partials off."""
    cut = shape.cut
    if cut is None:
        return []
    text = say("say.cut-off-above-hz", frequency=Number(cut.frequency_hz, 2))
    if cut.slope_db:
        steeply = round(cut.slope_db)
        text = say("say.by-db-per-octave", text=text, steeply=Number(steeply))
    return [Clause("cut", text, {"cut_hz": cut.frequency_hz, "cut_db": cut.slope_db})]


def top_clause(last_hz: float | None, is_cut: bool) -> list[Clause]:
    """Return above which frequency the picture shows nothing, where that says more than has been said."""
    if last_hz is None or is_cut or last_hz > HIGH_ENOUGH_HZ:
        return []
    return [Clause("top", say("say.nothing-above-hz", last=Number(last_hz, 2)), {"top_hz": last_hz})]


def last_hz(frequencies_hz: Floats, levels_db: Floats, floor_db: float) -> float | None:
    """Return above which frequency a picture that begins at a floor in dB shows nothing."""
    shown = np.flatnonzero(levels_db > floor_db)
    return float(frequencies_hz[shown[-1]]) if len(shown) else None


def other_clauses(seen: Excerpt) -> list[Clause]:
    """Return what there is to say of partials without one common fundamental."""
    found = seen.series
    if found.notes_hz and seen.is_tonal:
        return [notes_clause(found.notes_hz)]
    tones = dominant(seen.sinusoids)
    if not tones:
        return [Clause("cannot tell", say("say.cannot-tell-what-it"))]
    loudest = max(tones, key=lambda one: one.level_db)
    facts = {"strongest_hz": loudest.frequency_hz, "tones_hz": [one.frequency_hz for one in tones]}
    # noise between the partials hides some of a series and adds others, so that nothing can be said of it
    if not seen.is_tonal or (len(tones) > MOST_TONES and seen.tonal_share < SURELY_TONAL):
        said = say("say.tones-and-noise-together", frequency=Pitch(loudest.frequency_hz))
        return [Clause("tones in noise", said, facts)]
    if len(tones) <= MOST_TONES:
        return [few_tones(tones, facts)]
    if found.row is None:
        said = say("say.partials-that-form-no", tones=len(tones), frequency=Pitch(loudest.frequency_hz))
        return [Clause("inharmonic", said, facts)]
    said = say(
        "say.partials-that-lie-hz",
        tones=len(tones),
        step=Number(found.row.step_hz, 4),
        frequency=Pitch(loudest.frequency_hz),
    )
    return [Clause("inharmonic", said, {**facts, "apart_hz": found.row.step_hz})]


def few_tones(tones: Sequence[Partial], facts: Mapping[str, Any]) -> Clause:
    """Return a few tones by name."""
    names = [Pitch(one.frequency_hz) for one in tones]
    if len(names) == 1:
        return Clause("tone", say("say.one-tone-at", frequency=Pitch(tones[0].frequency_hz)), facts)
    return Clause("tones", say(f"say.tones.{len(names)}", tones=Listed(names)), facts)


def notes_clause(notes_hz: tuple[float, ...]) -> Clause:
    """Return the notes that sound together."""
    notes = Listed([Pitched(midi_of(one)) for one in notes_hz])
    return Clause("notes", say(f"say.notes.{len(notes_hz)}", notes=notes), {"notes_hz": list(notes_hz)})


def noise_under(seen: Excerpt) -> list[Clause]:
    """Return how far below the tone noise lies, where there is enough of it to be heard."""
    share = 1.0 - seen.tonal_share
    is_clear = (
        seen.harmonics.sharp and seen.harmonics.roomy
        if seen.harmonics is not None
        else len(seen.sinusoids) <= MOST_TONES
    )
    if not is_clear:
        return []
    if (
        seen.melody.glides
        or seen.is_changing
        or (seen.fundamental_hz or 0.0) > HIGHEST_OVER_NOISE_HZ
        or seen.window.moving
        or seen.is_unison
        or seen.is_blurred
        or seen.beating
        or not NOISE_FROM < share < NOISE_TO
    ):
        return []
    below = -10.0 * float(np.log10(share / (1.0 - share)))
    return [Clause("noise", say("say.noise-db-below", below=Number(below, 2)), {"noise_below_db": below})]


def noise_clauses(seen: Excerpt) -> list[Clause]:
    """Return what there is to say of a noise: its colour, or where it is strongest."""
    if len(seen.passage) * shapes.NOISE_LOW_HZ < seen.rate:
        return [Clause("too short", say("say.too-short-for-a-pitch"))]
    level = decibels(float(np.sqrt(np.mean(seen.passage**2))))
    return [noise_clause(shapes.colour_of(seen.passage, seen.rate), level)]


def noise_clause(colour: Colour, level_db: float) -> Clause:
    """Return a noise by its colour, if it has one of those that have names."""
    facts = {"noise_db": level_db, "noise_slope_db": colour.slope_db, "strongest_hz": colour.strongest_hz}
    if colour.slope_db is None:
        said = say("say.noise-around", level=Number(level_db, 2), strongest=Number(colour.strongest_hz, 2))
        return Clause("noise only", said, facts)
    for name, slope in COLOURS.items():
        if abs(colour.slope_db - slope) < COLOUR_WITHIN_DB:
            even = moving(slope) if slope else say("say.as-strong-at-every")
            said = say(f"say.noise.{name}", level=Number(level_db, 2), even=even)
            return Clause("noise only", said, {**facts, "colour": name})
    said = say("say.noise-sloping", level=Number(level_db, 2), moving=moving(colour.slope_db))
    return Clause("noise only", said, facts)


def moving(slope_db: float) -> Message:
    """Return which way and how far levels go per octave."""
    much = Number(abs(slope_db), 2)
    return say("say.rising-db-per-octave", much=much) if slope_db > 0 else say("say.falling-db-per-octave", much=much)
