"""The kernels of the module types, each compiled by itself and called through its address.

So the loop that calls them need not be compiled anew when one of them changes, and who renders a patch loads the code
of its types alone. What a kernel is given lies in memory, and it is told where: arrays and tables of arrays, passed by
value, would fill a hundred words of the stack at each call, which loops make for single samples.
"""

from collections.abc import Callable
from functools import cache, lru_cache
from importlib import import_module
from typing import Any, cast

import numba
import numpy as np
from llvmlite import ir
from numba.core import cgutils, types
from numba.core.ccallback import CFunc
from numba.extending import intrinsic

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.kernel import Cycles, Tables, inlined, without_owner
from inner_tone.core.modules.machine import keeping
from inner_tone.core.modules.tables import NO_SOUNDS

SIGNALS = types.Array(types.float64, 2, "C")
FLOATS = types.Array(types.float64, 1, "C")
INTS = types.Array(types.int64, 1, "C")
WORDS = 7  # that stand for an array of one dimension: owner, parent, length, item size, address, shape, stride
PLACES = 4 * WORDS  # for what a unit has: its inputs' rows, its outputs', its settings and its state
WORD = 8  # bytes
CALLED = types.void(*[types.intp] * 3, types.float64, types.intp, types.intp)


@lru_cache(maxsize=1)
def tables_type() -> Any:
    """Return the type of the tables as compiled code sees it."""
    none, numbers = np.zeros(1), np.zeros(1, dtype=np.int64)
    return cast(Any, numba).typeof(Tables(Cycles(none, none, numbers, numbers, 1.0), NO_SOUNDS))


def lying(kind: Callable[[], Any]) -> Any:
    """Return what gives compiled code the value of a type that lies at an address; its owners are not counted."""

    def read(typing_context: Any, address: Any) -> Any:
        def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
            pointer = builder.inttoptr(arguments[0], context.get_value_type(kind()).as_pointer())
            return without_owner(context, builder, kind(), builder.load(pointer))

        return kind()(types.intp), codegen

    return intrinsic(read)


signals_at = cast(Callable[[int], Floats], lying(lambda: SIGNALS))
floats_at = cast(Callable[[int], Floats], lying(lambda: FLOATS))
ints_at = cast(Callable[[int], Ints], lying(lambda: INTS))
tables_at = cast(Callable[[int], Tables], lying(tables_type))


def lay(typing_context: Any, value: Any) -> Any:
    """Lay a value where it stays until the function that does so has ended; return its address."""

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        slot = cast(Any, cgutils).alloca_once(builder, arguments[0].type)
        builder.store(arguments[0], slot)
        return builder.ptrtoint(slot, context.get_value_type(types.intp))

    return types.intp(value), codegen


def lay_at(typing_context: Any, address: Any, value: Any) -> Any:

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        builder.store(arguments[1], builder.inttoptr(arguments[0], arguments[1].type.as_pointer()))
        return context.get_dummy_value()

    return types.void(types.intp, value), codegen


def call(typing_context: Any, kernel: Any, signals: Any, unit: Any, tables: Any, rate: Any, a: Any, b: Any) -> Any:
    """Call the kernel at an address for samples a…b of a unit."""

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        word, number = context.get_value_type(types.intp), context.get_value_type(types.float64)
        kind = ir.FunctionType(ir.VoidType(), [word, word, word, number, word, word])
        builder.call(builder.inttoptr(arguments[0], kind.as_pointer()), arguments[1:])
        return context.get_dummy_value()

    return types.void(*[types.intp] * 4, types.float64, types.intp, types.intp), codegen


laid = cast(Callable[[Any], int], intrinsic(lay))
lie_at = cast(Callable[[int, Any], None], intrinsic(lay_at))
call_kernel = cast(Callable[[int, int, int, int, float, int, int], None], intrinsic(call))


def entered(kernel: Any) -> Any:
    """Return a kernel as what can be called by its address."""
    body = inlined(kernel.py_func)  # so that of what lies there no more is read than it uses

    def enter(signals: int, unit: int, tables: int, rate: float, a: int, b: int) -> None:
        body(
            signals_at(signals),
            ints_at(unit),
            ints_at(unit + WORDS * WORD),
            floats_at(unit + 2 * WORDS * WORD),
            floats_at(unit + 3 * WORDS * WORD),
            tables_at(tables),
            rate,
            a,
            b,
        )

    enter.__qualname__ = enter.__name__ = kernel.py_func.__module__.rsplit(".", 1)[1]
    vars(enter)["layout"] = str(tables_type())
    return keeping(CFunc(enter, (CALLED.args, CALLED.return_type), {}, {"error_model": "numpy"}), enter)


def kernel_of(type_name: str) -> Any:
    """Return the kernel of a module type as its file declares it."""
    return import_module(f"inner_tone.core.modules.{type_name}").kernel


@cache
def compiled_kernel(type_name: str) -> Any:
    """Return the compiled kernel of a module type: from the disk if it is there."""
    found = entered(kernel_of(type_name))
    found.compile()
    return found


def address_of(type_name: str) -> int:
    """Return where the kernel of a module type is."""
    return int(compiled_kernel(type_name).address)


def room_for(units: int) -> Ints:
    """Return room for what is told to the kernels of so many units."""
    return np.zeros((units, PLACES), dtype=np.int64)
