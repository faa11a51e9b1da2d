"""Bundles: a lesson as one ZIP file. The same lesson, the same bytes; what is in it is known by its own digest.

`lesson.json` is the lesson, `images/` what stands in its texts, `sounds/` the recordings that its plates look at, and
`sounds.json` what they are called; `samples/` are the own sounds that its samplers play, and `samples.json` says what
they are called, where they come from and what may be done with them. Nothing else may be in it: what is not understood
is not opened.
"""

import io
import json
import re
import stat
import struct
import zipfile
import zlib
from collections.abc import Mapping
from dataclasses import dataclass, field
from hashlib import sha256
from pathlib import Path
from typing import Any

from PIL import Image

from inner_tone.core.documents import read
from inner_tone.core.errors import InnerToneError
from inner_tone.core.lesson.lesson import LessonDocument, checked_lesson
from inner_tone.core.modules.sounds import RATE
from inner_tone.core.modules.stock import key_of, name_of
from inner_tone.formats.audio import read_sound
from inner_tone.formats.image import FORMATS, MOST_PIXELS
from inner_tone.formats.zipped import zipped

LESSON, SOUNDS, SAMPLES = "lesson.json", "sounds.json", "samples.json"
MOST_BYTES = 64 * 1024 * 1024  # of all that is in it, unpacked
MOST_JSON = 24 * 1024 * 1024
MOST_FILES = 500
MOST_NAME, MOST_SAMPLE_NAME, MOST_ABOUT = 120, 60, 200
LONGEST_SECONDS = 61.0  # of a recording, as it is kept
SUFFIXES = {"PNG": "png", "JPEG": "jpg"}
MEDIA = {"png": "image/png", "jpg": "image/jpeg"}
NAME = re.compile(r"^(images/[0-9a-f]{64}\.(?:png|jpg)|(?:sounds|samples)/[0-9a-f]{64}\.flac)$")
IMAGE = re.compile(r"/api/images/([0-9a-f]{64})")


class BundleError(InnerToneError):
    """A file that is no bundle, or one that is damaged or wrong."""


@dataclass(frozen=True)
class BundledSound:
    """A recording in a bundle: its name, its length, and itself as FLAC."""

    name: str
    seconds: float
    flac: bytes


@dataclass(frozen=True)
class BundledSample(BundledSound):
    """An own sound in a bundle, in one channel at 48 kHz: where it comes from, and what may be done with it, too."""

    source: str = ""
    licence: str = ""


@dataclass(frozen=True)
class Bundle:
    """A lesson with all that it needs, by the SHA-256 of each."""

    lesson: LessonDocument
    images: Mapping[str, bytes] = field(default_factory=dict)
    sounds: Mapping[str, BundledSound] = field(default_factory=dict)
    samples: Mapping[str, BundledSample] = field(default_factory=dict)

    @property
    def size(self) -> int:
        """How many bytes its images and sounds have."""
        heard = [*self.sounds.values(), *self.samples.values()]
        return sum(map(len, self.images.values())) + sum(len(one.flac) for one in heard)


def images_in(lesson: LessonDocument) -> set[str]:
    """Return the keys of the images that stand in a lesson's texts."""
    return set(IMAGE.findall(lesson.model_dump_json(by_alias=True)))


def recordings_in(lesson: LessonDocument) -> set[str]:
    """Return the keys of the recordings that a lesson's plates look at."""
    behind = (plate.recipe.behind for step in lesson.steps for plate in step.plates)
    return {one.recording for one in behind if one is not None and one.recording is not None}


def samples_in(lesson: LessonDocument) -> dict[str, str]:
    """Return the own sounds that samplers play anywhere in a lesson: what they are called there, by their keys."""
    found: dict[str, str] = {}

    def look(value: Any) -> None:
        if isinstance(value, dict):
            settings = value.get("settings")
            for one in settings.values() if "type" in value and isinstance(settings, dict) else ():
                if isinstance(one, str) and key_of(one):
                    found.setdefault(key_of(one), name_of(one))
        for one in value.values() if isinstance(value, dict) else value if isinstance(value, list) else ():
            look(one)

    look(lesson.model_dump(mode="json", by_alias=True))
    return found


def with_recordings(lesson: LessonDocument, keys: Mapping[str, str]) -> LessonDocument:
    """Return a lesson whose plates look at recordings under other keys."""

    def moved(value: Any) -> Any:
        if isinstance(value, dict):
            known = {name: moved(one) for name, one in value.items()}
            if isinstance(known.get("recording"), str):
                known["recording"] = keys.get(known["recording"], known["recording"])
            return known
        return [moved(one) for one in value] if isinstance(value, list) else value

    return LessonDocument.model_validate(moved(lesson.model_dump(mode="json", by_alias=True))) if keys else lesson


def suffix_of(data: bytes) -> str:
    """Return how the name of an image file ends; raises BundleError for one that cannot be read."""
    try:
        with Image.open(io.BytesIO(data), formats=FORMATS) as image:
            suffix = SUFFIXES.get(image.format or "")
            if image.width * image.height > MOST_PIXELS:
                raise BundleError("One of its images is larger than any that is kept.")
            image.verify()
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        raise BundleError("One of its images is damaged: it cannot be read.") from error
    if suffix is None:
        raise BundleError("One of its images is neither PNG nor JPEG.")
    return suffix


def bundle_bytes(bundle: Bundle) -> bytes:
    """Return a bundle as a file."""
    files = {LESSON: text_of(bundle.lesson.model_dump(mode="json", by_alias=True, exclude_none=True))}
    if bundle.sounds:
        files[SOUNDS] = text_of({key: {"name": one.name} for key, one in sorted(bundle.sounds.items())})
    files |= {f"images/{key}.{suffix_of(data)}": data for key, data in bundle.images.items()}
    files |= {f"sounds/{key}.flac": one.flac for key, one in bundle.sounds.items()}
    if bundle.samples:
        files[SAMPLES] = text_of(
            {
                key: {"name": one.name, "source": one.source, "licence": one.licence}
                for key, one in sorted(bundle.samples.items())
            }
        )
    files |= {f"samples/{key}.flac": one.flac for key, one in bundle.samples.items()}
    return zipped(files)


def text_of(data: object) -> bytes:
    """Return data as JSON that people can read; ids and moments as they are written."""
    return (json.dumps(data, ensure_ascii=False, indent=1, default=str) + "\n").encode()


def read_bundle(path: Path) -> LessonDocument:
    """Return the lesson of a bundle; raises InnerToneError with what is wrong and where, and OSError."""
    if path.stat().st_size > MOST_BYTES:
        raise BundleError(f"{path}: This is larger than any bundle.")
    try:
        return opened(path.read_bytes()).lesson
    except BundleError as error:
        raise BundleError(f"{path}: {error}") from error


def opened(data: bytes) -> Bundle:
    """Return what is in a bundle, all of it checked; raises BundleError, or DocumentError for the lesson itself."""
    return opened_files(unpacked(data))


def opened_files(files: Mapping[str, bytes]) -> Bundle:
    """Return the bundle that some files are, as above."""
    if LESSON not in files:
        raise BundleError(f"There is no {LESSON} in this bundle.")
    lesson = checked_lesson(read(LessonDocument, json_of(LESSON, files[LESSON])))
    names, abouts = said_in(files, SOUNDS), said_in(files, SAMPLES)
    images, sounds, samples = {}, {}, {}
    for name, content in files.items():
        if name in (LESSON, SOUNDS, SAMPLES):
            continue
        key = name.partition("/")[2].partition(".")[0]
        if sha256(content).hexdigest() != key:
            raise BundleError(f"{name} is not what its name says: it was changed or damaged.")
        if name.startswith("images/"):
            if not name.endswith(suffix_of(content)):
                raise BundleError(f"{name} is an image of another kind than its name says.")
            images[key] = content
        elif name.startswith("sounds/"):
            sounds[key] = sound_of(name, content, named_in(SOUNDS, name, names.get(key)))
        else:
            samples[key] = sample_of(name, content, abouts.get(key))
    return complete(Bundle(lesson, images, sounds, samples))


def said_in(files: Mapping[str, bytes], name: str) -> dict[str, Any]:
    """Return what is said of sounds in a file, by their keys; raises BundleError."""
    found = json_of(name, files[name]) if name in files else {}
    if not isinstance(found, dict):
        raise BundleError(f"Its {name} is not what it should be: what is said of sounds, by their keys.")
    return found


def complete(bundle: Bundle) -> Bundle:
    """Return a bundle if all that its lesson needs is in it, and nothing else; raises BundleError."""
    for what, needed, there in (
        ("image", images_in(bundle.lesson), set(bundle.images)),
        ("recording", recordings_in(bundle.lesson), set(bundle.sounds)),
        ("sound", set(samples_in(bundle.lesson)), set(bundle.samples)),
    ):
        if needed - there:
            raise BundleError(f"A {what} of the lesson is missing: {min(needed - there)[:12]}….")
        if there - needed:
            raise BundleError(f"There is a {what} in it that the lesson does not need: {min(there - needed)[:12]}….")
    return bundle


def named_in(where: str, name: str, said: object) -> str:
    """Return what a sound of a bundle is called; raises BundleError where that is not said."""
    called = said.get("name") if isinstance(said, dict) else None
    if not isinstance(called, str) or not 1 <= len(called) <= MOST_NAME:
        raise BundleError(f"Its {where} does not say what {name} is called.")
    return called


def sound_of(name: str, content: bytes, called: str, only_rate: float | None = None) -> BundledSound:
    """Return a recording of a bundle; raises BundleError for one that cannot be read."""
    try:
        samples, rate = read_sound(content, LONGEST_SECONDS)
    except InnerToneError as error:
        raise BundleError(f"{name}: {error}") from error
    if len(samples) != 1 or not content.startswith(b"fLaC") or rate != (only_rate or rate):
        raise BundleError(f"{name} is no sound in one channel, as FLAC{', at 48 kHz' if only_rate else ''}.")
    return BundledSound(called, samples.shape[1] / rate, content)


def sample_of(name: str, content: bytes, said: object) -> BundledSample:
    """Return an own sound of a bundle; raises BundleError for one that cannot be read."""
    found = sound_of(name, content, named_in(SAMPLES, name, said), RATE)
    about = {part: said.get(part, "") for part in ("source", "licence")} if isinstance(said, dict) else {}
    if any(not isinstance(one, str) or len(one) > MOST_ABOUT for one in about.values()):
        raise BundleError(f"Its {SAMPLES} says of {name} what is no source or licence.")
    return BundledSample(found.name[:MOST_SAMPLE_NAME], found.seconds, found.flac, **about)


def json_of(name: str, content: bytes) -> Any:
    """Return what a file of a bundle holds as JSON; raises BundleError."""
    try:
        return json.loads(content)
    except (ValueError, RecursionError) as error:
        raise BundleError(f"Its {name} is not JSON, or nested too deep to be meant.") from error


def unpacked(data: bytes, others: re.Pattern[str] | None = None) -> dict[str, bytes]:
    """Return the files of a bundle by their names, of which `others` may be there too.

    Raises BundleError for whatever has no place in one.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            listed = packed.infolist()
            if len(listed) > MOST_FILES:
                raise BundleError(f"There are {len(listed)} files in it; no bundle has more than {MOST_FILES}.")
            files: dict[str, bytes] = {}
            room = MOST_BYTES
            for one in listed:
                refuse_strange(one, files, others)
                most = min(room, MOST_JSON if one.filename.endswith(".json") else MOST_BYTES)
                with packed.open(one) as file:
                    files[one.filename] = content = file.read(most + 1)  # however large it says that it is
                if len(content) > most:
                    raise BundleError(f"{one.filename} is too large for a bundle, unpacked.")
                room -= len(content)
            return files
    except (zipfile.BadZipFile, zipfile.LargeZipFile, NotImplementedError, EOFError, OSError, ValueError) as error:
        raise BundleError("This is not a bundle (a ZIP file), or it is damaged.") from error
    except (RuntimeError, zlib.error, MemoryError, OverflowError, struct.error) as error:
        raise BundleError("It cannot be unpacked: it is damaged, or locked with a password.") from error


def refuse_strange(one: zipfile.ZipInfo, known: Mapping[str, bytes], others: re.Pattern[str] | None) -> None:
    """Raise BundleError for a file that has no place in a bundle."""
    shown = one.filename[:80]
    if one.filename in known:
        raise BundleError(f"{shown} is in it twice.")
    if stat.S_ISLNK(one.external_attr >> 16):
        raise BundleError(f"{shown} is no file but a link.")
    fits = (
        one.filename in (LESSON, SOUNDS, SAMPLES) or NAME.match(one.filename) or (others and others.match(one.filename))
    )
    if not fits:
        raise BundleError(f"“{shown}” has no place in a bundle.")
