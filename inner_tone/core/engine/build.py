"""Turns a patch into a program: flat arrays that the compiled loop runs. Nothing is compiled here.

A module that exists once per voice becomes as many units; a module that exists once is one unit, of voice 0.
Where a line leads from voices to a module that exists once, there is one connection for each voice: they sum.
"""

from collections.abc import Collection, Iterable, Iterator
from dataclasses import dataclass
from itertools import accumulate

import numpy as np

from inner_tone.core.engine.run import Program
from inner_tone.core.engine.schedule import Schedule, schedule
from inner_tone.core.engine.voices import is_for_all, ports_of, voiced_modules
from inner_tone.core.errors import TapError, did_you_mean
from inner_tone.core.modules import OPERATION
from inner_tone.core.modules.declaration import Choice, Input, Row, Setting, Value
from inner_tone.core.modules.kernel import BLOCK, Floats, Ints
from inner_tone.core.patch.model import Connection, Module, Patch, split_port

SEEDS_APART = 1009  # chance differs from voice to voice: the seed moves on by this much

Rows = dict[str, list[int]]


@dataclass(frozen=True)
class Unit:
    """A module in one voice."""

    module: Module
    voice: int


@dataclass(frozen=True)
class Built:
    """A program with the memory that it runs in, and where its ports, states and settings lie, voice by voice."""

    program: Program
    signals: Floats  # shape (rows, BLOCK + 1)
    states: Floats
    output_rows: Rows
    input_rows: Rows
    connected_inputs: frozenset[str]
    heard_outputs: frozenset[str]
    state_starts: Rows
    parameter_starts: Rows

    def rows(self, tap: str, voices: int) -> list[int]:
        """Return the rows of a port by voice; an output goes before an input of the same name. Raises TapError."""
        rows = self.output_rows.get(tap) or self.input_rows.get(tap)
        if rows is None:
            known = [*self.output_rows, *self.input_rows]
            raise TapError(f"There is nothing called “{tap}” to listen to. {did_you_mean(tap, known)}")
        return rows if len(rows) == voices else rows * voices

    def state_of(self, module: Module, voice: int, rate: float) -> Floats:
        """Return the part of the states that belongs to a module in one voice."""
        return self.states[self.state_starts[module.id][voice] :][: module.declaration.state_size(rate)]


@dataclass(frozen=True)
class Line:
    """A connection between rows: what an input of a unit really reads."""

    source: int
    source_lag: int
    scale: int
    scale_lag: int
    depth: float


def build(patch: Patch, rate: float, taps: Collection[str] = (), tempo: float = 120.0) -> Built:
    """Return the program of a patch at a sampling rate in Hz and a tempo in beats per minute.

    Outputs in `taps` are computed in any case.
    """
    plan = schedule(patch)
    voiced = voiced_modules(patch)
    groups, loops = groups_of(patch, plan, voiced)
    units = [unit for group in groups for unit in group]
    inputs = [(unit, port) for unit in units for port in unit.module.declaration.inputs]
    outputs = [(unit, port) for unit in units for port in unit.module.declaration.outputs]
    input_rows = rows_by_name((f"{unit.module.id}.{port.name}" for unit, port in inputs), 0)
    output_rows = rows_by_name((f"{unit.module.id}.{port.name}" for unit, port in outputs), len(inputs))
    listened = listened_outputs(patch) | set(taps)
    wiring = Wiring(patch, plan, voiced, output_rows, lines_by_target(patch))
    lines = [list(wiring.lines_to(unit, port)) for unit, port in inputs]
    sizes = [unit.module.declaration.state_size(rate) for unit in units]
    parameters = [parameters_of(unit, listened, tempo) for unit in units]
    ordered = [line for one in lines for line in one]
    program = Program(
        operation=ints(OPERATION[unit.module.type] for unit in units),
        ins_start=starts(len(unit.module.declaration.inputs) for unit in units),
        outs_start=starts(len(unit.module.declaration.outputs) for unit in units),
        p_start=starts(len(one) for one in parameters),
        st_start=starts(sizes),
        ins_row=ints(range(len(inputs))),
        outs_row=ints(range(len(inputs), len(inputs) + len(outputs))),
        p=floats(value for one in parameters for value in one),
        connection_start=starts(len(one) for one in lines),
        law=ints(port.law for _, port in inputs),
        base=floats(base_of(unit.module, port) for unit, port in inputs),
        low=floats(port.bounds[0] for _, port in inputs),
        high=floats(port.bounds[1] for _, port in inputs),
        source_row=ints(line.source for line in ordered),
        source_lag=ints(line.source_lag for line in ordered),
        scale_row=ints(line.scale for line in ordered),
        scale_lag=ints(line.scale_lag for line in ordered),
        depth=floats(line.depth for line in ordered),
        group_start=starts(len(group) for group in groups),
        group_is_loop=ints(loops),
        group_voice=ints(group[0].voice for group in groups),
    )
    signals = np.zeros((len(inputs) + len(outputs), BLOCK + 1))
    signals[: len(inputs)] = program.base[:, np.newaxis]
    return Built(
        program,
        signals,
        np.zeros(sum(sizes)),
        output_rows,
        input_rows,
        frozenset(line.target for line in patch.connections),
        frozenset(heard(patch.modules, listened)),
        by_module(units, program.st_start),
        by_module(units, program.p_start),
    )


def groups_of(patch: Patch, plan: Schedule, voiced: Collection[str]) -> tuple[list[list[Unit]], list[bool]]:
    """Return the groups of the schedule as units, those of voiced modules once for each voice; and which are loops."""
    groups = [
        ([Unit(patch.by_id[name], voice) for name in group], loop)
        for group, loop in zip(plan.groups, plan.loops, strict=True)
        for voice in range(patch.voices if group[0] in voiced else 1)
    ]
    return [units for units, _ in groups], [loop for _, loop in groups]


def lines_by_target(patch: Patch) -> dict[str, list[Connection]]:
    """Return the connections of each input that has any, in the patch's order."""
    found: dict[str, list[Connection]] = {}
    for connection in patch.connections:
        found.setdefault(connection.target, []).append(connection)
    return found


@dataclass(frozen=True)
class Wiring:
    """The lines of a patch, seen from the inputs of its units."""

    patch: Patch
    plan: Schedule
    voiced: Collection[str]
    output_rows: Rows
    lines: dict[str, list[Connection]]

    def lines_to(self, unit: Unit, port: Input) -> Iterator[Line]:
        """Yield what an input of a unit reads: in its own voice, or of all voices if the unit exists once."""
        for connection in self.lines.get(f"{unit.module.id}.{port.name}", []):
            alone = unit.module.id in self.voiced
            for voice in [unit.voice] if alone else range(self.voices_of(connection)):
                yield self.line(connection, voice)

    def voices_of(self, connection: Connection) -> int:
        """Return how many voices a connection sums where it enters something that exists once."""
        ports = ports_of(connection)
        many = any(split_port(port)[0] in self.voiced and not is_for_all(self.patch, port) for port in ports)
        return self.patch.voices if many else 1

    def line(self, connection: Connection, voice: int) -> Line:
        """Return a connection as it is in one voice."""
        target = split_port(connection.target)[0]
        scale = connection.scaled_by
        return Line(
            self.row(connection.source, voice),
            self.plan.lag(split_port(connection.source)[0], target),
            self.row(scale, voice) if scale else -1,
            self.plan.lag(split_port(scale)[0], target) if scale else 0,
            connection.depth,
        )

    def row(self, port: str, voice: int) -> int:
        """Return the row of an output in one voice."""
        rows = self.output_rows[port]
        return rows[voice] if len(rows) > 1 else rows[0]


def ints(values: Iterable[int]) -> Ints:
    """Return whole numbers as an array."""
    return np.array([int(value) for value in values], dtype=np.int64)


def floats(values: Iterable[float]) -> Floats:
    """Return numbers as an array."""
    return np.array(list(values), dtype=np.float64)


def starts(lengths: Iterable[int]) -> Ints:
    """Return where each of several runs begins, and at the end where the last one ends."""
    return ints(accumulate(lengths, initial=0))


def rows_by_name(names: Iterable[str], first: int) -> Rows:
    """Return the rows of ports by name, one for each time that the name comes up."""
    rows: Rows = {}
    for row, name in enumerate(names, first):
        rows.setdefault(name, []).append(row)
    return rows


def by_module(units: Iterable[Unit], begin: Ints) -> Rows:
    """Return where the units' parts of an array begin, by module and voice."""
    found: Rows = {}
    for unit, start in zip(units, begin, strict=False):
        found.setdefault(unit.module.id, []).append(int(start))
    return found


def listened_outputs(patch: Patch) -> set[str]:
    """Return the outputs that some connection reads."""
    return {port for connection in patch.connections for port in ports_of(connection)}


def heard(modules: Iterable[Module], listened: Collection[str]) -> Iterable[str]:
    """Yield the outputs that are really computed: all but those on demand that nothing listens to."""
    for module in modules:
        for port in module.declaration.outputs:
            name = f"{module.id}.{port.name}"
            if not port.on_demand or name in listened:
                yield name


def base_of(module: Module, port: Input) -> float:
    """Return the base value of an input: its setting, or its default."""
    value = module.settings.get(port.name, port.base)
    assert isinstance(value, int | float)
    return float(value)


def parameters_of(unit: Unit, listened: Collection[str], tempo: float) -> list[float]:
    """Return the settings of a unit as numbers, in the order of the declaration, choices as places, rows in full.

    Behind them stand, as bits, the outputs that are listened to, and the tempo in beats per minute.
    """
    module = unit.module
    values = [
        number
        for item in module.declaration.settings
        for number in numbers_of(item, module.all_settings[item.name], unit.voice)
    ]
    outputs = [f"{module.id}.{port.name}" for port in module.declaration.outputs]
    wanted = sum(1 << place for place, name in enumerate(outputs) if name in listened)
    return [*values, float(wanted), tempo]


def numbers_of(item: Setting, value: Value, voice: int) -> list[float]:
    """Return the value of a setting as the kernels read it."""
    if isinstance(item, Choice):
        return [float(item.options.index(value))]
    if isinstance(item, Row):
        assert isinstance(value, tuple)
        return [float(number) for number in item.padded(value)]
    assert isinstance(value, int | float)
    return [float(value) + (SEEDS_APART * voice if item.name == "seed" else 0)]
