"""Turns a patch into a program: flat arrays that the compiled loop runs. Nothing is compiled here."""

from collections.abc import Collection, Iterable
from dataclasses import dataclass
from itertools import accumulate

import numpy as np

from inner_tone.core.engine.run import Program
from inner_tone.core.engine.schedule import Schedule, schedule
from inner_tone.core.errors import TapError, did_you_mean
from inner_tone.core.modules import OPERATION
from inner_tone.core.modules.declaration import Choice, Input
from inner_tone.core.modules.kernel import BLOCK, Floats, Ints
from inner_tone.core.patch.model import Connection, Module, Patch, split_port


@dataclass(frozen=True)
class Built:
    """A program with the memory that it runs in, and where its ports and states lie."""

    program: Program
    signals: Floats  # shape (rows, BLOCK + 1)
    states: Floats
    output_rows: dict[str, int]
    input_rows: dict[str, int]
    connected_inputs: frozenset[str]
    heard_outputs: frozenset[str]
    state_start: dict[str, int]

    def row(self, tap: str) -> int:
        """Return the row of a port; an output goes before an input of the same name. Raises TapError."""
        row = self.output_rows.get(tap, self.input_rows.get(tap))
        if row is None:
            known = [*self.output_rows, *self.input_rows]
            raise TapError(f"There is nothing called “{tap}” to listen to. {did_you_mean(tap, known)}")
        return row


def build(patch: Patch, rate: float, taps: Collection[str] = ()) -> Built:
    """Return the program of a patch at a sampling rate in Hz; outputs in `taps` are computed in any case."""
    plan = schedule(patch)
    modules = [patch.by_id[name] for group in plan.groups for name in group]
    input_names = [f"{module.id}.{port.name}" for module in modules for port in module.declaration.inputs]
    output_names = [f"{module.id}.{port.name}" for module in modules for port in module.declaration.outputs]
    input_rows = {name: row for row, name in enumerate(input_names)}
    output_rows = {name: row + len(input_names) for row, name in enumerate(output_names)}
    listened = listened_outputs(patch) | set(taps)
    by_target = connections_by_target(patch, input_names)
    ports = [port for module in modules for port in module.declaration.inputs]
    bases = np.array([base_of(module, port) for module in modules for port in module.declaration.inputs])
    sizes = [module.declaration.state_size(rate) for module in modules]
    parameters = [parameters_of(module, listened) for module in modules]
    ordered = [connection for name in input_names for connection in by_target[name]]
    program = Program(
        operation=ints(OPERATION[module.type] for module in modules),
        ins_start=starts(len(module.declaration.inputs) for module in modules),
        outs_start=starts(len(module.declaration.outputs) for module in modules),
        p_start=starts(len(one) for one in parameters),
        st_start=starts(sizes),
        ins_row=ints(input_rows.values()),
        outs_row=ints(output_rows.values()),
        p=np.array([value for one in parameters for value in one], dtype=np.float64),
        connection_start=starts(len(by_target[name]) for name in input_names),
        law=ints(port.law for port in ports),
        base=bases.astype(np.float64),
        low=np.array([port.bounds[0] for port in ports], dtype=np.float64),
        high=np.array([port.bounds[1] for port in ports], dtype=np.float64),
        source_row=ints(output_rows[connection.source] for connection in ordered),
        source_lag=ints(lag_of(plan, connection.source, connection) for connection in ordered),
        scale_row=ints(output_rows[c.scaled_by] if c.scaled_by else -1 for c in ordered),
        scale_lag=ints(lag_of(plan, c.scaled_by, c) if c.scaled_by else 0 for c in ordered),
        depth=np.array([connection.depth for connection in ordered], dtype=np.float64),
        group_start=starts(len(group) for group in plan.groups),
        group_is_loop=ints(plan.loops),
    )
    signals = np.zeros((len(input_names) + len(output_names), BLOCK + 1))
    signals[: len(input_names)] = program.base[:, np.newaxis]
    return Built(
        program,
        signals,
        np.zeros(sum(sizes)),
        output_rows,
        input_rows,
        frozenset(name for name in input_names if by_target[name]),
        frozenset(heard(modules, listened)),
        dict(zip((module.id for module in modules), accumulate(sizes, initial=0), strict=False)),
    )


def ints(values: Iterable[int]) -> Ints:
    """Return whole numbers as an array."""
    return np.array([int(value) for value in values], dtype=np.int64)


def starts(lengths: Iterable[int]) -> Ints:
    """Return where each of several runs begins, and at the end where the last one ends."""
    return ints(accumulate(lengths, initial=0))


def listened_outputs(patch: Patch) -> set[str]:
    """Return the outputs that some connection reads."""
    ports = {connection.source for connection in patch.connections}
    return ports | {connection.scaled_by for connection in patch.connections if connection.scaled_by}


def heard(modules: Iterable[Module], listened: Collection[str]) -> Iterable[str]:
    """Yield the outputs that are really computed: all but those on demand that nothing listens to."""
    for module in modules:
        for port in module.declaration.outputs:
            name = f"{module.id}.{port.name}"
            if not port.on_demand or name in listened:
                yield name


def connections_by_target(patch: Patch, input_names: Iterable[str]) -> dict[str, list[Connection]]:
    """Return the connections of each input, in the patch's order."""
    found: dict[str, list[Connection]] = {name: [] for name in input_names}
    for connection in patch.connections:
        found[connection.target].append(connection)
    return found


def base_of(module: Module, port: Input) -> float:
    """Return the base value of an input: its setting, or its default."""
    return float(module.settings.get(port.name, port.base))


def lag_of(plan: Schedule, source: str, connection: Connection) -> int:
    """Return the delay in samples with which a connection reads an output."""
    return plan.lag(split_port(source)[0], split_port(connection.target)[0])


def parameters_of(module: Module, listened: Collection[str]) -> list[float]:
    """Return a module's settings as numbers, choices as places; and last, as bits, the outputs listened to."""
    settings = module.all_settings
    values = [
        float(item.options.index(settings[item.name])) if isinstance(item, Choice) else float(settings[item.name])
        for item in module.declaration.settings
    ]
    wanted = sum(1 << n for n, port in enumerate(module.declaration.outputs) if f"{module.id}.{port.name}" in listened)
    return [*values, float(wanted)]
