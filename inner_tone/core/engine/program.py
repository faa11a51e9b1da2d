"""A program: what runs, as flat arrays that the compiled loop reads. Made from a wiring; nothing is compiled here."""

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import accumulate, pairwise

import numpy as np

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.engine.run import Arrays
from inner_tone.core.engine.schedule import schedule
from inner_tone.core.engine.timing import Timing
from inner_tone.core.engine.wiring import ONCE, Line, Node, Unit, UnitKey, UnitPlace, Wiring, key_of
from inner_tone.core.modules.apart import address_of, room_for
from inner_tone.core.modules.declaration import Choice, Input, Output, Row, Setting, Value
from inner_tone.core.modules.kernel import BLOCK
from inner_tone.core.modules.stock import number_of as number_of_sound
from inner_tone.core.patch.model import Module

SEEDS_APART = 1009  # chance differs from voice to voice: the seed moves on by this much


@dataclass(frozen=True)
class Program:
    """What runs: the arrays with the signals that they work in, and where units, ports and settings lie in them."""

    wiring: Wiring
    units: tuple[Unit, ...]  # in the order of computation
    places: dict[UnitKey, int]
    arrays: Arrays
    signals: Floats  # shape (rows, BLOCK + 1), the last row always zero
    state_sizes: tuple[int, ...]  # by unit
    listened: frozenset[UnitPlace]

    def output_row(self, place: UnitPlace) -> int:
        unit = self.places[place.unit]
        names = self.units[unit].module.declaration.outputs
        return int(self.arrays.outs_row[self.arrays.outs_start[unit] + number_of(names, place.output)])

    def input_row(self, key: UnitKey, name: str) -> int:
        """Return the row of an input, which is also its number among all inputs."""
        unit = self.places[key]
        return int(self.arrays.ins_start[unit] + number_of(self.units[unit].module.declaration.inputs, name))

    @property
    def lines(self) -> list[Line]:
        """The lines, as they are numbered."""
        inputs = ((unit.key, port.name) for unit in self.units for port in unit.module.declaration.inputs)
        return [line for place in inputs for line in self.wiring.lines.get(place, ())]

    @property
    def silent_row(self) -> int:
        """The row that is always zero, which stands for what is not there."""
        return len(self.signals) - 1

    def rows_of(self, key: UnitKey) -> range:
        """Return the rows of a unit's outputs."""
        starts = self.arrays.outs_start
        unit = self.places[key]
        first = int(self.arrays.outs_row[0]) if len(self.arrays.outs_row) else 0
        return range(first + int(starts[unit]), first + int(starts[unit + 1]))

    def follow(self, timing: Timing) -> None:
        """Let all units follow another beat from the next sample on."""
        numbers = timing.numbers
        for end in self.arrays.p_start[1:]:
            self.arrays.p[end - len(numbers) : end] = numbers

    @cached_property
    def by_node(self) -> dict[Node, list[UnitKey]]:
        """The units of each module, by voice."""
        found: dict[Node, list[UnitKey]] = {}
        for unit in self.units:
            found.setdefault(unit.key.node, []).append(unit.key)
        return {node: sorted(keys) for node, keys in found.items()}

    def voices_of(self, module: Module) -> list[UnitKey]:
        """Return the units of a module, by voice."""
        return self.by_node.get(key_of(module, 0).node, [])


def number_of(ports: Sequence[Input | Output], name: str) -> int:
    """Return which of some ports has a name."""
    return next(number for number, port in enumerate(ports) if port.name == name)


def program_of(
    wiring: Wiring, rate: float, taps: Collection[UnitPlace], timing: Timing, born: Mapping[UnitKey, int]
) -> Program:
    """Return the program of a wiring at a sampling rate in Hz, with the beat that it follows.

    Outputs in `taps` are computed in any case. Units that are not `born` on another sample were there from the first.
    """
    groups, loops = groups_of(wiring)
    units = tuple(unit for group in groups for unit in group)
    places = {unit.key: place for place, unit in enumerate(units)}
    inputs = [(unit, port) for unit in units for port in unit.module.declaration.inputs]
    outs_start = starts(len(unit.module.declaration.outputs) for unit in units)
    first = len(inputs)
    numbers = {
        UnitPlace(unit.key, port.name): first + int(outs_start[n]) + m
        for n, unit in enumerate(units)
        for m, port in enumerate(unit.module.declaration.outputs)
    }
    lines = [wiring.lines.get((unit.key, port.name), []) for unit, port in inputs]
    targets = [places[unit.key] for (unit, _), some in zip(inputs, lines, strict=True) for _ in some]
    ordered = [line for some in lines for line in some]
    listened = frozenset(wiring.heard | set(taps))
    heard = heard_bits(listened)
    behind = {unit.key: [float(born.get(unit.key, 0)), *timing.numbers] for unit in units}
    parameters = [parameters_of(unit, heard.get(unit.key, frozenset()), behind[unit.key]) for unit in units]
    sizes = tuple(unit.module.declaration.state_size(rate) for unit in units)
    bases = floats(
        0.0 if port.alone and some else base_of(unit.module, port)
        for (unit, port), some in zip(inputs, lines, strict=True)
    )
    resets = [
        reset_port(wiring, group, unit, loop) for group, loop in zip(groups, loops, strict=True) for unit in group
    ]
    ins_start = starts(len(unit.module.declaration.inputs) for unit in units)
    group_start = starts(len(group) for group in groups)
    arrays = Arrays(
        kernel=ints(address_of(unit.module.type) for unit in units),
        told=room_for(len(units)),
        ins_start=ins_start,
        outs_start=outs_start,
        p_start=starts(len(one) for one in parameters),
        st_start=np.zeros(len(units), dtype=np.int64),
        st_end=ints(sizes),
        ins_row=ints(range(first)),
        outs_row=ints(range(first, first + int(outs_start[-1]))),
        p=floats(value for one in parameters for value in one),
        connection_start=starts(len(some) for some in lines),
        law=ints(port.law for _, port in inputs),
        base=bases,
        base_slope=np.zeros(first),
        base_gone=np.zeros(first),
        low=floats(port.bounds[0] for _, port in inputs),
        high=floats(port.bounds[1] for _, port in inputs),
        source_row=ints(numbers[line.source] for line in ordered),
        source_lag=lags(places, targets, [line.source for line in ordered]),
        scale_row=ints(numbers[line.scale] if line.scale else -1 for line in ordered),
        scale_lag=lags(places, targets, [line.scale for line in ordered]),
        depth=floats(line.depth_before for line in ordered),
        depth_slope=np.zeros(len(ordered)),
        depth_gone=np.zeros(len(ordered)),
        group_start=group_start,
        group_is_loop=ints(loops),
        group_voice=ints(ONCE if group[0].once else group[0].voice for group in groups),
        group_resets=ints(any(port is not None for port in resets[begin:end]) for begin, end in pairwise(group_start)),
        reset_port=ints(-1 if port is None else int(ins_start[n]) + port for n, port in enumerate(resets)),
        kept=np.zeros(first + int(outs_start[-1]) + 1),
        moving=np.zeros(len(units), dtype=np.int64),
        leaving_voice=ints(voice for voice, _ in leaving(wiring)),
        leaving_row=ints(numbers[place] for _, place in leaving(wiring)),
    )
    signals = np.zeros((first + int(outs_start[-1]) + 1, BLOCK + 1))
    signals[:first] = bases[:, np.newaxis]
    return Program(wiring, units, places, arrays, signals, sizes, listened)


def reset_port(wiring: Wiring, group: Sequence[Unit], unit: Unit, loop: bool) -> int | None:
    """Return the number of the input by which a unit of a loop is begun anew from outside of it, if it is."""
    for number, port in enumerate(unit.module.declaration.inputs if loop else ()):
        lines = wiring.lines.get((unit.key, port.name), [])
        inside = {one.key for one in group}
        if port.anew and lines and not any(place.unit in inside for line in lines for place in line.ends if place):
            return number
    return None


def groups_of(wiring: Wiring) -> tuple[list[list[Unit]], list[bool]]:
    """Return the groups of the schedule as units, those of voiced modules once for each voice; and which are loops."""
    plan = schedule(wiring.feeds)
    found: list[list[Unit]] = []
    loops: list[bool] = []
    for group, loop in zip(plan.groups, plan.loops, strict=True):
        for voice in range(wiring.voices):
            units = [wiring.units[key] for node in group if (key := UnitKey(*node, voice)) in wiring.units]
            if units:
                found.append(units)
                loops.append(loop)
    return found, loops


def lags(places: dict[UnitKey, int], targets: Sequence[int], sources: Sequence[UnitPlace | None]) -> Ints:
    """Return the delay in samples of each line: 1 where it closes a loop, else 0."""
    return ints(
        source is not None and places[source.unit] >= target for target, source in zip(targets, sources, strict=True)
    )


def leaving(wiring: Wiring) -> list[tuple[int, UnitPlace]]:
    """Return what leads from each voice to what exists once: the voice, and the output."""
    found = {
        (place.unit.voice, place): None
        for (key, _), lines in wiring.lines.items()
        if wiring.units[key].once
        for line in lines
        for place in line.ends
        if place is not None and not wiring.units[place.unit].once
    }
    return list(found)


def heard_bits(listened: Iterable[UnitPlace]) -> dict[UnitKey, frozenset[str]]:
    """Return the names of the outputs that are listened to, by unit."""
    found: dict[UnitKey, set[str]] = {}
    for place in listened:
        found.setdefault(place.unit, set()).add(place.output)
    return {key: frozenset(names) for key, names in found.items()}


def ints(values: Iterable[int]) -> Ints:
    """Return whole numbers as an array."""
    return np.array([int(value) for value in values], dtype=np.int64)


def floats(values: Iterable[float]) -> Floats:
    """Return numbers as an array."""
    return np.array(list(values), dtype=np.float64)


def starts(lengths: Iterable[int]) -> Ints:
    """Return where each of several runs begins, and at the end where the last one ends."""
    return ints(accumulate(lengths, initial=0))


def base_of(module: Module, port: Input) -> float:
    """Return the base value of an input: its setting, or its default."""
    value = module.settings.get(port.name, port.base)
    assert isinstance(value, int | float)
    return float(value)


def parameters_of(unit: Unit, listened: Collection[str], behind: Sequence[float]) -> list[float]:
    """Return the settings of a unit as numbers, as `numbered` says: those of the declaration, in order, rows in full.

    Behind them stand, as bits, the outputs that are listened to, on which sample it was born, and the beat.
    """
    declared = unit.module.declaration
    settings = unit.module.all_settings
    values = [number for item in declared.settings for number in numbers_of(item, settings[item.name], unit.voice)]
    wanted = sum(1 << place for place, port in enumerate(declared.outputs) if port.name in listened)
    return [*values, float(wanted), *behind]


def numbers_of(item: Setting, value: Value, voice: int) -> list[float]:
    """Return the value of a setting as the kernels read it."""
    if isinstance(item, Choice):
        return [float(number_of_sound(str(value)) if item.own else item.options.index(value))]
    if isinstance(item, Row):
        assert isinstance(value, tuple)
        return [float(number) for number in item.padded(value)]
    assert isinstance(value, int | float)
    return [float(value) + (SEEDS_APART * voice if item.role == "seed" else 0)]
