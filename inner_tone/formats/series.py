"""A series as one ZIP file: `series.json`, and the bundle of each of its lessons in order."""

import re
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from inner_tone.core.documents import Document, read
from inner_tone.formats.bundle import (
    MOST_BYTES,
    Bundle,
    BundleError,
    bundle_bytes,
    json_of,
    opened,
    opened_files,
    text_of,
    unpacked,
)
from inner_tone.formats.zipped import zipped

SERIES = "series.json"
MOST_LESSONS = 100
NAMES = re.compile(r"^(series\.json|lessons/[0-9]{3}\.zip)$")


class SeriesDocument(Document):
    """A series as it travels: for each of its lessons the place of the one that it starts from, if that is in it."""

    format: Literal["inner-tone/series"] = "inner-tone/series"
    version: Literal[1] = 1
    title: Annotated[str, Field(min_length=1, max_length=200)]
    summary: Annotated[str, Field(max_length=2_000)] = ""
    starts: Annotated[tuple[int | None, ...], Field(max_length=MOST_LESSONS)] = ()


@dataclass(frozen=True)
class SeriesBundle:
    """A series with its lessons, and all that they need."""

    series: SeriesDocument
    lessons: tuple[Bundle, ...]


def series_bytes(bundle: SeriesBundle) -> bytes:
    """Return a series as a file; the same series, the same bytes."""
    files = {SERIES: text_of(bundle.series.model_dump(mode="json"))}
    return zipped(files | {name_of(place): bundle_bytes(one) for place, one in enumerate(bundle.lessons)})


def name_of(place: int) -> str:
    """Return what the bundle of a lesson is called."""
    return f"lessons/{place + 1:03}.zip"


def opened_any(data: bytes) -> Bundle | SeriesBundle:
    """Return what is in a file: a lesson, or a series of them; raises BundleError, or DocumentError."""
    files = unpacked(data, NAMES)
    return opened_series(files) if SERIES in files else opened_files(files)


def opened_series(files: dict[str, bytes]) -> SeriesBundle:
    """Return the series that some files are, all of it checked; raises BundleError, or DocumentError."""
    series = read(SeriesDocument, json_of(SERIES, files.pop(SERIES)))
    if list(files) != [name_of(place) for place in range(len(series.starts))]:
        raise BundleError(f"Its {SERIES} speaks of {len(series.starts)} lessons; there are others in it.")
    for place, start in enumerate(series.starts):
        if start is not None and not 0 <= start < place:
            raise BundleError(f"{name_of(place)} starts from a lesson that does not come before it.")
    room, lessons = MOST_BYTES, []
    for place, content in enumerate(files.values()):
        try:
            one = opened(content)
        except BundleError as error:
            raise BundleError(f"{name_of(place)}: {error}") from error
        room -= one.size
        if room < 0:
            raise BundleError("All its images and sounds together are too large for a bundle.")
        lessons.append(one)
    return SeriesBundle(series, tuple(lessons))
