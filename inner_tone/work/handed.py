"""A lesson made into what is handed out: paper, one file, a package, Markdown. An errand, step after step."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from hashlib import sha256
from typing import Literal

from inner_tone.core.engine.render import RATE, render_key
from inner_tone.core.lens.chart import Chart
from inner_tone.core.lens.kinds.spectrum import SpectrumView
from inner_tone.core.lens.kinds.wave import WaveView
from inner_tone.core.lens.look import View
from inner_tone.core.lens.moment import NoteMoment, strikes_of
from inner_tone.core.lens.recipe import Behind, Recipe, charts, sentence
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.sheet import SheetStep, laid_out
from inner_tone.core.lesson.step import StepContent
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.port import Port
from inner_tone.core.phrase import Phrase
from inner_tone.formats import handout, markdown, onefile, package
from inner_tone.formats.audio import flac_bytes, opus_bytes, stereo
from inner_tone.formats.handout import Paper
from inner_tone.formats.html import Figure, Front
from inner_tone.formats.onefile import MomentPictures
from inner_tone.formats.plot import plot
from inner_tone.work.errand import Workplace
from inner_tone.work.errands import Files, read_fields, recordings_in

Form = Literal["pdf", "html", "package", "markdown"]
SoundKind = Literal["opus", "flac"]
SUFFIXES: dict[Form, str] = {"pdf": "pdf", "html": "html", "package": "zip", "markdown": "zip"}
MEDIA: dict[Form, str] = {
    "pdf": "application/pdf",
    "html": "text/html; charset=utf-8",
    "package": "application/zip",
    "markdown": "application/zip",
}
SOUNDS: dict[SoundKind, str] = {"opus": "audio/ogg; codecs=opus", "flac": "audio/flac"}
MOST_MOMENTS = 8
ROOM = "…………"  # in the place of a value that is to be found
COLLECTING = 0.85  # how much of the work is done when every step has been heard and drawn


@dataclass(frozen=True)
class Wanted:
    """What a lesson is to be made into."""

    form: Form
    paper: Paper = "A4"
    solutions: bool = True
    sound: SoundKind = "opus"


def handed(
    place: Workplace, wanted: Wanted, document: LessonDocument, front: Front, images: Mapping[str, bytes], files: Files
) -> bytes:
    """Return a lesson as a file; every step is rendered for it, unless it is remembered.

    Parameters
    ----------
    place
        Where it is done.
    wanted
        What it is to be.
    document
        The lesson.
    front
        What stands at its front.
    images
        What stands in its texts, by the SHA-256 of each.
    files
        The recordings that its plates look at, by their keys.
    """
    steps = laid_out(document, lambda step: words_read(place, step, solutions=wanted.solutions))
    figures: dict[int, list[Figure]] = {}
    collected = Collected(wanted.sound)
    watch = place.watch
    for step in steps:
        place.begin_anew(len(steps))
        begun = (step.number - 1) / len(steps)
        place.watch = lambda part, begun=begun: watch(COLLECTING * (begun + part / len(steps)))  # type: ignore[misc]
        figures[step.number] = plates_of(place, step, files, solutions=wanted.solutions)
        if wanted.form in ("html", "package"):
            collected.add(place, step)
        elif not figures[step.number]:
            figures[step.number] = looks_of(place, step)
        watch(COLLECTING * step.number / len(steps))
    place.watch = watch
    if wanted.form == "pdf":
        return handout.handout(front, steps, figures, images, wanted.paper, solutions=wanted.solutions)
    if wanted.form == "markdown":
        return markdown.markdown_zip(front, steps, figures, images)
    sounds = onefile.Sounds(SOUNDS[wanted.sound], collected.data)
    reports = package.reports() if wanted.form == "package" else ""
    heard = {number: onefile.Heard(*keys) for number, keys in collected.heard.items()}
    page = onefile.one_file(front, steps, heard, sounds, collected.moments, figures, images, reports)
    if wanted.form == "html":
        return page
    return package.package(sha256(document.model_dump_json().encode()).hexdigest()[:16], front.title, page)


def words_read(place: Workplace, step: StepContent, *, solutions: bool) -> dict[str, str | None]:
    """Return what the fields of a step's texts read, or room for it, and where its links lead, in words."""
    read = read_fields(place, step)
    values = {field: value if solutions or value is None else ROOM for field, value in read.values.items()}
    links = {field: f"({one.text})" if one.kind == "mark" else one.text for field, one in read.links.items()}
    return values | links


def plates_of(place: Workplace, step: SheetStep, files: Files, *, solutions: bool) -> list[Figure]:
    """Return the plates of a step; strips, which name values, only with the solutions."""
    found = []
    for plate in step.content.plates:
        if plate.recipe.strip and not solutions:
            continue
        shown = charts(plate.recipe, place.sounds, recordings_in(files))
        found.append(Figure(svg(shown), plate.caption or sentence(plate.recipe, shown)))
    return found


def looks_of(place: Workplace, step: SheetStep) -> list[Figure]:
    """Return what a step without plates looks like: the spectrum of the note that says most, before it behind it."""
    patch, tap = step.content.patch, tap_heard(step.content.patch)
    if tap is None:
        return []
    recipe = Recipe(
        view=SpectrumView(taps=(tap,)),
        patch=patch,
        phrase=step.content.phrase,
        moment=step.content.moment,
        behind=behind(step, tap),
    )
    shown = charts(recipe, place.sounds)
    return [Figure(plot(shown[0]).encode(), sentence(recipe, shown))]


def behind(step: SheetStep, tap: Port) -> Behind | None:
    """Return what is before a step, to stand behind its pictures, if it has the same output."""
    there = can_be_heard(step.before) and Graph(step.before).has(tap)
    return Behind(legend="the step before", patch=step.before) if there else None


def svg(shown: Sequence[Chart]) -> bytes:
    """Return charts as they are drawn on paper."""
    from inner_tone.formats.picture import svg as drawn  # noqa: PLC0415 - the drawing library takes time to load

    return drawn(shown, outlined=False)


class Collected:
    """The sounds of a lesson, each once, and what each moment of its steps looks like."""

    def __init__(self, kind: SoundKind) -> None:
        self.kind = kind
        self.data: dict[str, bytes] = {}
        self.heard: dict[int, tuple[str, str | None]] = {}
        self.moments: dict[int, list[MomentPictures]] = {}

    def add(self, place: Workplace, step: SheetStep) -> None:
        """Take a step in: its sound, that of what is before it, and its pictures."""
        patch, phrase = step.content.patch, step.content.phrase
        tap = tap_heard(patch)
        before = step.before if can_be_heard(step.before) else None
        key = self.sound(place, patch, phrase)
        self.heard[step.number] = (key, self.sound(place, before, phrase) if before else None)
        self.moments[step.number] = list(moments_of(place, step, tap)) if tap else []

    def sound(self, place: Workplace, patch: Patch, phrase: Phrase) -> str:
        """Keep a sound, and return its key."""
        key = render_key(patch, phrase)[:20]
        if key not in self.data:
            samples = stereo(place.take(patch, phrase).render)
            self.data[key] = opus_bytes(samples) if self.kind == "opus" else flac_bytes(samples, RATE)
        return key


def can_be_heard(patch: Patch) -> bool:
    """Tell whether anything leads to the output of a patch."""
    return tap_heard(patch) is not None


def tap_heard(patch: Patch) -> Port | None:
    """Return the output that leads to what is heard, if one does."""
    output = Graph(patch).output
    into = [one for one in patch.connections if output is not None and one.target.module == output.id]
    return into[0].source if into else None


def moments_of(place: Workplace, step: SheetStep, tap: Port) -> Sequence[MomentPictures]:
    """Return what each note of a step looks like, before it and after it; of many only some, from first to last."""
    patch, phrase = step.content.patch, step.content.phrase
    strikes = strikes_of(phrase)
    count = min(len(strikes), MOST_MOMENTS)
    places = sorted({round(n * (len(strikes) - 1) / max(1, count - 1)) for n in range(count)})
    before = behind(step, tap)
    found = []
    for one in places:
        views: tuple[View, View] = (WaveView(taps=(tap,)), SpectrumView(taps=(tap,)))
        moment = NoteMoment(note=one + 1)
        recipes = [Recipe(view=view, patch=patch, phrase=phrase, moment=moment, behind=before) for view in views]
        wave, spectrum = (charts(recipe, place.sounds)[0] for recipe in recipes)
        words = f"Note {one + 1}, {strikes[one].words}"
        found.append(MomentPictures(words, plot(wave), plot(spectrum), (wave.sentence, spectrum.sentence)))
    return found
