"""The sweep lens in words: what moves."""

from itertools import pairwise

from inner_tone.core.analysis.brightness import Brightness
from inner_tone.core.analysis.excerpt import Excerpt
from inner_tone.core.analysis.melody import Held
from inner_tone.core.analysis.sentences.clause import Clause
from inner_tone.core.analysis.sentences.spectrum import vibrato_clause
from inner_tone.core.analysis.sentences.words import listed, note_text, time_text
from inner_tone.core.units import note_name, trimmed

UNSEEN_S = 0.12
MOST_NAMED = 6
SAME_ST = 0.5
LEAST_SHARE = 0.2  # of the time there must be a pitch, to speak of one


def sweep_clauses(seen: Excerpt, brightness: Brightness | None) -> list[Clause]:
    """Return what pitch and brightness do over time."""
    if seen.is_silent or brightness is None:
        return [Clause("silence", "Silence: nothing moves")]
    return [*pitch_clauses(seen), brightness_clause(brightness)]


def pitch_clauses(seen: Excerpt) -> list[Clause]:
    """Return what the pitch does, where there is one that is sure."""
    found = seen.melody
    if seen.is_driven and not found.vibrato and not found.glides:
        return [notes_clause(seen.sure_notes)]
    if seen.has_pitch and not seen.window.moving and not found.held and not found.vibrato:
        low, high = seen.span
        return [notes_clause(seen.sure_notes) if high - low < SAME_ST else brief_clause(low, high)]
    if found.share < LEAST_SHARE or not (found.held or found.vibrato):
        if seen.slow_hz or not seen.has_pitch or found.share < LEAST_SHARE:
            return [Clause("no pitch", "No pitch that can be followed")]
        return [Clause("moving", "A pitch that neither stays nor settles", {})]
    if not seen.has_pitch:
        if seen.series.notes_hz:
            return [Clause("several", f"{len(seen.series.notes_hz)} notes at once, no one pitch to follow", {})]
        return [Clause("no pitch", "No one pitch that can be followed")]
    if found.vibrato:
        middle = seen.told(found.vibrato.note)
        note = Clause("note", note_text(middle), {"note": middle})
        return [note, *vibrato_clause(found.vibrato)]
    if found.glides:
        return [glide_clause(seen)]
    return [notes_clause(seen.sure_notes)]


def brief_clause(low: float, high: float) -> Clause:
    """Return between which notes a pitch is that never stays long enough to be told."""
    text = f"Pitches between {note_name(low)} and {note_name(high)}, each too brief to be told"
    return Clause("brief", text, {"lowest_note": low, "highest_note": high})


def glide_clause(seen: Excerpt) -> Clause:
    """Return the widest glide, and how many there are."""
    glides, held = seen.melody.glides, seen.melody.held
    widest = max(glides, key=lambda one: abs(one.to_note - one.from_note))
    first, last = seen.told(widest.from_note), seen.told(widest.to_note)
    text = f"Glides from {note_text(first)} to {note_text(last)} in {time_text(widest.seconds)}"
    facts = {"glide_s": widest.seconds, "from_note": first, "to_note": last}
    if len(glides) > 1:
        text = f"{len(glides)} glides, the widest from {text.removeprefix('Glides from ')}"
    return Clause("glide", text, {**facts, "glides": len(glides), "notes": [seen.told(one.note) for one in held]})


def notes_clause(held: tuple[Held, ...]) -> Clause:
    """Return the notes that are held one after the other."""
    notes = [held[0].note]
    notes += [late.note for early, late in pairwise(held) if abs(late.note - early.note) > SAME_ST]
    facts = {"notes": notes}
    if len(notes) == 1:
        return Clause("note", f"{note_text(notes[0])} throughout", facts)
    names = [note_text(one) for one in notes]
    if len(names) <= MOST_NAMED:
        return Clause("notes", f"{listed(names)}, one after the other", facts)
    low, high = min(notes), max(notes)
    # one that is too short to be held may have come in between
    missed = any(late.begin_s - early.end_s > UNSEEN_S for early, late in pairwise(held))
    count = f"{'At least ' if missed else ''}{len(names)} notes"
    return Clause("notes", f"{count} between {note_text(low)} and {note_text(high)}", facts)


def brightness_clause(found: Brightness) -> Clause:
    """Return what the brightness does."""
    low, high = found.low_hz, found.high_hz
    facts = {"brightness": found.kind, "brightness_low_hz": low, "brightness_high_hz": high}
    span = f"its middle between {trimmed(low, 2)} and {trimmed(high, 2)} Hz"
    if found.kind == "stays":
        return Clause("brightness", f"its brightness stays, its middle at {trimmed((low * high) ** 0.5, 2)} Hz", facts)
    if found.kind == "swings":
        rate = f"{trimmed(found.rate_hz)} times a second"
        return Clause("brightness", f"its brightness swings {rate}, {span}", {**facts, "brightness_hz": found.rate_hz})
    if found.kind == "moves":
        return Clause("brightness", f"its brightness moves, {span}", facts)
    first, last = (low, high) if found.kind == "rises" else (high, low)
    text = f"its brightness {found.kind}, its middle from {trimmed(first, 2)} to {trimmed(last, 2)} Hz"
    return Clause("brightness", text, facts)
