"""Reads what is named on the command line."""

import json
from pathlib import Path
from typing import Any

from inner_tone.core.errors import InnerToneError
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.validate import read_patch
from inner_tone.core.phrase import Phrase, read_phrase


def json_file(path: Path) -> Any:
    """Return the data of a JSON file; raises InnerToneError or OSError."""
    try:
        return json.loads(path.read_text(encoding="utf-8"))
    except UnicodeDecodeError as error:
        raise InnerToneError(f"{path}: This is not a text in UTF-8 (byte {error.start}).") from error
    except json.JSONDecodeError as error:
        raise InnerToneError(
            f"{path}: This is not JSON: line {error.lineno}, column {error.colno}: {error.msg}."
        ) from error


def patch_file(path: Path) -> Patch:
    """Return the patch in a file; raises InnerToneError or OSError."""
    try:
        return read_patch(json_file(path))
    except InnerToneError as error:
        raise named(path, error) from error


def phrase_file(path: Path) -> Phrase:
    """Return the phrase in a file; raises InnerToneError or OSError."""
    try:
        return read_phrase(json_file(path))
    except InnerToneError as error:
        raise named(path, error) from error


def named(path: Path, error: InnerToneError) -> InnerToneError:
    """Return the error with the file's name before it."""
    return error if str(error).startswith(str(path)) else InnerToneError(f"{path}: {error}")
