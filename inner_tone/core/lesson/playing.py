"""What a step's phrase gains and loses, as instructions: notes, movements of controls, tempo and length."""

from collections.abc import Iterator, Sequence

from inner_tone.core.modules.lever import reached
from inner_tone.core.patch.instructions import Instruction, InstructionPart, parts
from inner_tone.core.patch.model import Module, Patch
from inner_tone.core.phrase import OF_LEVER, Companion, Gesture, Note, Phrase
from inner_tone.core.units import note_name, signed, trimmed

MOST_TOLD = 3  # notes that are told one by one
MOST_POINTS = 4  # points of a movement that are told one by one


def played_differently(before: Phrase, after: Phrase, patch: Patch) -> list[Instruction]:
    """Return what to play otherwise than in a phrase before; `patch` has the levers that are moved."""
    found = [
        *pace(before, after),
        *notes_told(before.notes, after.notes),
        *movements_told({one.control: one for one in before.gestures}, after.gestures, patch),
    ]
    gone = [one for one in before.gestures if one.control not in {other.control for other in after.gestures}]
    left = [play(one.control, "Leave the ", control(one.control, patch), " alone.") for one in gone]
    return [*found, *left, *company_told(before.company, after.company)]


def company_told(before: Sequence[Companion], after: Sequence[Companion]) -> Iterator[Instruction]:
    """Yield who comes into the company of a phrase and who leaves it."""
    were, are = ({one.id: one for one in some} for some in (before, after))
    for one in after:
        if one.id not in were:
            yield play(f"company-{one.id}", "Let ", InstructionPart(one.name, "name"), " sound along.")
    for one in before:
        if one.id not in are:
            yield play(f"company-{one.id}-gone", "Let ", InstructionPart(one.name, "name"), " sound along no longer.")


def play(about: str, *words: str | InstructionPart) -> Instruction:
    """Return an instruction about playing."""
    brief = [one for one in words if isinstance(one, InstructionPart)]
    spaced = [word for one in brief for word in (" ", one)][1:]
    return Instruction("play", parts(words), parts(["♪ ", *spaced]), about)


def value(text: str) -> InstructionPart:
    """Return a value as a part."""
    return InstructionPart(text, "value")


def pace(before: Phrase, after: Phrase) -> Iterator[Instruction]:
    """Yield what is told of a tempo and a length that are others now."""
    if before.tempo != after.tempo:
        yield play("tempo", "Set the tempo to ", value(f"{trimmed(after.tempo)} beats a minute"), ".")
    if before.beats != after.beats:
        yield play("beats", "Let the phrase last ", value(beats(after.beats)), ".")


def beats(count: float) -> str:
    """Return a number of beats in words."""
    return f"{trimmed(count)} {'beat' if count == 1 else 'beats'}"


def notes_told(before: Sequence[Note], after: Sequence[Note]) -> Iterator[Instruction]:
    """Yield what is told of notes that come and go."""
    coming = [one for one in after if one not in before]
    going = [one for one in before if one not in after]
    if going and len(going) == len(before) and coming:
        yield play("notes", "Play other notes: ", value(listed(coming)), ".")
    elif len(coming) + len(going) > MOST_TOLD:
        if coming:
            yield play(
                "notes",
                f"Play {'these notes too' if len(coming) > 1 else 'this note too'}: ",
                value(listed(coming)),
                ".",
            )
        if going:
            yield play("notes-gone", "Play no longer: ", value(listed(going)), ".")
    else:
        for one in going:
            yield play(f"note-{one.start:g}-{one.pitch:g}-gone", "Play ", value(note(one)), " no longer.")
        for one in coming:
            yield play(
                f"note-{one.start:g}-{one.pitch:g}", "Play ", value(f"{note(one)}, for {beats(one.length)}"), " too."
            )


def note(one: Note) -> str:
    """Return a note with its beat, counted from 1."""
    return f"{note_name(one.pitch)} at beat {trimmed(one.start + 1)}"


def listed(notes: Sequence[Note]) -> str:
    """Return the names of notes in their order, as many as one reads."""
    names = [note_name(one.pitch) for one in sorted(notes, key=lambda one: (one.start, one.pitch))]
    return ", ".join(names[:12]) + (f" and {len(names) - 12} more" if len(names) > 12 else "")


def movements_told(before: dict[str, Gesture], after: Sequence[Gesture], patch: Patch) -> Iterator[Instruction]:
    """Yield what is told of movements that come in or are others now."""
    for one in after:
        known = before.get(one.control)
        if known == one:
            continue
        how = "otherwise: " if known else "meanwhile: "
        yield play(one.control, "Move the ", control(one.control, patch), f" {how}", value(course(one, patch)), ".")


def control(name: str, patch: Patch) -> InstructionPart:
    """Return what a control is called."""
    lever = lever_of(name, patch)
    return InstructionPart(lever.title if lever else name.removeprefix(OF_LEVER), "name")


def lever_of(name: str, patch: Patch) -> Module | None:
    """Return the lever of a patch that a control is."""
    return patch.by_id.get(name.removeprefix(OF_LEVER)) if name.startswith(OF_LEVER) else None


def course(gesture: Gesture, patch: Patch) -> str:
    """Return the points of a movement in words, in the unit of what is moved: all, or where it begins and ends."""
    points = gesture.points
    told = points if len(points) <= MOST_POINTS else (points[0], points[-1])
    said = [f"{position(gesture.control, point, patch)} at beat {trimmed(beat + 1)}" for beat, point in told]
    joint = ", " if len(points) <= MOST_POINTS else f", by {len(points) - 2} points between, "
    return joint.join(said)


def position(name: str, point: float, patch: Patch) -> str:
    """Return where a control stands: a lever in its own range, a bend from -100 to +100 %, a wheel from 0 to 100 %."""
    lever = lever_of(name, patch)
    if lever is None:
        return signed(100.0 * point, "%") if name == "bend" else f"{trimmed(100.0 * point)} %"
    return trimmed(reached(lever.all_settings, point))
