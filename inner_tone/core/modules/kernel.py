"""What all kernels share: how they are compiled, and the signature that the engine calls them by."""

import os
from collections.abc import Callable
from hashlib import sha256
from pathlib import Path
from typing import Any, NamedTuple, TypeVar, cast

import numba
import numpy as np
from numpy.typing import NDArray

CORE = Path(__file__).resolve().parent.parent
REPOSITORY = CORE.parent.parent

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

Compiled = TypeVar("Compiled", bound=Callable[..., Any])


class Tables(NamedTuple):
    """Band-limited cycles for the oscillators, shared by all voices; see `wavetables`."""

    saw: Floats
    triangle: Floats
    start: Ints
    size: Ints
    lowest: float


def source_digest() -> str:
    """Return a digest of everything that is compiled, so that no cache outlives the code it was made from.

    Numba looks only at the file of the function that it loads, not at the files of the functions that this
    one calls; and a cached render must not outlive the kernel that made it.
    """
    digest = sha256(numba.__version__.encode() + np.__version__.encode())
    for folder in ("modules", "engine"):
        for file in sorted((CORE / folder).glob("*.py")):
            digest.update(file.read_bytes())
    return digest.hexdigest()[:16]


ENGINE_VERSION = source_digest()

if not os.environ.get("NUMBA_CACHE_DIR"):
    vars(numba.config)["CACHE_DIR"] = str(REPOSITORY / "var" / "compiled" / ENGINE_VERSION)


def compiled(function: Compiled) -> Compiled:
    """Compile to machine code, kept on disk, without the interpreter's lock; exact IEEE arithmetic."""
    return cast(Compiled, numba.njit(nogil=True, cache=True, error_model="numpy")(function))
