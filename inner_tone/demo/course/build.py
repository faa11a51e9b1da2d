"""Builds the bundles of the course from its sources: the same sources, the same bytes."""

import json
import re
from collections.abc import Mapping
from functools import lru_cache
from hashlib import sha256
from pathlib import Path

from inner_tone.core.modules.sounds import RATE
from inner_tone.core.modules.stock import bring
from inner_tone.demo.course.source import Source, read_source
from inner_tone.formats.audio import samples_of
from inner_tone.formats.bundle import Bundle, BundledSample, samples_in
from inner_tone.formats.series import SeriesBundle, SeriesDocument, series_bytes

HERE = Path(__file__).parent
SOURCES, BUNDLES = HERE / "sources", HERE / "bundles"
SOUNDS = SOURCES / "sounds"
OWN = re.compile(r"(?<=sound=)@([a-z-]+)")  # a sound that the lessons bring along, by the name of its file

SERIES: dict[str, tuple[str, str]] = {
    "1": (
        "From the first tone",
        "Tones, loudness, shape and brightness: what every sound of Saltmarsh is made of, one decision at a time.",
    ),
    "2": (
        "What makes a sound its own",
        "Filters, levers, several sources at once, and modulators in the audible: how one voice becomes another.",
    ),
    "3": (
        "Everything moves everything",
        "Modulators of modulators, loops, rows of numbers that play by themselves, and voices that play together.",
    ),
}


@lru_cache(maxsize=1)
def course() -> dict[str, Source]:
    """Return all lessons of the course by their names, in the order in which they are taught; raises SourceError."""
    found: dict[str, Source] = {}
    own = own_sounds()
    bring({key: samples_of(one.flac) for key, one in own.values()})
    called = {name: f'"{key} {one.name}"' for name, (key, one) in own.items()}
    for path in sorted(SOURCES.glob("*.md")):
        text = OWN.sub(lambda match: called[match[1]], path.read_text(encoding="utf-8"))
        found[path.stem] = read_source(path.stem, text, found)
    return found


def own_sounds() -> dict[str, tuple[str, BundledSample]]:
    """Return the sounds that the lessons bring along, by the names of their files: their keys, and themselves."""
    abouts = json.loads((SOUNDS / "sounds.json").read_text(encoding="utf-8"))
    found: dict[str, tuple[str, BundledSample]] = {}
    for name, about in abouts.items():
        flac = (SOUNDS / f"{name}.flac").read_bytes()
        seconds = len(samples_of(flac)) / RATE
        sample = BundledSample(about["name"], seconds, flac, about["source"], about["licence"])
        found[name] = sha256(flac).hexdigest(), sample
    return found


def bundles() -> Mapping[str, bytes]:
    """Return the bundle of each series, by the name of its file."""
    lessons = course()
    return {f"series-{number}.zip": series_bytes(series_of(number, lessons)) for number in SERIES}


def series_of(number: str, lessons: Mapping[str, Source]) -> SeriesBundle:
    """Return one of the series, with its lessons in order."""
    inside = [name for name in lessons if name.startswith(f"{number}-")]
    starts = tuple(inside.index(lessons[name].start) if lessons[name].start in inside else None for name in inside)
    title, summary = SERIES[number]
    document = SeriesDocument(title=title, summary=summary, starts=starts)
    own = dict(own_sounds().values())
    return SeriesBundle(document, tuple(bundle_of(lessons[name], own) for name in inside))


def bundle_of(source: Source, own: Mapping[str, BundledSample]) -> Bundle:
    """Return a lesson with the sounds that it plays."""
    return Bundle(source.document, samples={key: own[key] for key in samples_in(source.document)})
