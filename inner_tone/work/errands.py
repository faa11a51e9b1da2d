"""What processes that work can be asked for. Each is given its place: what is remembered there, and who watches."""

import gzip
import itertools
from collections.abc import Collection, Mapping, Sequence
from dataclasses import asdict, dataclass
from hashlib import sha256
from typing import Literal

import numpy as np
from cachetools import LRUCache
from pydantic import BaseModel

from inner_tone.core import nearness, outside
from inner_tone.core.advice import Advice
from inner_tone.core.analysis.arrival import arrival_of, arrived, ended
from inner_tone.core.analysis.closeup import on_cards
from inner_tone.core.analysis.compare import RECORDED, Comparison, Target, Tolerances
from inner_tone.core.analysis.sentences.clause import sentence as said_of
from inner_tone.core.analysis.sentences.near import near_clauses
from inner_tone.core.analysis.sentences.spectrum import spectrum_clauses
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.arrays import Floats, Samples
from inner_tone.core.checkup import Finding, checkup
from inner_tone.core.company import company_of
from inner_tone.core.cost import together
from inner_tone.core.engine.render import RATE, render_key
from inner_tone.core.errors import InnerToneError
from inner_tone.core.lens.chart import Chart, seen_in
from inner_tone.core.lens.look import View, look, taps_of
from inner_tone.core.lens.moment import Moment, span_of
from inner_tone.core.lens.recipe import Behind, Recipe, Recordings, beside, chart_of, charts, sentence
from inner_tone.core.lens.source import Recorded
from inner_tone.core.lesson.edition import Concern, review
from inner_tone.core.lesson.fields import Link, fields_in, link_of, meaningless, tap_of, texts_of, value_of
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.nearby import Nearness, Task
from inner_tone.core.lesson.nearby import nearness as how_near
from inner_tone.core.lesson.step import StepContent
from inner_tone.core.modules import LEVER
from inner_tone.core.modules.sounds import LIBRARY, made
from inner_tone.core.modules.sounds import RATE as SOUND_RATE
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.listening import Listening, heard
from inner_tone.core.patch.match import match
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.validate import checked_patch
from inner_tone.core.phrase import Phrase, checked_phrase
from inner_tone.core.units import capital
from inner_tone.formats.audio import flac_bytes, read_sound, samples_of, stereo, wav_bytes
from inner_tone.formats.bundle import Bundle, bundle_bytes
from inner_tone.formats.image import Picture, read_image
from inner_tone.formats.midi import Found, read_midi
from inner_tone.formats.series import SeriesBundle, opened_any, series_bytes
from inner_tone.work.answers import DrawnOut, MeasureOut, RenderOut, finding_out
from inner_tone.work.errand import Workplace
from inner_tone.work.studio import sound_of

FAST = 1  # level of compression: to wait for a smaller answer would take longer than to send it
LONGEST_SECONDS = 60.0  # of a recording
TRIES = 20  # renders of a search for advice, at most as long as the phrase together
MAKES = 8  # of instruments that a recording is compared with
MOST_TARGETS = 60
OUTLINE_PARTS = 400  # of a sound that is seen at once

Files = Mapping[str, bytes]  # recordings by their keys, as FLAC
PictureFormat = Literal["svg", "png", "csv"]
SoundFormat = Literal["wav", "flac"]

_targets: LRUCache[str, Target] = LRUCache(MOST_TARGETS)


@dataclass(frozen=True)
class RenderTask:
    """A patch as it is written, what is muted or alone in it, its phrase, the lenses, and what stands behind them."""

    written: Patch
    phrase: Phrase
    lenses: tuple[View, ...]
    moment: Moment | None
    behind: Behind | None
    listening: Listening


def recordings_in(files: Files) -> Recordings:
    """Return what finds recordings by their keys."""

    def recording(key: str) -> Sound:
        if key not in files:
            raise InnerToneError("There is no such recording.")
        samples, rate = read_sound(files[key], LONGEST_SECONDS + 1.0)
        return sound_of(samples[0], rate)

    return recording


def rendered(place: Workplace, task: RenderTask, files: Files) -> bytes:
    """Return as compressed JSON what a render is, and what is seen and found of it."""
    return packed(looked(place, task, recordings_in(files)))


def packed(found: BaseModel) -> bytes:
    """Return a model as JSON, compressed as browsers take it: once, for all who ask."""
    return gzip.compress(found.model_dump_json().encode(), FAST, mtime=0)


def looked(place: Workplace, task: RenderTask, recordings: Recordings) -> RenderOut:
    """Return what a render is, and what is seen and found of it."""
    patch, phrase, behind = heard(task.written, task.listening), task.phrase, task.behind
    graph = Graph(patch)
    other = {behind.tap} if behind and beside(behind) and behind.tap else set()
    taps: set[str] = set(other)
    for view in task.lenses:  # where not all that they look at can be kept at once, the later ones look by themselves
        more = taps | taps_of(view, graph)
        taps = more if len(together(phrase, more)) <= 1 or not taps else taps
    take = place.take(patch, phrase, taps)

    def sounds(wanted: Patch, played: Phrase, ports: Collection[str]) -> Mapping[str, Sound]:
        there = wanted is patch and all(tap in take.sounds for tap in ports)
        return {tap: take.sounds[tap] for tap in ports} if there else place.sounds(wanted, played, ports)

    found = checkup(patch, phrase, take.render, take.jumps)
    return RenderOut(
        key=take.render.key,
        seconds=take.render.seconds,
        limited_db=take.render.limited_db,
        measures={
            port: MeasureOut.model_validate(one)
            for port, one in on_cards(take.render.measures, take.render.close, take.render.rate).items()
        },
        lenses=[
            chart_of(
                Recipe(view=view, patch=patch, phrase=phrase, moment=task.moment, behind=behind), sounds, recordings
            )
            for view in task.lenses
        ],
        findings=[finding_out(one) for one in found.findings],
        reach=list(found.reach),
        silences={module: str(why) for module, why in found.silences.items()},
        moment=seen_in(span_of(task.moment, phrase), take.render.seconds),
    )


def sound(place: Workplace, patch: Patch, phrase: Phrase) -> bytes:
    """Return the sound of a render as a WAV file, in stereo."""
    done = place.take(patch, phrase).render
    return wav_bytes(stereo(done), done.rate)


def company_sound(place: Workplace, phrase: Phrase, alone: str | None) -> bytes:
    """Return what is heard of a phrase's company, or of one of its parts alone, as a WAV file in stereo."""
    return wav_bytes(company_of(checked_phrase(phrase), place.sounds, alone).T, RATE)


def loudness(place: Workplace, patch: Patch, phrase: Phrase) -> float:
    """Return how loud a render is heard, in LUFS."""
    return place.take(patch, phrase).loudness_lufs


def drawn(place: Workplace, recipe: Recipe, files: Files) -> bytes:
    """Return as compressed JSON what a recipe makes; raises InnerToneError."""
    shown, said = charted(place, recipe, files)
    return packed(DrawnOut(charts=shown, sentence=said))


def said_of_plate(place: Workplace, recipe: Recipe, files: Files) -> str:
    """Return the sentence that says what the charts of a recipe show; raises InnerToneError."""
    return charted(place, recipe, files)[1]


def charted(place: Workplace, recipe: Recipe, files: Files) -> tuple[list[Chart], str]:
    """Return the charts of a recipe, and the sentence that says what they show; raises InnerToneError."""
    checked_patch(recipe.patch)
    checked_phrase(recipe.phrase)
    if recipe.behind and recipe.behind.patch:
        checked_patch(recipe.behind.patch)
    if recipe.behind and recipe.behind.phrase:
        checked_phrase(recipe.behind.phrase)
    shown = charts(recipe, place.sounds, recordings_in(files))
    return shown, sentence(recipe, shown)


def pictured(place: Workplace, recipe: Recipe, caption: str, wanted: PictureFormat, files: Files) -> bytes:
    """Return a picture as a file, in a print style with its caption, or its numbers."""
    from inner_tone.formats import numbers, picture  # noqa: PLC0415 - the drawing library takes time to load

    shown, _ = charted(place, recipe, files)
    if wanted == "csv":
        return numbers.csv_bytes(shown)
    return (picture.svg if wanted == "svg" else picture.png)(shown, caption)


def tapped(place: Workplace, patch: Patch, phrase: Phrase, tap: str, wanted: SoundFormat) -> bytes:
    """Return the sound of a tap as a file."""
    take = place.take(checked_patch(patch), checked_phrase(phrase), {tap})
    signal, rate = take.sounds[tap].signal, take.render.rate
    return wav_bytes(signal, rate) if wanted == "wav" else flac_bytes(signal, rate)


@dataclass(frozen=True)
class ReadFields:
    """What each field of a step's texts reads or leads to; nothing where it means nothing."""

    values: dict[str, str | None]
    links: dict[str, Link]


def read_fields(place: Workplace, step: StepContent) -> ReadFields:
    """Return what the fields of a step's texts read; only what is measured is rendered."""
    fields = list(dict.fromkeys(field for text in texts_of(step) for field in fields_in(text)))
    links = {field: link for field in fields if (link := link_of(field, step))}
    taps = {tap for field in fields if (tap := tap_of(field, step.patch))}
    sounds = place.sounds(step.patch, step.phrase, taps) if taps else {}
    return ReadFields({field: value_of(field, step, sounds) for field in fields if field not in links}, links)


def reviewed(place: Workplace, document: LessonDocument) -> list[Concern]:
    """Return what is to be looked at in a lesson; every step is rendered for it, unless it is remembered."""

    watch, begun, count = place.watch, itertools.count(), max(1, len(document.steps))

    def check(patch: Patch, phrase: Phrase) -> tuple[Finding, ...]:
        place.begin_anew(count)
        before = next(begun)
        place.watch = lambda part: watch((before + part) / count)
        take = place.take(patch, phrase)
        return checkup(patch, phrase, take.render, take.jumps).findings

    def unread(step: StepContent) -> list[str]:
        return meaningless(step, lambda taps: place.sounds(step.patch, step.phrase, taps))

    return review(document, check, unread)


def target_of(place: Workplace, task: Task) -> Target:
    """Return the sound that a step leads to."""
    key = render_key(task.goal, task.phrase)
    if key not in _targets:
        place.charge(task.goal, task.phrase)
        _targets[key] = nearness.target_for(task.goal, task.phrase)
    return _targets[key]


def near(place: Workplace, task: Task, mine: Patch) -> Nearness:
    """Return how near a patch is to what a step leads to."""
    place.charge(checked_patch(mine), task.phrase)
    return how_near(task, mine, target_of(place, task))


@dataclass(frozen=True)
class Ticked:
    """Of each of a step's instructions, whether a patch shows it; and which of its levers are there for the step's."""

    shown: list[bool]
    levers: dict[str, str]


def ticks(place: Workplace, task: Task, mine: Patch) -> Ticked:
    """Return what a patch shows of a step."""
    wiring = match(checked_patch(mine), task.goal, task.start)
    levers = {one.id: wiring.names[one.id] for one in task.goal.modules if one.type == LEVER and one.id in wiring.names}
    return Ticked(wiring.shown(task.said), levers)


def advised(place: Workplace, task: Task, mine: Patch) -> list[Advice]:
    """Return what to turn so that a patch sounds more like a step, the best first."""
    place.charge(checked_patch(mine), task.phrase, times=TRIES)
    phrase = task.phrase_at(match(mine, task.goal, task.start))
    return nearness.advice_for(target_of(place, task), mine, phrase, place.watch)


def played(place: Workplace, data: bytes, track: int | None, levers: Sequence[str]) -> Found:
    """Return what is in a MIDI file."""
    return read_midi(data, track, levers)


def taken_image(place: Workplace, data: bytes) -> Picture:
    """Return an image as it is kept."""
    return read_image(data)


def compared(place: Workplace, task: Task, flac: bytes) -> tuple[Comparison, Tolerances, str]:
    """Return how near a recording is to what a step leads to, what counts as the same, and a sentence."""
    samples, rate = read_sound(flac, LONGEST_SECONDS + 1.0)
    tolerances = RECORDED.wider(task.aim.tolerance if task.aim else 1.0)
    place.charge(task.goal, task.phrase, times=MAKES)
    found = nearness.recording_compared(task.goal, task.phrase, samples[0], rate, tolerances)
    clauses = near_clauses(target_of(place, task), found, tolerances) if not found.same else []
    return found, tolerances, capital(said_of(clauses)) if clauses else ""


def advised_of(place: Workplace, task: Task, flac: bytes) -> list[Advice]:
    """Return what to turn on the instrument that was recorded, the best first."""
    samples, rate = read_sound(flac, LONGEST_SECONDS + 1.0)
    place.charge(task.goal, task.phrase, times=TRIES + MAKES)
    return nearness.advice_for_recording(task.goal, task.phrase, samples[0], rate, place.watch)


def recorded_outside(place: Workplace, name: str, patch: Patch, phrase: Phrase) -> bytes:
    """Return what somebody with another instrument would record of a patch, as a WAV file."""
    place.charge(patch, phrase)
    return wav_bytes(outside.recorded(name, patch, phrase).T, RATE)


@dataclass(frozen=True)
class Received:
    """A sound file that was sent, in one channel: its digest with whose it is, FLAC, its length and what it is."""

    key: str
    flac: bytes
    seconds: float


def taken_in(place: Workplace, data: bytes, owner: bytes) -> Received:
    """Return a sound file as it is kept; raises InnerToneError for one that cannot be read or is too long."""
    samples, rate = read_sound(data, LONGEST_SECONDS)
    middle = np.mean(samples, axis=0)
    return Received(sha256(owner + data).hexdigest(), flac_bytes(middle, rate), len(middle) / rate)


class SoundFacts(BaseModel):
    """What is known of a sound for samplers, and proposed: an `Arrival` with its outline.

    The outline has the least and the greatest sample of each of its parts.
    """

    seconds: float
    peak_db: float
    loudness_lufs: float
    note: float | None
    root: float
    start: float
    end: float
    loop_from: float
    loop_to: float
    crossfade_s: float
    alike: float
    words: str = ""
    lows: list[float]
    highs: list[float]


@dataclass(frozen=True)
class NewSound:
    """A sound as it is kept for samplers: the SHA-256 of its FLAC file, that file, and what was found out."""

    key: str
    flac: bytes
    facts: SoundFacts


@dataclass(frozen=True)
class Extent:
    """A part of a sound, in s; all that follows where no end is given."""

    begin_s: float
    end_s: float | None


def new_sound(channels: Floats, rate: float) -> NewSound:
    """Return samples, shape (channels, n), as a sound for samplers; raises InnerToneError for what is silent."""
    signal, words = arrived(channels, rate)
    flac = flac_bytes(signal, SOUND_RATE)
    return NewSound(sha256(flac).hexdigest(), flac, facts_of(samples_of(flac), words))


def facts_of(samples: Samples, words: str = "") -> SoundFacts:
    """Return what is known of a sound, shape (n,), at 48 kHz, and proposed for it."""
    found = arrival_of(samples.astype(np.float64))
    edges = np.linspace(0, len(samples), min(OUTLINE_PARTS, len(samples)) + 1).astype(int)[:-1]
    lows, highs = (np.round(one.reduceat(samples, edges), 4).tolist() for one in (np.minimum, np.maximum))
    return SoundFacts(**asdict(found), root=found.root, words=words, lows=lows, highs=highs)


def sound_received(place: Workplace, data: bytes) -> NewSound:
    """Return a sound file as a sound for samplers; raises InnerToneError for one that cannot be read or is too long."""
    return new_sound(*read_sound(data, LONGEST_SECONDS))


def sound_of_take(place: Workplace, patch: Patch, phrase: Phrase, tap: str | None, part: Extent) -> NewSound:
    """Return a part of a take, at a tap or as it is heard, as a sound for samplers; raises InnerToneError."""
    take = place.take(checked_patch(patch), checked_phrase(phrase), {tap} if tap else ())
    channels = take.sounds[tap].signal[np.newaxis] if tap else stereo(take.render).T.astype(np.float64)
    return new_sound(cut(channels, take.render.rate, part), take.render.rate)


def sound_of_recording(place: Workplace, flac: bytes, part: Extent) -> NewSound:
    """Return a part of a recording as a sound for samplers; raises InnerToneError."""
    samples, rate = read_sound(flac, LONGEST_SECONDS + 1.0)
    return new_sound(cut(samples, rate, part), rate)


def cut(channels: Floats, rate: float, part: Extent) -> Floats:
    """Return a part of channels, shape (channels, n), that ends softly where it is cut off; raises InnerToneError."""
    first, last = (None if at is None else round(at * rate) for at in (part.begin_s, part.end_s))
    found = channels[:, first:last]
    if found.shape[1] == 0:
        raise InnerToneError("There is no sound in this part.")
    if found.shape[1] > LONGEST_SECONDS * rate:
        raise InnerToneError(
            f"It lasts {found.shape[1] / rate:.0f} seconds; at most {LONGEST_SECONDS:.0f} can be kept."
        )
    return found if last is None or last >= channels.shape[1] else np.stack([ended(one, rate) for one in found])


def shipped_sounds(place: Workplace) -> dict[str, SoundFacts]:
    """Return the sounds that come with the program; each has a loop of its own, which no setting need say."""
    own = {"root": 0.0, "start": 0.0, "end": 1.0, "loop_from": 0.0, "loop_to": 0.0, "crossfade_s": 0.02}
    return {name: facts_of(made(name)).model_copy(update=own) for name in LIBRARY}


def shipped_sound(place: Workplace, name: str) -> bytes | None:
    """Return a sound that comes with the program as FLAC; nothing where there is none of that name."""
    return flac_bytes(made(name), SOUND_RATE) if name in LIBRARY else None


def bundled(place: Workplace, bundle: Bundle) -> bytes:
    """Return a bundle as a file."""
    return bundle_bytes(bundle)


def bundled_series(place: Workplace, bundle: SeriesBundle) -> bytes:
    """Return a series as a file."""
    return series_bytes(bundle)


@dataclass(frozen=True)
class Unbundled:
    """What is in a bundle: a lesson, or a series; and what is known of its own sounds, by their keys."""

    found: Bundle | SeriesBundle
    facts: dict[str, SoundFacts]


def unbundled(place: Workplace, data: bytes) -> Unbundled:
    """Return what is in a bundle; raises BundleError or DocumentError."""
    found = opened_any(data)
    lessons = found.lessons if isinstance(found, SeriesBundle) else (found,)
    samples = {key: one.flac for lesson in lessons for key, one in lesson.samples.items()}
    return Unbundled(found, {key: facts_of(samples_of(flac)) for key, flac in samples.items()})


def told(place: Workplace, flac: bytes) -> bytes:
    """Return in a sentence what a recording is, as UTF-8."""
    samples, rate = read_sound(flac, LONGEST_SECONDS + 1.0)
    return said_of(spectrum_clauses(sound_of(samples[0], rate).whole)).encode()


def looked_at(place: Workplace, name: str, flac: bytes, view: View) -> Chart:
    """Return what a lens shows of a recording by itself."""
    samples, rate = read_sound(flac, LONGEST_SECONDS + 1.0)
    return look(view, Recorded(name, sound_of(samples[0], rate)))
