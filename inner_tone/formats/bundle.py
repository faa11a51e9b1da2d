"""Bundles: a lesson as one ZIP file, `lesson.json` within. The same lesson, the same bytes."""

import json
import zipfile
from io import BytesIO
from pathlib import Path

from inner_tone.core.documents import read
from inner_tone.core.errors import InnerToneError
from inner_tone.core.lesson.lesson import LessonDocument, checked_lesson

LESSON = "lesson.json"
BEGINNING = (1980, 1, 1, 0, 0, 0)  # the date of everything in a bundle: the earliest that a ZIP file can have
MOST_BYTES = 64 * 1024 * 1024


def bundle_bytes(lesson: LessonDocument) -> bytes:
    """Return a lesson as a bundle."""
    data = lesson.model_dump(mode="json", by_alias=True, exclude_none=True)
    text = json.dumps(data, ensure_ascii=False, indent=1) + "\n"
    buffer = BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as bundle:
        bundle.writestr(zipfile.ZipInfo(LESSON, BEGINNING), text.encode(), zipfile.ZIP_DEFLATED)
    return buffer.getvalue()


def read_bundle(path: Path) -> LessonDocument:
    """Return the lesson of a bundle; raises InnerToneError with what is wrong and where, and OSError."""
    try:
        with zipfile.ZipFile(path) as bundle:
            if bundle.getinfo(LESSON).file_size > MOST_BYTES:
                raise InnerToneError(f"{path}: its {LESSON} is too large to be a lesson.")
            data = json.loads(bundle.read(LESSON))
    except zipfile.BadZipFile as error:
        raise InnerToneError(f"{path}: This is not a bundle (a ZIP file): {error}.") from error
    except KeyError as error:
        raise InnerToneError(f"{path}: There is no {LESSON} in this bundle.") from error
    except ValueError as error:
        raise InnerToneError(f"{path}: Its {LESSON} is not JSON: {error}.") from error
    lesson = read(LessonDocument, data)
    return checked_lesson(lesson)
