"""Loads the compiled engine, or compiles it on the first use, so that nobody waits for their first sound."""

import multiprocessing
import os
from collections.abc import Callable
from functools import partial

import numpy as np

from inner_tone.core.engine.render import render
from inner_tone.core.engine.run import limit
from inner_tone.core.modules import CATALOGUE, OUTPUT
from inner_tone.core.modules.apart import address_of, kernel_of
from inner_tone.core.modules.machine import clear_away
from inner_tone.core.modules.version import reached
from inner_tone.core.patch.model import Module, Patch
from inner_tone.core.phrase import Phrase


def warm() -> None:
    """Load the loop, the limiter and every kernel."""
    for load in parts():
        load()


def parts() -> list[Callable[[], object]]:
    """Return what loads each part that is compiled by itself, or compiles it; what takes longest comes first."""
    names = sorted(CATALOGUE, key=code_size, reverse=True)
    return [load_loop, *(partial(address_of, name) for name in names), load_limiter]


def load_loop() -> None:
    """Load the loop that calls the kernels."""
    render(Patch(modules=(Module(id="out", type=OUTPUT),)), Phrase(beats=0.1))


def load_limiter() -> None:
    """Load the limiter, which what is not too loud never needs."""
    limit(np.zeros(1), np.zeros(1), np.zeros(1), 0.5)


def code_size(type_name: str) -> int:
    """Return how much is compiled for a kernel, roughly."""
    return sum(len(one.__code__.co_code) for one in reached(kernel_of(type_name).py_func))


def load_part(number: int) -> None:
    parts()[number]()


def compile_all() -> None:
    """Compile what is not on the disk yet, on all processors, and clear away what nobody has used for long."""
    with multiprocessing.get_context("fork").Pool(os.cpu_count()) as pool:
        pool.map(load_part, range(len(parts())), chunksize=1)
    clear_away()


if __name__ == "__main__":
    compile_all()
