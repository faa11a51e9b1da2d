"""What all kernels share: how they are compiled, and the signature that the engine calls them by."""

import sys
from collections.abc import Callable
from typing import Any, Generic, NamedTuple, ParamSpec, TypeVar, cast

import numba
from numba.core import cgutils, types
from numba.extending import intrinsic

from inner_tone.core.arrays import Floats, Ints, Samples

BLOCK = 128  # the most samples that a kernel is asked for at once

# No kernel uses linear algebra. Numba would load SciPy's for those that do, which takes half a second at each start.
if "scipy.linalg" not in sys.modules:
    sys.modules["scipy.linalg"] = cast(Any, None)
    import numba.np.arraymath

    del sys.modules["scipy.linalg"]

Compiled = TypeVar("Compiled", bound=Callable[..., Any])
Lent = TypeVar("Lent")
Given = ParamSpec("Given")
Returned = TypeVar("Returned")


class Cycles(NamedTuple):
    """Band-limited cycles for the oscillators; see `wavetables`."""

    saw: Floats
    triangle: Floats
    start: Ints
    size: Ints
    lowest: float


class Sounds(NamedTuple):
    """The samplers' sounds, one after another, each in several versions; see `stock`."""

    samples: Samples
    row: Ints  # by a sound's number in this process: which of the following is its own, -1 where it is not here
    start: Ints  # shape (sounds, versions): where each version begins
    size: Ints
    scale: Floats  # samples of a version for each sample of what is played
    length: Floats  # shape (sounds,), in samples of what is played
    loop: Floats  # shape (sounds, 2): the loop that it came with, as parts of its length


class Tables(NamedTuple):
    """What kernels look up, the same for all voices."""

    cycles: Cycles
    sounds: Sounds


def compiled(function: Compiled) -> Compiled:
    """Compile to machine code, as part of what calls it; exact IEEE arithmetic."""
    return cast(Compiled, numba.njit(nogil=True, error_model="numpy")(function))


def plain(function: Compiled) -> Compiled:
    """Return a compiled function as it was written, for Python to call once: compiling it would take longer."""
    return cast(Compiled, cast(Any, function).py_func)


class Entry(Generic[Given, Returned]):
    """What Python calls, with all that it calls, without the interpreter's lock; compiled at its first call."""

    def __init__(self, function: Callable[Given, Returned]) -> None:
        self.function = function
        self.machine_code: Callable[Given, Returned] | None = None

    def __call__(self, *args: Given.args, **kwargs: Given.kwargs) -> Returned:
        """Run the machine code."""
        if self.machine_code is None:
            from inner_tone.core.modules.machine import keeping  # noqa: PLC0415 - looks at all that this calls

            self.machine_code = keeping(numba.njit(nogil=True, error_model="numpy")(self.function), self.function)
        return self.machine_code(*args, **kwargs)


def entry(function: Callable[Given, Returned]) -> Entry[Given, Returned]:
    """Compile what Python calls; see `Entry`."""
    return Entry(function)


def inlined(function: Compiled) -> Compiled:
    """Compile a short formula so that it always becomes part of the loop that calls it, which may run on vectors."""
    return cast(Compiled, numba.njit(nogil=True, error_model="numpy", forceinline=True)(function))


def lend(typing_context: Any, arrays: Any) -> Any:
    """Return an array, or a tuple of arrays, whose owners are not counted; the caller must keep the originals.

    Counting costs several nanoseconds for every array that is looked at, which adds up where modules of a loop
    are called for one sample at a time.
    """

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        return without_owner(context, builder, signature.args[0], arguments[0])

    return arrays(arrays), codegen


borrowed = cast(Callable[[Lent], Lent], intrinsic(lend))


def without_owner(context: Any, builder: Any, kind: Any, value: Any) -> Any:
    """Return a compiled value with no owner in the arrays that it holds."""
    if isinstance(kind, types.Array):
        array = context.make_array(kind)(context, builder, value)
        array.meminfo = cast(Any, cgutils).get_null_value(array.meminfo.type)
        array.parent = cast(Any, cgutils).get_null_value(array.parent.type)
        return array._getvalue()
    if isinstance(kind, types.BaseTuple):
        for place, member in enumerate(cast(Any, kind).types):
            bare = without_owner(context, builder, member, builder.extract_value(value, place))
            value = builder.insert_value(value, bare, place)
    return value
