"""A lesson laid out to be handed out: what each step says, what to do, and all values that make its sound again."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from inner_tone.core.lens.moment import strikes_of
from inner_tone.core.lesson.fields import CODE, FIELD
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.mark import LensPlace, LinePlace, ModulePlace, StepMark
from inner_tone.core.lesson.step import StepContent, begins_with, told
from inner_tone.core.message import words
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.instructions import (
    Instruction,
    called,
    follows_pitch,
    input_name,
    moved_by,
    output_name,
    value_text,
)
from inner_tone.core.patch.model import Connection, Module, Patch
from inner_tone.core.phrase import Phrase
from inner_tone.core.units import trimmed

MOST_NOTES = 48  # that are listed one by one

# Returns what the fields of a step's texts read or lead to, in words; nothing where they mean nothing.
Reading = Callable[[StepContent], Mapping[str, str | None]]


@dataclass(frozen=True)
class Value:
    """A setting in words, and whether the step has given it this value."""

    setting: str
    value: str
    new: bool


@dataclass(frozen=True)
class ModuleRow:
    """A module with those of its settings that are not as it comes, and whether the step has added it."""

    title: str
    kind: str
    values: tuple[Value, ...]
    new: bool


@dataclass(frozen=True)
class LineRow:
    """A connection in words, and whether the step has made or changed it."""

    source: str
    target: str
    amount: str
    new: bool


@dataclass(frozen=True)
class MarkRow:
    """A mark: its number, if it has one, the place in words, and what it is for."""

    number: int | None
    place: str
    purpose: str


@dataclass(frozen=True)
class SheetStep:
    """A step laid out: its texts in Markdown with their fields read, its instructions, and the values behind them."""

    number: int
    title: str
    why: str
    listen: str
    said: tuple[Instruction, ...]
    modules: tuple[ModuleRow, ...]
    lines: tuple[LineRow, ...]
    phrase: str
    notes: tuple[str, ...]
    marks: tuple[MarkRow, ...]
    before: Patch
    content: StepContent


def laid_out(document: LessonDocument, reading: Reading) -> list[SheetStep]:
    """Return the steps of a lesson laid out."""
    tellings = told(document.steps, document.start)
    found = []
    for place, (step, telling) in enumerate(zip(document.steps, tellings, strict=True)):
        before = document.steps[place - 1].patch if place else begins_with(document.start, step.patch)
        read = reading(step)
        found.append(
            SheetStep(
                number=place + 1,
                title=step.title or f"Step {place + 1}",
                why=with_fields(step.why, read),
                listen=with_fields(step.listen, read),
                said=tuple(telling.instructions),
                modules=tuple(module_rows(before, step.patch)),
                lines=tuple(line_rows(before, step.patch)),
                phrase=phrase_words(step.phrase),
                notes=tuple(note_words(step.phrase)),
                marks=tuple(mark_row(one, step.patch) for one in step.marks),
                before=before,
                content=step,
            )
        )
    return found


def with_fields(text: str, read: Mapping[str, str | None]) -> str:
    """Return a text whose fields say what they read; those that mean nothing, and code, stay as they are written."""
    pieces, at = [], 0
    for code in CODE.finditer(text):
        pieces += [in_words(text[at : code.start()], read), code[0]]
        at = code.end()
    return "".join([*pieces, in_words(text[at:], read)])


def in_words(text: str, read: Mapping[str, str | None]) -> str:
    """Return a text without code whose fields say what they read."""
    return FIELD.sub(lambda found: read.get(found[1].strip()) or found[0], text)


def module_rows(before: Patch, patch: Patch) -> list[ModuleRow]:
    """Return the modules of a patch with their settings, and what is new in them since another patch."""
    return [module_row(before.by_id.get(one.id), one) for one in patch.modules]


def module_row(old: Module | None, module: Module) -> ModuleRow:
    """Return a module in words; what is as it comes is left out, unless the step has set it so."""
    comes = module.model_copy(update={"settings": {}}).all_settings
    known = old.all_settings if old and old.type == module.type else comes
    values = [
        Value(called(module, name), value_text(module, name, value), value != known.get(name))
        for name, value in module.all_settings.items()
        if value != comes.get(name) or value != known.get(name)
    ]
    return ModuleRow(module.title, module.declaration.title, tuple(values), old is None or old.type != module.type)


def line_rows(before: Patch, patch: Patch) -> list[LineRow]:
    """Return the connections of a patch in words, and what is new in them since another patch."""
    graph, known = Graph(patch), {one.ends: one for one in before.connections}
    rows: dict[LineRow, None] = {}
    for one in patch.connections:
        both = [other for other in patch.connections if are_sides(graph, one, other)]
        rows[line_row(graph, both or [one], known.get(one.ends) != one)] = None  # both sides are one row
    return list(rows)


def are_sides(graph: Graph, one: Connection, other: Connection) -> bool:
    """Tell whether two connections are the same but for the side on which their output is heard; or one of them."""
    sides = graph.input(one.target).ear and graph.input(other.target).ear
    same = one.model_copy(update={"target": other.target}) == other
    return bool(sides) and same and one.target.module == other.target.module


def line_row(graph: Graph, lines: Sequence[Connection], new: bool) -> LineRow:
    """Return a connection in words; several are the sides of one."""
    line = lines[0]
    port = graph.input(line.target)
    amount = "" if line.depth == 1.0 and port.kind not in ("control", "pitch") else words(moved_by(port, line.depth))
    if follows_pitch(line, port):
        amount = "follows"
    scaled = f"scaled by {words(output_name(graph, line.scaled_by))}" if line.scaled_by else ""
    off = "off" if line.off else ""
    return LineRow(
        words(output_name(graph, line.source)),
        words(input_name(graph, lines)),
        ", ".join(one for one in (amount, scaled, off) if one),
        new,
    )


def phrase_words(phrase: Phrase) -> str:
    title = f"“{phrase.title}”: " if phrase.title else ""
    count = len(phrase.notes)
    notes = f"{count} note{'' if count == 1 else 's'}"
    return f"{title}{notes} in {trimmed(phrase.beats)} beats, at {trimmed(phrase.tempo)} beats a minute"


def note_words(phrase: Phrase) -> list[str]:
    """Return the notes of a phrase one by one, if they are not too many to be read."""
    strikes = strikes_of(phrase)
    if len(phrase.notes) > MOST_NOTES:
        return []
    return [
        f"{one.words} at beat {trimmed(one.notes[0].start)}, for {trimmed(max(note.length for note in one.notes))}"
        for one in strikes
    ]


def mark_row(mark: StepMark, patch: Patch) -> MarkRow:
    """Return a mark in words."""
    return MarkRow(mark.number, place_words(mark, patch), mark.purpose)


def place_words(mark: StepMark, patch: Patch) -> str:
    """Return where a mark stands."""
    at, graph = mark.at, Graph(patch)
    if isinstance(at, ModulePlace):
        module = patch.by_id.get(at.module)
        sections = {one.id: one.label for one in patch.sections}
        return module.title if module else sections.get(at.module, at.module)
    if isinstance(at, LinePlace):
        line = next((one for one in patch.connections if one.ends == (at.source, at.target)), None)
        if line is None:
            return "a line that is gone"
        return f"from {words(output_name(graph, line.source))} to {words(input_name(graph, [line]))}"
    if isinstance(at, LensPlace):
        return f"in the {at.lens}"
    return f"at beat {trimmed(at.beat)}"
