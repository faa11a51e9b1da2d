"""What a step's phrase gains and loses, as instructions: notes, movements of controls, tempo and length."""

from collections.abc import Iterator, Sequence

from inner_tone.core.message import Argument, Message, Name, Number, Quantity, Row, Worded, say
from inner_tone.core.modules.lever import reached
from inner_tone.core.patch.instructions import Instruction
from inner_tone.core.patch.model import Module, Patch
from inner_tone.core.phrase import OF_LEVER, Companion, Gesture, Note, Phrase
from inner_tone.core.units import note_name

MOST_TOLD = 3  # notes that are told one by one
MOST_NAMED = 12
MOST_POINTS = 4  # points of a movement that are told one by one


def played_differently(before: Phrase, after: Phrase, patch: Patch) -> list[Instruction]:
    """Return what to play otherwise than in a phrase before; `patch` has the levers that are moved."""
    found = [
        *pace(before, after),
        *notes_told(before.notes, after.notes),
        *movements_told({one.control: one for one in before.gestures}, after.gestures, patch),
    ]
    gone = [one for one in before.gestures if one.control not in {other.control for other in after.gestures}]
    left = [play(one.control, "leave", control=control(one.control, patch)) for one in gone]
    return [*found, *left, *company_told(before.company, after.company)]


def company_told(before: Sequence[Companion], after: Sequence[Companion]) -> Iterator[Instruction]:
    """Yield who comes into the company of a phrase and who leaves it."""
    were, are = ({one.id: one for one in some} for some in (before, after))
    for one in after:
        if one.id not in were:
            yield play(f"company-{one.id}", "company", companion=Name(one.name))
    for one in before:
        if one.id not in are:
            yield play(f"company-{one.id}-gone", "company.gone", companion=Name(one.name))


def play(about: str, key: str, **args: Argument) -> Instruction:
    """Return an instruction about playing, which is brief by its names and values alone."""
    first, *more = args.values()
    what = Row([first, *(say("do.play.brief.next", what=one) for one in more)])
    return Instruction("play", Message(f"do.play.{key}", args), say("do.play.brief", what=what), about)


def pace(before: Phrase, after: Phrase) -> Iterator[Instruction]:
    """Yield what is told of a tempo and a length that are others now."""
    if before.tempo != after.tempo:
        yield play("tempo", "tempo", tempo=Worded(say("do.play.pace", beats=Number(after.tempo))))
    if before.beats != after.beats:
        yield play("beats", "length", length=beats(after.beats))


def beats(count: float) -> Argument:
    """Return a number of beats."""
    return Quantity(count, "beat")


def notes_told(before: Sequence[Note], after: Sequence[Note]) -> Iterator[Instruction]:
    """Yield what is told of notes that come and go."""
    coming = [one for one in after if one not in before]
    going = [one for one in before if one not in after]
    if going and len(going) == len(before) and coming:
        yield play("notes", "others", notes=listed(coming))
    elif len(coming) + len(going) > MOST_TOLD:
        if coming:
            yield play("notes", "these" if len(coming) > 1 else "this", notes=listed(coming))
        if going:
            yield play("notes-gone", "gone", notes=listed(going))
    else:
        for one in going:
            yield play(f"note-{one.start:g}-{one.pitch:g}-gone", "note.gone", note=Worded(say("do.play.at", **at(one))))
        for one in coming:
            told = say("do.play.for", **at(one), length=beats(one.length))
            yield play(f"note-{one.start:g}-{one.pitch:g}", "note", note=Worded(told))


def at(one: Note) -> dict[str, Argument]:
    """Return a note and its beat, counted from 1."""
    return {"note": note_name(one.pitch), "beat": Number(one.start + 1)}


def listed(notes: Sequence[Note]) -> Worded:
    """Return the names of notes in their order, as many as one reads."""
    names = [note_name(one.pitch) for one in sorted(notes, key=lambda one: (one.start, one.pitch))]
    told = ", ".join(names[:MOST_NAMED])
    more = len(names) - MOST_NAMED
    return Worded(say("do.play.more", notes=told, count=more) if more > 0 else told)


def movements_told(before: dict[str, Gesture], after: Sequence[Gesture], patch: Patch) -> Iterator[Instruction]:
    """Yield what is told of movements that come in or are others now."""
    for one in after:
        known = before.get(one.control)
        if known == one:
            continue
        key = "move.otherwise" if known else "move"
        yield play(one.control, key, control=control(one.control, patch), course=course(one, patch))


def control(name: str, patch: Patch) -> Name:
    """Return what a control is called."""
    lever = lever_of(name, patch)
    return Name(lever.title if lever else name.removeprefix(OF_LEVER))


def lever_of(name: str, patch: Patch) -> Module | None:
    """Return the lever of a patch that a control is."""
    return patch.by_id.get(name.removeprefix(OF_LEVER)) if name.startswith(OF_LEVER) else None


def course(gesture: Gesture, patch: Patch) -> Worded:
    """Return the points of a movement in words, in the unit of what is moved: all, or where it begins and ends."""
    points = [
        say("do.play.point", position=position(gesture.control, point, patch), beat=Number(beat + 1))
        for beat, point in gesture.points
    ]
    if len(points) <= MOST_POINTS:
        return Worded(", ".join(map(str, points)))
    return Worded(say("do.play.between", first=points[0], count=len(points) - 2, last=points[-1]))


def position(name: str, point: float, patch: Patch) -> Argument:
    """Return where a control stands: a lever in its own range, a bend from -100 to +100 %, a wheel from 0 to 100 %."""
    lever = lever_of(name, patch)
    if lever is None:
        return Quantity(100.0 * point, "%", moves=name == "bend")
    return Number(reached(lever.all_settings, point))
