"""Machine code that is kept on disk, each function by itself, under a digest of what it was made from.

Where the repository lies and when a file was written play no part: a copy of it, or one that is laid out anew, finds
what was compiled before, and a change to one function compiles what calls it and nothing else.
"""

import os
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import suppress
from functools import cache
from pathlib import Path
from types import FunctionType
from typing import Any, Self, cast

from numba.core.caching import CompileResultCacheImpl, FunctionCache, _CacheLocator

from inner_tone.core.modules.version import version_of

REPOSITORY = Path(__file__).resolve().parents[3]
USED_AGAIN_S = 86_400.0  # what is used is marked so once a day
FORGOTTEN_S = 60 * 86_400.0  # what nobody has used for so long is cleared away


@cache
def folder() -> Path:
    """Return where machine code is kept: with what the user's other programs keep, or in the repository.

    Where neither can be written to, it is kept for this process alone: what others could have laid there is not run.
    """
    home = Path(os.environ.get("XDG_CACHE_HOME") or os.path.expanduser("~/.cache"))
    for place in (home / "inner-tone", REPOSITORY / "var" / "compiled"):
        with suppress(OSError):
            place.mkdir(mode=0o700, parents=True, exist_ok=True)
            if place.stat().st_uid == os.getuid() and os.access(place, os.W_OK):
                return place
    return Path(tempfile.mkdtemp())


class Locator(_CacheLocator):
    """Where the machine code of a function is kept."""

    def __init__(self, function: FunctionType) -> None:
        self.version = version_of(function)
        self._py_file = function.__code__.co_filename

    @classmethod
    def from_function(cls, py_func: FunctionType, py_file: str) -> Self:
        """Return where a function's is."""
        return cls(py_func)

    def get_cache_path(self) -> str:
        """Return the folder."""
        return str(folder())

    def get_source_stamp(self) -> str:
        """Return what it was made from."""
        return self.version

    def get_disambiguator(self) -> str:
        """Return what tells it from others, and from what the same function was before."""
        return self.version


class Implementation(CompileResultCacheImpl):
    """What is kept of a function: as Numba does it, but elsewhere."""

    _locator_classes = cast(Any, [Locator])


class Kept(FunctionCache):
    """The machine code of a function on disk, for each kind of processor."""

    _impl_class = Implementation

    def _index_key(self, sig: Any, codegen: Any) -> tuple[Any, Any]:
        """Return what it depends on besides: its version already stands for all that it is made from."""
        return sig, codegen.magic_tuple()

    def load_overload(self, sig: Any, target_context: Any) -> Any:
        """Return what is kept, if there is any, and mark it as used."""
        found = cast(Any, super()).load_overload(sig, target_context)
        if found is not None:
            index = Path(self._cache_file._index_path)
            with suppress(OSError):
                if time.time() - index.stat().st_mtime > USED_AGAIN_S:
                    for file in files_of(index):
                        os.utime(file)
        return found


def files_of(index: Path) -> Iterator[Path]:
    """Yield the files of a function: its index, and one for each kind of processor."""
    return index.parent.glob(f"{index.stem}.*")


def clear_away() -> None:
    """Clear away what nobody has used for long."""
    for file in folder().glob("*.nb?"):
        with suppress(OSError):
            if time.time() - file.stat().st_mtime > FORGOTTEN_S:
                file.unlink()


def keeping(compiled: Any, function: Callable[..., Any]) -> Any:
    """Let a function that Numba will compile be kept on disk, and taken from there; returns it."""
    compiled._cache = cast(Any, Kept)(function)
    return compiled
