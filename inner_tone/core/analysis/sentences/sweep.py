"""The sweep lens in words: what moves."""

from itertools import pairwise

from inner_tone.core.analysis.brightness import Brightness
from inner_tone.core.analysis.excerpt import Excerpt
from inner_tone.core.analysis.melody import Held, Trill
from inner_tone.core.analysis.sentences.clause import Clause
from inner_tone.core.analysis.sentences.spectrum import vibrato_clause
from inner_tone.core.message import Listed, Number, Pitched, Quantity, say
from inner_tone.core.units import note_name

UNSEEN_S = 0.12
MOST_NAMED = 6
SAME_ST = 0.5
LEAST_SHARE = 0.2  # of the time there must be a pitch, to speak of one


def sweep_clauses(seen: Excerpt, brightness: Brightness | None) -> list[Clause]:
    """Return what pitch and brightness do over time."""
    if seen.is_silent or brightness is None:
        return [Clause("silence", say("say.silence-nothing-moves"))]
    return [*pitch_clauses(seen), brightness_clause(brightness)]


def pitch_clauses(seen: Excerpt) -> list[Clause]:
    """Return what the pitch does, where there is one that is sure."""
    found = seen.melody
    if found.trill is not None and seen.has_pitch:
        return [trill_clause(found.trill)]
    if seen.is_driven and not found.vibrato and not found.glides:
        return [notes_clause(seen.sure_notes)]
    if seen.has_pitch and not seen.window.moving and not (found.held or found.vibrato or found.glides):
        low, high = seen.span
        return [notes_clause(seen.sure_notes) if high - low < SAME_ST else brief_clause(low, high)]
    if found.share < LEAST_SHARE or not (found.held or found.vibrato or found.glides):
        if seen.slow_hz or not seen.has_pitch or found.share < LEAST_SHARE:
            return [Clause("no pitch", say("say.no-pitch-that-can"))]
        return [Clause("moving", say("say.a-pitch-that-neither"), {})]
    if not seen.has_pitch:
        if seen.series.notes_hz:
            return [Clause("several", say("say.notes-at-once-no", notes=len(seen.series.notes_hz)), {})]
        return [Clause("no pitch", say("say.no-one-pitch-that"))]
    if found.vibrato:
        middle = seen.told(found.vibrato.note)
        note = Clause("note", say("say.note", note=Pitched(middle)), {"note": middle})
        return [note, *vibrato_clause(found.vibrato)]
    if found.glides:
        return [glide_clause(seen)]
    return [notes_clause(seen.sure_notes)]


def trill_clause(found: Trill) -> Clause:
    """Return between which notes a pitch leaps to and fro."""
    text = say("say.leaps-to-and-fro", low=Pitched(found.low), high=Pitched(found.high), rate=Number(found.rate_hz))
    return Clause("trill", text, {"trill_hz": found.rate_hz, "trill_notes": [found.low, found.high]})


def brief_clause(low: float, high: float) -> Clause:
    """Return between which notes a pitch is that never stays long enough to be told."""
    text = say("say.pitches-between-and-each", low=note_name(low), high=note_name(high))
    return Clause("brief", text, {"lowest_note": low, "highest_note": high})


def glide_clause(seen: Excerpt) -> Clause:
    """Return the widest glide, and how many there are."""
    glides, held = seen.melody.glides, seen.melody.held
    widest = max(glides, key=lambda one: abs(one.to_note - one.from_note))
    first, last = seen.told(widest.from_note), seen.told(widest.to_note)
    text = say("say.glides-from-to-in", first=Pitched(first), last=Pitched(last), seconds=Quantity(widest.seconds, "s"))
    facts = {"glide_s": widest.seconds, "from_note": first, "to_note": last}
    if len(glides) > 1:
        text = say(
            "say.glides-the-widest-from",
            glides=len(glides),
            first=Pitched(first),
            last=Pitched(last),
            seconds=Quantity(widest.seconds, "s"),
        )
    return Clause("glide", text, {**facts, "glides": len(glides), "notes": [seen.told(one.note) for one in held]})


def notes_clause(held: tuple[Held, ...]) -> Clause:
    """Return the notes that are held one after the other."""
    notes = [held[0].note]
    notes += [late.note for early, late in pairwise(held) if abs(late.note - early.note) > SAME_ST]
    facts = {"notes": notes}
    if len(notes) == 1:
        return Clause("note", say("say.throughout", notes=Pitched(notes[0])), facts)
    names = [Pitched(one) for one in notes]
    if len(names) <= MOST_NAMED:
        return Clause("notes", say("say.one-after-the-other", names=Listed(names)), facts)
    low, high = min(notes), max(notes)
    # one that is too short to be held may have come in between
    missed = any(late.begin_s - early.end_s > UNSEEN_S for early, late in pairwise(held))
    text = (
        say("say.at-least-notes-between", names=len(names), low=Pitched(low), high=Pitched(high))
        if missed
        else say("say.notes-between-and", names=len(names), low=Pitched(low), high=Pitched(high))
    )
    return Clause("notes", text, facts)


def brightness_clause(found: Brightness) -> Clause:
    low, high = found.low_hz, found.high_hz
    facts = {"brightness": found.kind, "brightness_low_hz": low, "brightness_high_hz": high}
    if found.kind == "stays":
        return Clause("brightness", say("say.its-brightness-stays-its", low=Number((low * high) ** 0.5, 2)), facts)
    if found.kind == "swings":
        text = say(
            "say.its-brightness-swings-times", rate=Number(found.rate_hz), low=Number(low, 2), high=Number(high, 2)
        )
        return Clause("brightness", text, {**facts, "brightness_hz": found.rate_hz})
    if found.kind == "moves":
        text = say("say.its-brightness-moves-its", low=Number(low, 2), high=Number(high, 2))
        return Clause("brightness", text, facts)
    text = (
        say("say.its-brightness-rises-its", low=Number(low, 2), high=Number(high, 2))
        if found.kind == "rises"
        else say("say.its-brightness-falls-its", high=Number(high, 2), low=Number(low, 2))
    )
    return Clause("brightness", text, facts)
