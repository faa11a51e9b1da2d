"""Draws the plates of a lesson's bundle again, from their recipes."""

from pathlib import Path

from inner_tone.core.errors import InnerToneError
from inner_tone.core.lens.recipe import charts
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.plate import Plate
from inner_tone.formats import numbers, picture
from inner_tone.formats.bundle import read_bundle

SUFFIXES = (".svg", ".png", ".csv")


def draw_plate(bundle: Path, name: str | None, out: Path) -> None:
    """Write a plate as SVG, PNG or CSV, whichever the file's name asks for; raises InnerToneError or OSError."""
    if out.suffix not in SUFFIXES:
        raise InnerToneError(f"--out: “{out.name}” does not end in {', '.join(SUFFIXES)}.")
    plate = chosen(read_bundle(bundle), name)
    shown = charts(plate.recipe)
    if out.suffix == ".csv":
        out.write_bytes(numbers.csv_bytes(shown))
    else:
        out.write_bytes((picture.svg if out.suffix == ".svg" else picture.png)(shown, plate.caption))


def plates_of(lesson: LessonDocument) -> dict[str, Plate]:
    """Return the plates of a lesson by the step's number and their own name: 3/plate-1."""
    return {f"{number}/{plate.id}": plate for number, step in enumerate(lesson.steps, 1) for plate in step.plates}


def chosen(lesson: LessonDocument, name: str | None) -> Plate:
    """Return the plate of a name, or the only one; raises InnerToneError."""
    known = plates_of(lesson)
    if not known:
        raise InnerToneError("There is no plate in this lesson.")
    if name is None and len(known) == 1:
        return next(iter(known.values()))
    if name not in known:
        what = "--plate is missing" if name is None else f"--plate: There is no plate “{name}”"
        raise InnerToneError(f"{what}. Possible: {', '.join(known)}.")
    return known[name]
