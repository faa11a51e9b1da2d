"""The page that tells what the course shows, lesson by lesson, and with which modules."""

from collections.abc import Iterator
from pathlib import Path

from inner_tone.core.modules import MODULE_TYPES
from inner_tone.demo.course.build import SERIES, course
from inner_tone.demo.course.source import Source

PAGE = Path(__file__).resolve().parents[3] / "docs" / "course.md"
HEAD = """# The course

What the demo teaches, lesson by lesson. Written by `bin/generate` from the sources in
`inner_tone/demo/course/sources`; do not edit. A scripted learner follows each lesson to “done” by its instructions
alone, the checkup finds nothing of which the text does not speak, and all fields, marks and pictures lead somewhere
(`tests/demo`).

"""
COLUMNS = ("", "lesson", "what it shows", "steps", "plates, detours", "modules")


def types_of(source: Source) -> list[str]:
    """Return the types of module that a lesson uses, in the order of the modules' page."""
    used = {module.type for step in source.document.steps for module in step.patch.modules}
    return [one.name for one in MODULE_TYPES if one.name in used]


def page() -> str:
    """Return docs/course.md."""
    lessons = course()
    parts = [HEAD]
    for number, (title, summary) in SERIES.items():
        parts.append(f"## {title}\n\n{summary}\n\n{line(*COLUMNS)}{line(*['---'] * len(COLUMNS))}")
        parts += [row(name, source) for name, source in lessons.items() if name.startswith(f"{number}-")]
        parts.append("\n")
    return "".join([*parts, *uses(lessons)])


def line(*cells: object) -> str:
    """Return a line of a table."""
    return f"| {' | '.join(map(str, cells))} |\n"


def row(name: str, source: Source) -> str:
    """Return the line of a lesson."""
    document = source.document
    plates = sum(len(step.plates) for step in document.steps)
    detours = sum(len(step.detours) for step in document.steps)
    number, shown = int(name.split("-")[1]), f"{plates}, {detours}"
    return line(number, document.title, document.summary, len(document.steps), shown, ", ".join(types_of(source)))


def uses(lessons: dict[str, Source]) -> Iterator[str]:
    """Yield in which lessons each type of module is used."""
    yield "## Modules\n\nEach type, and the lessons that use it.\n\n| type | lessons |\n|---|---|\n"
    for one in MODULE_TYPES:
        found = [str(int(name.split("-")[1])) for name, source in lessons.items() if one.name in types_of(source)]
        yield f"| {one.name} | {', '.join(found) or 'none'} |\n"
