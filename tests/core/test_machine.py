"""Machine code: each kernel is compiled by itself, once, under a digest of what it is made from."""

import os
import subprocess
import sys
import tempfile
import time
import unittest
from importlib import import_module
from pathlib import Path
from types import CodeType, FunctionType
from typing import Any, cast
from unittest import mock

import numba

from inner_tone.core.engine.render import render_key
from inner_tone.core.engine.run import limit
from inner_tone.core.engine.warm import warm
from inner_tone.core.modules import CATALOGUE
from inner_tone.core.modules.apart import PLACES, WORD, address_of, kernel_of, room_for, tables_type
from inner_tone.core.modules.machine import FORGOTTEN_S, clear_away
from inner_tone.core.modules.tables import tables_for
from inner_tone.core.modules.version import reached, type_version, version_of
from tests.support.application import ROOT
from tests.support.patches import module, patch, phrase

LOAD = """
from inner_tone.core.modules.apart import compiled_kernel
print(compiled_kernel("scale").cache_hits)
"""


def versions() -> dict[str, str]:
    """Return the version of every kernel."""
    return {name: version_of(kernel_of(name).py_func) for name in CATALOGUE}


class VersionTest(unittest.TestCase):
    def test_a_change_to_one_type_renames_the_renders_that_have_it_and_no_others(self) -> None:
        self.addCleanup(type_version.cache_clear)
        without = {name: render_key(patch([module("one", name)]), phrase((0, 1, 60))) for name in CATALOGUE}
        self.assertEqual(len(set(without.values())), len(CATALOGUE))
        home = import_module("inner_tone.core.modules.reverb")
        number = next(one for one, value in vars(home).items() if one.isupper() and isinstance(value, float))
        type_version.cache_clear()
        with mock.patch.object(home, number, getattr(home, number) + 1):
            now = {name: render_key(patch([module("one", name)]), phrase((0, 1, 60))) for name in CATALOGUE}
        self.assertEqual({name for name in CATALOGUE if now[name] != without[name]}, {"reverb"})

    def test_a_number_that_one_kernel_reads_changes_that_one_alone(self) -> None:
        before = versions()
        for name in ("reverb", "ladder"):
            home = import_module(f"inner_tone.core.modules.{name}")
            numbers = [one for one, value in vars(home).items() if one.isupper() and isinstance(value, int | float)]
            read = {word for one in reached(home.kernel.py_func) for word in one.__code__.co_names}
            number = next(one for one in numbers if one in read)
            with mock.patch.object(home, number, getattr(home, number) + 1):
                changed = {one for one, version in versions().items() if version != before[one]}
            self.assertEqual(changed, {name}, number)
        self.assertEqual(versions(), before)

    def test_a_formula_that_many_call_changes_all_that_do(self) -> None:
        shared = import_module("inner_tone.core.modules.functions")
        formula: FunctionType = shared.exp2.py_func
        callers = {name for name in CATALOGUE if formula in reached(kernel_of(name).py_func)}
        self.assertGreater(len(callers), 1)
        self.assertLess(len(callers), len(CATALOGUE))
        before = versions()
        other = formula.__code__.replace(co_consts=(*formula.__code__.co_consts, 0.125))
        self.recompiled(formula, other)
        self.assertEqual({one for one, version in versions().items() if version != before[one]}, callers)

    def test_prose_changes_nothing(self) -> None:
        before, function = versions(), kernel_of("amplifier").py_func
        said, other = function.__doc__, "Other words."
        constants = tuple(other if one == said else one for one in function.__code__.co_consts)
        self.assertNotEqual(constants, function.__code__.co_consts)
        self.recompiled(function, function.__code__.replace(co_consts=constants, co_firstlineno=9))
        self.addCleanup(setattr, function, "__doc__", said)
        function.__doc__ = other
        self.assertEqual(versions(), before)

    def recompiled(self, function: FunctionType, code: CodeType) -> None:
        """Let a function have other code until the test ends."""
        self.addCleanup(setattr, function, "__code__", function.__code__)
        function.__code__ = code


class KeptTest(unittest.TestCase):
    def test_another_process_finds_it_and_another_copy_of_the_repository_too(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            copy = Path(folder) / "copy"
            copy.mkdir()
            (copy / "inner_tone").symlink_to(ROOT / "inner_tone")
            environment = {**os.environ, "XDG_CACHE_HOME": folder}
            hits = [
                subprocess.check_output([sys.executable, "-c", LOAD], cwd=where, env=environment, text=True).strip()
                for where in (ROOT, ROOT, copy)
            ]
            self.assertEqual(hits, ["0", "1", "1"])
            kept = sorted((Path(folder) / "inner-tone").iterdir())
            self.assertEqual(len(kept), 2, "an index, and the code for this processor")
            self.assertEqual({file.stat().st_mode & 0o077 for file in kept} & {0o022}, set(), "nobody else writes")
            old = time.time() - FORGOTTEN_S - 60
            os.utime(kept[0], (old, old))
            with mock.patch("inner_tone.core.modules.machine.folder", lambda: Path(folder) / "inner-tone"):
                clear_away()
            self.assertEqual([file.exists() for file in kept], [False, True])

    def test_every_type_has_an_address_of_its_own(self) -> None:
        self.assertEqual(len({address_of(name) for name in CATALOGUE}), len(CATALOGUE))

    def test_what_is_told_to_kernels_has_the_layout_that_they_expect(self) -> None:
        self.assertEqual(cast(Any, numba).typeof(tables_for((), 48_000.0)), tables_type())
        self.assertEqual(room_for(3).shape, (3, PLACES))
        self.assertEqual(room_for(3).itemsize, WORD)

    def test_the_limiter_is_loaded_with_the_rest(self) -> None:
        with mock.patch.object(limit, "machine_code", None):
            warm()
            self.assertIsNotNone(limit.machine_code)


if __name__ == "__main__":
    unittest.main()
