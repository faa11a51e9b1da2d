"""What a declaration promises: kernels find all by name, no type is named elsewhere, prose changes no version."""

import ast
import json
import unittest
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from types import FunctionType, ModuleType

from inner_tone.core.engine.program import program_of
from inner_tone.core.engine.timing import Timing
from inner_tone.core.engine.wiring import wiring_of
from inner_tone.core.modules import CATALOGUE, MODULE_TYPES, OUTPUT, PLAYER, version
from inner_tone.core.modules.declaration import Row, numbered
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.port import Port, ports
from tests.support.patches import RATE, module, patch

ROOT = Path(__file__).resolve().parents[2]
MOST_NAMED = 15
MOST_ASKED = 0
ASKING = ("coming", "get", "input", "measure_of", "number", "of", "on", "output", "row", "setting", "with_settings")
HOLDING = (".name", "by_name", "choices", "rows", "rulers", "setting")


def strings_of(file: Path) -> list[tuple[int, str]]:
    """Return the texts of a file that are no prose, with their lines."""
    tree = ast.parse(file.read_text())
    prose = {
        id(node.body[0].value)
        for node in ast.walk(tree)
        if isinstance(node, ast.Module | ast.FunctionDef | ast.ClassDef)
        and node.body
        and isinstance(node.body[0], ast.Expr)
    }
    found = (node for node in ast.walk(tree) if isinstance(node, ast.Constant) and id(node) not in prose)
    return [(node.lineno, node.value) for node in found if isinstance(node.value, str)]


def names_asked_for(file: Path) -> list[tuple[int, str]]:
    """Return the texts of a file by which it asks for a port or a setting, with their lines."""
    found: list[tuple[int, str]] = []
    for node in ast.walk(ast.parse(file.read_text())):
        asked: list[ast.expr] = []
        if isinstance(node, ast.Call):
            called = node.func.attr if isinstance(node.func, ast.Attribute) else getattr(node.func, "id", "")
            asked += node.args if called in ASKING else []
            asked += [one.value for one in node.keywords if one.arg == "setting"]
            if called == "Module":
                dicts = [one.value for one in node.keywords if one.arg == "settings"]
                asked += [key for one in dicts if isinstance(one, ast.Dict) for key in one.keys if key]
        elif isinstance(node, ast.Subscript) and "settings" in ast.unparse(node.value):
            asked.append(node.slice)
        elif isinstance(node, ast.Compare) and any(word in ast.unparse(node) for word in HOLDING):
            asked += [node.left, *node.comparators]
        elif isinstance(node, ast.comprehension | ast.For) and ast.unparse(node.target) != "role":
            asked.append(node.iter)
        found += [one for text in asked for one in texts_in(text)]
    return found


def texts_in(node: ast.AST) -> Iterator[tuple[int, str]]:
    """Yield the texts that an expression may be, or of which it is a tuple, with their lines."""
    if isinstance(node, ast.Constant) and isinstance(node.value, str):
        yield node.lineno, node.value
    elif isinstance(node, ast.Tuple | ast.List | ast.Set | ast.IfExp):
        for one in ast.iter_child_nodes(node):
            yield from texts_in(one)


class NamesTest(unittest.TestCase):
    def test_ports_and_settings_are_asked_for_by_their_roles_outside_of_their_files(self) -> None:
        own: set[str] = set()
        common: set[str] = set()
        for one in MODULE_TYPES:
            names = {item.name for item in (*one.inputs, *one.outputs, *one.settings)}
            (common if one.name in (PLAYER, OUTPUT) else own).update(names)
        named = [
            f"{file.relative_to(ROOT)}:{line} {text}"
            for folder in ("core", "work", "live")
            for file in sorted((ROOT / "inner_tone" / folder).rglob("*.py"))
            if "modules" not in file.parts and file.name not in ("templates.py", "accompaniments.py")
            for line, text in names_asked_for(file)
            if text in own - common
        ]
        self.assertLessEqual(len(named), MOST_ASKED, "\n".join(named))

    def test_a_role_is_played_once_by_each_type(self) -> None:
        for one in MODULE_TYPES:
            played = [(item.role, getattr(item, "channel", "")) for item in (*one.inputs, *one.settings) if item.role]
            self.assertEqual(len(played), len(set(played)), one.name)
            self.assertEqual({one.named(*role) for role in played}, set(one.names_by_role.values()))
        self.assertEqual(CATALOGUE["mixer"].named("mute", "3"), "mute3")
        self.assertEqual(CATALOGUE["mixer"].named("ring"), "")

    def test_types_are_named_in_few_places_outside_of_their_files(self) -> None:
        core = ROOT / "inner_tone" / "core"
        named = [
            f"{file.relative_to(ROOT)}:{line} {text}"
            for file in sorted(core.rglob("*.py"))
            if core / "modules" not in file.parents and file.name != "templates.py"
            for line, text in strings_of(file)
            if text in CATALOGUE
        ]
        self.assertLessEqual(len(named), MOST_NAMED, "\n".join(named))

    def test_every_setting_is_found_where_the_program_puts_it(self) -> None:
        for declared in MODULE_TYPES:
            inputs, outputs, settings = numbered(declared)
            program = program_of(
                wiring_of(Graph(patch([module("one", declared.name)]))), RATE, (), Timing(97.0, 7, 0.5), {}
            )
            numbers = program.arrays.p.tolist()
            for item in declared.settings:
                place = getattr(settings, item.name)
                given = declared.defaults[item.name]
                if isinstance(item, Row):
                    wanted = item.ruler.default
                elif isinstance(given, str) or item.name in declared.choices:
                    wanted = float(declared.choices[item.name].options.index(given))
                else:
                    wanted = float(given)  # type: ignore[arg-type]
                self.assertEqual(numbers[place], wanted, f"{declared.name}.{item.name}")
            behind = [numbers[getattr(settings, name)] for name in ("born", "tempo", "since", "beat", "runs")]
            self.assertEqual(behind, [0.0, 97.0, 7.0, 0.5, 1.0], declared.name)
            self.assertEqual((len(inputs), len(outputs)), (len(declared.inputs), len(declared.outputs)))

    def test_port_is_split_once_and_stays_a_text(self) -> None:
        port = Port("bell.cutoff")
        self.assertEqual((port, port.module, port.name), ("bell.cutoff", "bell", "cutoff"))
        self.assertIs(Port(port), port)
        by_text: dict[str, int] = {port: 1}
        self.assertEqual(by_text["bell.cutoff"], 1)
        self.assertEqual(json.dumps(ports(["a.b", "c.d"])), '["a.b", "c.d"]')
        self.assertEqual(port.on("horn"), Port.of("horn", "cutoff"))

    def test_lever_has_a_ruler_of_its_own_range(self) -> None:
        value = next(one for one in CATALOGUE["lever"].numbers if one.name == "value")
        settings = CATALOGUE["lever"].defaults | {"low": 8000, "high": 200, "step": 0, "travel": "log"}
        ruler = value.ruler_with(settings)
        self.assertEqual((ruler.low, ruler.high, ruler.travel), (200.0, 8000.0, "log"))
        self.assertEqual(value.ruler_with(settings | {"high": -200}).travel, "linear", "ratios need both ends above 0")


class VersionTest(unittest.TestCase):
    def parts(self, source: str) -> list[object]:
        found: dict[str, object] = {}
        exec(compile(source, "somewhere", "exec"), found)
        function = found["gain"]
        assert isinstance(function, FunctionType)
        return list(version.parts_of(function))

    def test_prose_and_place_do_not_count_but_code_and_numbers_do(self) -> None:
        source = 'LEVEL = 2.0\n\n\ndef gain(x):\n    """Make it louder."""\n    return LEVEL * x + 1.0\n'
        self.assertEqual(self.parts(source), self.parts(source.replace("Make it louder.", "Make it much louder.")))
        self.assertEqual(self.parts(source), self.parts("# a remark\n\n" + source))
        for other in (source.replace("LEVEL = 2.0", "LEVEL = 2.5"), source.replace("+ 1.0", "+ 1.5")):
            self.assertNotEqual(self.parts(source), self.parts(other))

    def test_help_texts_of_a_declaration_do_not_count_but_its_bounds_do(self) -> None:
        declared = CATALOGUE["amplifier"]
        told = replace(declared, summary="Other words.", explanation="More of them.", words=("loud",), title="Amp")
        self.assertEqual(version.declared_numbers(told), version.declared_numbers(declared))
        level = replace(declared.inputs[1], bounds=(0.0, 4.0))
        bounded = replace(declared, inputs=(declared.inputs[0], level))
        self.assertNotEqual(version.declared_numbers(bounded), version.declared_numbers(declared))

    def test_every_part_of_the_engine_counts(self) -> None:
        folder = ROOT / "inner_tone" / "core" / "engine"
        plain = {file.stem for file in folder.glob("*.py")} - {"__init__", "dispatch", "probe", "run", "warm"}
        self.assertEqual(plain, set(version.NAMES), "a new file of the engine has to be listed")

    def test_functions_of_classes_count_too(self) -> None:
        holder = ModuleType("holder")
        exec("class Box:\n    @property\n    def one(self): return 1\n    def two(self): return 2\n", vars(holder))
        holder.__dict__["Box"].__module__ = "holder"
        for one in ("one", "two"):
            function = vars(holder.__dict__["Box"])[one]
            (function.fget if isinstance(function, property) else function).__module__ = "holder"
        self.assertEqual({one.__name__ for one in version.functions_of(holder)}, {"one", "two"})


if __name__ == "__main__":
    unittest.main()
