"""A lesson as Markdown with its pictures, for people who keep their course in text: a ZIP file."""

import re
from collections.abc import Iterator, Mapping, Sequence

from inner_tone.core.lesson.sheet import LineRow, MarkRow, ModuleRow, SheetStep
from inner_tone.core.patch.instructions import Instruction
from inner_tone.formats.bundle import IMAGE
from inner_tone.formats.html import MEDIA, Figure, Front, media_of, new_in
from inner_tone.formats.map import drawn
from inner_tone.formats.zipped import zipped

MARKED = re.compile(r"([\\`*_{}\[\]<>#|])")
SUFFIXES = {"image/png": "png", "image/jpeg": "jpg"}


def markdown_zip(
    front: Front, steps: Sequence[SheetStep], figures: Mapping[int, Sequence[Figure]], images: Mapping[str, bytes]
) -> bytes:
    """Return a lesson as `lesson.md` and its pictures in a ZIP file; `figures` are those of each step by number."""
    files: dict[str, bytes] = {}
    lines = [
        f"# {plain(front.title)}",
        plain(f"{front.source}."),
        front.summary,
        front.target and "## Where it is heading",
    ]
    lines.append(with_images(front.target, images, files))
    for step in steps:
        lines += step_lines(step, figures.get(step.number, ()), images, files)
    files["lesson.md"] = ("\n\n".join(one.strip() for one in lines if one.strip()) + "\n").encode()
    return zipped(files)


def step_lines(
    step: SheetStep, figures: Sequence[Figure], images: Mapping[str, bytes], files: dict[str, bytes]
) -> Iterator[str]:
    """Yield the paragraphs of a step, and put its pictures among the files."""
    yield f"## {step.number}. {plain(step.title)}"
    yield with_images(step.why, images, files)
    name = f"pictures/step-{step.number}-map.svg"
    files[name] = drawn(step.content.patch, step.content.marks, new_in(step)).svg.encode()
    yield f"![The map of step {step.number}]({name})"
    yield "\n".join(mark_line(one) for one in step.marks)
    yield "### Do this"
    yield "\n".join(f"{place}. {said(one)}" for place, one in enumerate(step.said, 1)) or "Nothing: listen and look."
    if step.listen.strip():
        yield "### Listen for"
        yield with_images(step.listen, images, files)
    for place, figure in enumerate(figures, 1):
        name = f"pictures/step-{step.number}-picture-{place}.svg"
        files[name] = figure.svg
        yield f"![{plain(figure.caption)}]({name})"
        yield f"*Picture {place}. {plain(figure.caption)}*"
    yield "### All values"
    yield modules_table(step.modules)
    yield lines_table(step.lines)
    notes = f": {plain('; '.join(step.notes))}" if step.notes else ""
    yield f"Play {plain(step.phrase)}{notes}."


def mark_line(mark: MarkRow) -> str:
    number = f"**{mark.number}** " if mark.number else ""
    return f"- {number}{plain(mark.place)}" + (f": {plain(mark.purpose)}" if mark.purpose else "")


def said(instruction: Instruction) -> str:
    """Return an instruction; its names and values are strong."""
    return "".join(f"**{plain(one.text)}**" if one.role != "plain" else plain(one.text) for one in instruction.parts)


def modules_table(rows: Sequence[ModuleRow]) -> str:
    """Return modules with their settings as a table."""
    body = [
        [one.title, one.kind, ", ".join(f"{value.setting} {value.value}" for value in one.values) or "as it comes"]
        for one in rows
    ]
    return table(("Module", "Kind", "Settings"), body)


def lines_table(rows: Sequence[LineRow]) -> str:
    """Return connections as a table."""
    return table(("From", "To", "By"), [[one.source, one.target, one.amount] for one in rows]) if rows else ""


def table(head: Sequence[str], body: Sequence[Sequence[str]]) -> str:
    """Return rows as a table in Markdown, as GitHub has them."""
    rows = [head, ["---"] * len(head), *([plain(cell) for cell in row] for row in body)]
    return "\n".join(f"| {' | '.join(row)} |" for row in rows)


def plain(text: str) -> str:
    """Return a text of which nothing means something in Markdown."""
    return MARKED.sub(r"\\\1", text.replace("\n", " "))


def with_images(text: str, images: Mapping[str, bytes], files: dict[str, bytes]) -> str:
    """Return a text whose images stand beside it as files."""

    def beside(found: re.Match[str]) -> str:
        data = images.get(found[1])
        if data is None or media_of(data) not in MEDIA.values():
            return found[0]
        name = f"pictures/{found[1][:12]}.{SUFFIXES[media_of(data)]}"
        files[name] = data
        return name

    return IMAGE.sub(beside, text)
