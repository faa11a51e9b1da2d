"""The version of what is compiled, and of all that a sound depends on: digests of code and numbers, not of prose.

A help text, a comment or another order of the files changes neither. What is compiled is known by the bytecode of its
functions and by the numbers that they read from their modules, which Numba freezes into the machine code; what else
makes a sound, by the bytecode of the engine and by what the declarations say in numbers.
"""

from collections.abc import Iterable, Iterator
from functools import cache, lru_cache
from hashlib import sha256
from importlib import import_module
from inspect import isclass, isfunction, unwrap
from types import CodeType, FunctionType, ModuleType
from typing import Any, cast

import numba
import numpy as np

from inner_tone.core.modules.kernel import Entry

LIBRARIES = (numba.__version__, np.__version__)
NAMES = (
    "changes",
    "events",
    "keys",
    "memory",
    "playing",
    "program",
    "recorder",
    "render",
    "rest",
    "schedule",
    "timing",
    "wiring",
)
ENGINE = tuple(f"inner_tone.core.engine.{name}" for name in NAMES)
TABLES = tuple(f"inner_tone.core.modules.{name}" for name in ("sounds", "stock", "tables", "wavetables"))
RATE = 48_000.0


@lru_cache(maxsize=1)
def engine_version() -> str:
    """Return a digest of everything that any sound depends on but for the patch and the phrase."""
    from inner_tone.core.modules import CATALOGUE  # noqa: PLC0415 - the module types stand upon this package

    return version_with(CATALOGUE)


def version_with(types: Iterable[str]) -> str:
    """Return a digest of what makes the sound of a patch that has modules of these types: it keys the renders."""
    return digest(common_version(), *(f"{name} {type_version(name)}" for name in sorted(set(types))))


@lru_cache(maxsize=1)
def common_version() -> str:
    """Return a digest of what makes all sounds: the loop, the limiter, the tables, and what prepares them."""
    run = import_module("inner_tone.core.engine.run")
    called = {
        one
        for entry in vars(run).values()
        if isinstance(entry, Entry)
        for one in reached(cast(FunctionType, entry.function))
    }
    functions = {one for name in (*ENGINE, *TABLES) for one in functions_of(import_module(name))}
    return digest(LIBRARIES, *digests(called | functions))


@cache
def type_version(name: str) -> str:
    """Return a digest of what a module of a type does with what it is given."""
    declared = import_module(f"inner_tone.core.modules.{name}")
    return digest(version_of(declared.kernel.py_func), declared_numbers(declared.MODULE))


def version_of(function: FunctionType) -> str:
    """Return a digest of a compiled function and of all that it calls, so that no machine code outlives either."""
    return digest(LIBRARIES, *digests(reached(function)))


def reached(function: FunctionType) -> set[FunctionType]:
    """Return a function with all of this package that it calls, compiled or made while it is compiled."""
    found: set[FunctionType] = set()
    left = [function]
    while left:
        one = left.pop()
        if one in found:
            continue
        found.add(one)
        values = [one.__globals__.get(name) for name in names_in(one.__code__)]
        values += [cell.cell_contents for cell in one.__closure__ or ()]
        left += [bare for value in values if (bare := bare_of(value)) is not None]
    return found


def bare_of(value: Any) -> FunctionType | None:
    """Return a function of this package as it was written, if a value is one, compiled or not."""
    for name in ("py_func", "function", "_defn"):  # what Numba compiles, an entry, and what writes machine code itself
        value = getattr(value, name, value)
    return value if isfunction(value) and value.__module__.startswith("inner_tone.") else None


def digest(*parts: object) -> str:
    """Return the first 16 digits of the SHA-256 of some parts as text."""
    found = sha256()
    for part in parts:
        found.update(repr(part).encode())
    return found.hexdigest()[:16]


def digests(functions: Iterable[FunctionType]) -> list[str]:
    """Return a digest of each function, in an order that does not depend on what was imported first."""
    return sorted(digest(*parts_of(function)) for function in set(functions))


def functions_of(module: ModuleType) -> Iterator[FunctionType]:
    """Yield the functions of a module and of its classes."""
    for one in vars(module).values():
        inner = [one, *(vars(one).values() if isclass(one) else ())]
        for found in inner:
            bare = found.fget if isinstance(found, property) else getattr(found, "func", found)
            bare = unwrap(bare) if callable(bare) else bare
            if isfunction(bare) and bare.__module__ == module.__name__:
                yield bare


def parts_of(function: FunctionType) -> Iterator[object]:
    """Yield what a function is made of: its name, its code, and the numbers of its module that it reads."""
    yield function.__module__, function.__qualname__, vars(function).get("layout")
    yield from code_of(function.__code__, function.__doc__)
    for name in sorted(names_in(function.__code__)):
        value = function.__globals__.get(name)
        if is_number(value):
            yield name, numbers_of(value)


def code_of(code: CodeType, prose: str | None = None) -> Iterator[object]:
    """Yield the bytecode of a function and its constants, without its prose and without its place in the file."""
    yield code.co_code, code.co_names, code.co_varnames
    for constant in code.co_consts:
        if isinstance(constant, CodeType):
            yield from code_of(constant)
        elif prose is None or constant != prose:
            yield sorted(constant, key=repr) if isinstance(constant, frozenset) else constant


def names_in(code: CodeType) -> set[str]:
    """Return the names that a function reads, with those of the functions inside of it."""
    inner = [names_in(one) for one in code.co_consts if isinstance(one, CodeType)]
    return set(code.co_names).union(*inner)


def is_number(value: Any) -> bool:
    """Tell whether a value is made of numbers or texts that code may read."""
    if isinstance(value, tuple | list):
        return all(is_number(one) for one in value)
    if isinstance(value, dict):
        return all(is_number(one) for one in value.values())
    return isinstance(value, int | float | str | np.ndarray | np.generic)


def numbers_of(value: Any) -> object:
    """Return a value in one way of writing, arrays by their bytes."""
    if isinstance(value, np.ndarray):
        return value.dtype.str, value.shape, value.tobytes()
    if isinstance(value, tuple | list):
        return [numbers_of(one) for one in value]
    if isinstance(value, dict):
        return [(str(name), numbers_of(one)) for name, one in value.items()]
    return value


def declared_numbers(declared: Any) -> object:
    """Return what a declaration says in numbers: what the engine reads of it."""
    inputs = [(one.name, int(one.law), one.bounds, one.base) for one in declared.inputs]
    outputs = [(one.name, one.on_demand, one.for_all, one.ear) for one in declared.outputs]
    settings = [(one.name, getattr(one, "length", 1), getattr(one, "options", ())) for one in declared.settings]
    defaults = sorted((name, repr(value)) for name, value in declared.defaults.items())
    return declared.name, declared.shared, inputs, outputs, settings, defaults, declared.state_size(RATE)
