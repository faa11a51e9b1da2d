"""The recorder: writes down whole signals, and measures of many, while a patch plays."""

from collections.abc import Collection, Sequence

import numpy as np

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.engine.program import Program
from inner_tone.core.engine.run import CHUNK, CLOSE, Tracks
from inner_tone.core.engine.wiring import UnitKey, UnitPlace, key_of
from inner_tone.core.errors import InnerToneError, TapError, did_you_mean
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.port import Port, ports

MOST_AT_ONCE = 1 << 16  # samples of a window that can be asked for at once
FOR_EVER = 1 << 62


class RecorderFullError(InnerToneError):
    """More was to be written down than there is room for."""


class Recorder:
    """What is kept of what plays.

    Parameters
    ----------
    capacity
        The number of samples for which there is room.
    taps
        Ports, as `module.port`, whose signals are kept whole. Of a module that exists once per voice, it is the voice
        that began last.
    measured
        Whether every output and every connected input is measured.
    close
        The first sample, and how many from there on, that are kept of what is measured.
    """

    def __init__(
        self, capacity: int, taps: Sequence[str] = (), *, measured: bool = True, close: tuple[int, int] = (0, 0)
    ) -> None:
        self.capacity = capacity
        self.taps: tuple[Port, ...] = tuple(dict.fromkeys(ports(taps)))
        self.position = 0
        self.measures_all = measured
        self.measured: tuple[Port, ...] = ()
        chunks = -(-capacity // CHUNK)
        self.tracks = Tracks(
            rows=np.zeros((0, 1), dtype=np.int64),
            signals=np.zeros((len(self.taps), capacity)),
            measured=np.zeros((0, 1), dtype=np.int64),
            lows=np.full((0, chunks), np.inf),
            highs=np.full((0, chunks), -np.inf),
            sums=np.zeros(0),
            squares=np.zeros(0),
            close=np.zeros((0, CLOSE)),
            closely=np.array([*close, 0], dtype=np.int64),
        )

    def outputs(self, graph: Graph) -> set[UnitPlace]:
        """Return the outputs of a patch that have to be computed for the taps."""
        found = set()
        for tap in self.taps:
            module = graph.modules.get(tap.module)
            if module and tap.name in module.declaration.outputs_by_name:
                found |= {UnitPlace(key_of(module, voice), tap.name) for voice in range(graph.patch.voices)}
        return found

    def attach(self, graph: Graph, program: Program) -> None:
        """Listen to a program; raises TapError for a tap that its patch does not have."""
        for tap in self.taps:
            if not graph.has(tap):
                known = [port for port, _ in (*graph.outputs(), *graph.inputs())]
                raise TapError(f"There is nothing called “{tap}” to listen to. {did_you_mean(tap, known)}")
        self.follow(graph, program)

    def follow(self, graph: Graph, program: Program) -> None:
        """Listen to the program that has taken over; what it does not have is silent from now on."""
        measured = measured_ports(graph, program) if self.measures_all else ()
        self.measured = tuple(dict.fromkeys((*self.measured, *measured)))
        if len(self.measured) > len(self.tracks.sums):
            self.make_room()
        self.tracks = self.tracks._replace(
            rows=self.rows(graph, program, self.taps), measured=self.rows(graph, program, self.measured)
        )

    def make_room(self) -> None:
        """Make room for the measures of more ports; when some come while a patch plays, for some more to come."""
        tracks, known = self.tracks, len(self.tracks.sums)
        more = len(self.measured) - known if not known else 2 * len(self.measured) - known
        chunks = tracks.lows.shape[1]
        self.tracks = tracks._replace(
            lows=np.concatenate([tracks.lows, np.full((more, chunks), np.inf)]),
            highs=np.concatenate([tracks.highs, np.full((more, chunks), -np.inf)]),
            sums=np.concatenate([tracks.sums, np.zeros(more)]),
            squares=np.concatenate([tracks.squares, np.zeros(more)]),
            close=np.concatenate([tracks.close, np.zeros((more, CLOSE))]),
        )

    def rows(self, graph: Graph, program: Program, wanted: Sequence[Port]) -> Ints:
        """Return the rows of some ports, shape (ports, voices)."""
        voices = program.wiring.voices
        found = [[row_of(graph, program, port, voice) for voice in range(voices)] for port in wanted]
        return np.array(found, dtype=np.int64).reshape(len(wanted), voices)

    def take(self, count: int) -> int:
        """Make sure that there is room for so many samples; returns the first. Raises RecorderFullError."""
        begin = self.position
        if begin + count > self.capacity:
            raise RecorderFullError(f"There is room for {self.capacity} samples, and {begin + count} were to be kept.")
        self.position += count
        return begin

    def signal(self, tap: str) -> Floats:
        """Return what was kept of a tap so far, shape (position,)."""
        return self.tracks.signals[self.taps.index(Port(tap)), : self.position]

    def close(self, wanted: Collection[Port]) -> dict[Port, Floats]:
        """Return the last samples that were kept of the moment, of some ports that are measured, shape (n,), copied."""
        written = int(self.tracks.closely[2])
        turn = written % CLOSE if written > CLOSE else 0
        rows = {port: row for row, port in enumerate(self.measured) if port in wanted}
        return {port: np.roll(self.tracks.close[row, :written], -turn) for port, row in rows.items()}


class Window(Recorder):
    """A recorder that keeps the last stretch alone, for as long as anybody plays.

    Parameters
    ----------
    stretch
        How many samples are kept at least.
    """

    def __init__(self, stretch: int, taps: Sequence[str] = (), *, measured: bool = True) -> None:
        self.stretch = -(-stretch // CHUNK) * CHUNK
        self.heard = 0  # samples since the sums were begun anew
        self.written = 0  # since the beginning
        self.known: dict[Port, int] = {}  # from which sample on a tap was kept that came later
        super().__init__(2 * self.stretch + MOST_AT_ONCE, taps, measured=measured, close=(0, FOR_EVER))

    def take(self, count: int) -> int:
        """Make room for so many samples: what is older than the stretch is given up; returns the first."""
        if self.position + count > self.capacity:
            self.slide(self.position - self.stretch)
        self.heard += count
        self.written += count
        return super().take(count)

    def slide(self, by: int) -> None:
        """Give up the oldest samples, whole chunks of them."""
        chunks = by // CHUNK
        tracks, by = self.tracks, chunks * CHUNK
        kept = slice(by, self.position)
        tracks.signals[:, : self.position - by] = tracks.signals[:, kept].copy()
        for edges, nothing in ((tracks.lows, np.inf), (tracks.highs, -np.inf)):
            edges[:, : edges.shape[1] - chunks] = edges[:, chunks:].copy()
            edges[:, edges.shape[1] - chunks :] = nothing
        self.position -= by

    def retap(self, taps: Sequence[str]) -> None:
        """Keep other taps from now on; of those that were kept already, what is known stays."""
        wanted = tuple(dict.fromkeys(ports(taps)))
        signals = np.zeros((len(wanted), self.capacity))
        for row, tap in enumerate(wanted):
            if tap in self.taps:
                signals[row] = self.tracks.signals[self.taps.index(tap)]
        self.known = {tap: self.known.get(tap, 0) if tap in self.taps else self.written for tap in wanted}
        self.taps = wanted
        self.tracks = self.tracks._replace(signals=signals)

    def there_of(self, taps: Sequence[Port]) -> int:
        """Return of how many of the last samples all of some taps are known."""
        return min((self.written - self.known.get(tap, 0) for tap in taps), default=self.written)

    def begin_sums(self) -> None:
        """Begin the sums anew, from which mean and RMS are worked out."""
        self.tracks.sums[:] = 0.0
        self.tracks.squares[:] = 0.0
        self.heard = 0


def row_of(graph: Graph, program: Program, port: Port, voice: int) -> int:
    """Return the row of a port in a voice; an output goes before an input of the same name."""
    if not graph.has(port):
        return program.silent_row
    module = graph.module(port)
    key: UnitKey = key_of(module, voice)
    key = key if key in program.places else key_of(module, 0)
    if key not in program.places:
        return program.silent_row
    if port.name in module.declaration.outputs_by_name:
        return program.output_row(UnitPlace(key, port.name))
    return program.input_row(key, port.name)


def measured_ports(graph: Graph, program: Program) -> tuple[Port, ...]:
    """Return the ports to measure: all outputs that are computed, and connected inputs of no output's name."""
    listened = {(place.unit.node, place.output) for place in program.listened}
    outputs = {
        port
        for port, declared in graph.outputs()
        if not declared.on_demand or (key_of(graph.module(port), 0).node, port.name) in listened
    }
    inputs = {line.target for line in graph.patch.connections}
    return (*sorted(outputs), *sorted(inputs - outputs))
