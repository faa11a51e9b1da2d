"""The engine: a patch that plays. It is given events and asked for the next samples."""

from collections.abc import Sequence

import numpy as np

from inner_tone.core.engine.build import build
from inner_tone.core.engine.changes import Changes
from inner_tone.core.engine.events import Change, Event, Move
from inner_tone.core.engine.keys import Keys, Voice
from inner_tone.core.engine.run import CHUNK, Tracks, Voices, advance
from inner_tone.core.modules import lever
from inner_tone.core.modules.kernel import Ints
from inner_tone.core.modules.tables import tables_for
from inner_tone.core.patch.model import Module, Patch

LEVER = "lever:"


class Engine:
    """Plays a patch from its first sample on.

    Parameters
    ----------
    patch
        A valid patch.
    rate
        The sampling rate in Hz.
    capacity
        The number of samples for which there is room to write down taps and measures.
    taps
        Ports, as `module.port`, whose signals are written down whole. Of a module that exists once per voice, it
        is the voice that began last.
    tempo
        In beats per minute, for what follows it.
    measured
        Whether every output and every connected input is measured.
    """

    def __init__(
        self,
        patch: Patch,
        rate: float,
        capacity: int,
        taps: Sequence[str] = (),
        *,
        tempo: float = 120.0,
        measured: bool = True,
    ) -> None:
        self.patch = patch = patch.live
        self.rate = rate
        self.position = 0
        self.taps = tuple(dict.fromkeys(taps))
        self.built = build(patch, rate, self.taps, tempo)
        self.measured = measured_ports(self.built.heard_outputs, self.built.connected_inputs) if measured else ()
        self.tracks = self.new_tracks(capacity)
        self.voices = Voices(np.zeros(patch.voices, dtype=np.int64), np.zeros(1, dtype=np.int64))
        self.voices.awake[0] = 1  # the others sleep until their first note
        self.keys = [self.new_keys(module) for module in patch.modules if module.type == "player"]
        self.tables = tables_for({module.type for module in patch.modules}, rate)
        self.changes = Changes(patch, self.built, rate)

    def new_tracks(self, capacity: int) -> Tracks:
        """Make room for what is written down."""
        chunks = -(-capacity // CHUNK)
        return Tracks(
            rows=self.rows_of(self.taps),
            signals=np.zeros((len(self.taps), capacity)),
            measured=self.rows_of(self.measured),
            lows=np.full((len(self.measured), chunks), np.inf),
            highs=np.full((len(self.measured), chunks), -np.inf),
            sums=np.zeros(len(self.measured)),
            squares=np.zeros(len(self.measured)),
        )

    def rows_of(self, ports: Sequence[str]) -> Ints:
        """Return the rows of some ports, shape (ports, voices)."""
        rows = [self.built.rows(port, self.patch.voices) for port in ports]
        return np.array(rows, dtype=np.int64).reshape(len(ports), self.patch.voices)

    def new_keys(self, player: Module) -> Keys:
        """Return the keyboard of the patch's player."""
        states = [self.built.state_of(player, voice, self.rate) for voice in range(self.patch.voices)]
        settings = player.all_settings
        return Keys([Voice(state) for state in states], str(settings["priority"]), settings["legato"] == "on")

    def apply(self, event: Event) -> None:
        """Let an event act from the next sample on."""
        if isinstance(event, Change):
            self.changes.begin(event)
            return
        if isinstance(event, Move) and event.control.startswith(LEVER):
            self.move_lever(event)
        for keys in self.keys:
            taken = keys.apply(event)
            if taken is not None:
                self.voices.awake[taken] = 1
                self.voices.shown[0] = taken

    def move_lever(self, move: Move) -> None:
        """Let a lever of the patch move; a phrase may know levers that this patch has not."""
        module = self.patch.by_id.get(move.control.removeprefix(LEVER))
        if module is not None and module.type == "lever":
            state = self.built.state_of(module, 0, self.rate)
            state[lever.HELD], state[lever.POSITION], state[lever.SLOPE] = 1.0, move.value, move.slope

    def advance(self, count: int) -> None:
        """Compute the next `count` samples."""
        while count > 0:
            now = min(count, self.changes.nearest()) if self.changes.goals else count
            self.run(now)
            self.position += now
            count -= now

    def run(self, count: int) -> None:
        """Compute samples during which no setting arrives."""
        built = self.built
        playing = (
            built.program,
            built.signals,
            built.states,
            self.tables,
            self.voices,
            self.tracks,
        )
        advance(*playing, self.changes.glides(), self.rate, self.position, count)
        self.changes.passed(count)


def measured_ports(outputs: frozenset[str], inputs: frozenset[str]) -> tuple[str, ...]:
    """Return the ports to measure; an input that shares its name with an output is left out."""
    return (*sorted(outputs), *sorted(inputs - outputs))
