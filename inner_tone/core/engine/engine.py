"""The engine: a patch that plays. It is given events and asked for the next samples."""

from collections.abc import Sequence

import numpy as np

from inner_tone.core.engine.build import build
from inner_tone.core.engine.events import Event
from inner_tone.core.engine.keys import Keys
from inner_tone.core.engine.run import CHUNK, Tracks, advance
from inner_tone.core.modules.player import MODULE as PLAYER
from inner_tone.core.modules.wavetables import wavetables
from inner_tone.core.patch.model import Patch


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
        Ports, as `module.port`, whose signals are written down whole.
    measured
        Whether every output and every connected input is measured.
    """

    def __init__(
        self, patch: Patch, rate: float, capacity: int, taps: Sequence[str] = (), *, measured: bool = True
    ) -> None:
        self.rate = rate
        self.position = 0
        self.taps = tuple(dict.fromkeys(taps))
        self.built = build(patch, rate, self.taps)
        self.measured = measured_ports(self.built.heard_outputs, self.built.connected_inputs) if measured else ()
        self.tracks = self.new_tracks(capacity)
        self.keys = self.new_keys(patch)

    def new_tracks(self, capacity: int) -> Tracks:
        """Make room for what is written down."""
        chunks = -(-capacity // CHUNK)
        rows = [self.built.row(tap) for tap in self.taps]
        measured = [self.built.row(port) for port in self.measured]
        return Tracks(
            rows=np.array(rows, dtype=np.int64),
            signals=np.zeros((len(rows), capacity)),
            measured=np.array(measured, dtype=np.int64),
            lows=np.full((len(measured), chunks), np.inf),
            highs=np.full((len(measured), chunks), -np.inf),
            sums=np.zeros(len(measured)),
            squares=np.zeros(len(measured)),
        )

    def new_keys(self, patch: Patch) -> list[Keys]:
        """Return the keyboard of the patch's player, if it has one."""
        players = [module for module in patch.modules if module.type == PLAYER.name]
        return [
            Keys(
                self.built.states[self.built.state_start[module.id] :][: PLAYER.state_size(self.rate)],
                priority=str(module.all_settings["priority"]),
                legato=module.all_settings["legato"] == "on",
            )
            for module in players
        ]

    def apply(self, event: Event) -> None:
        """Let an event act from the next sample on."""
        for keys in self.keys:
            keys.apply(event)

    def advance(self, count: int) -> None:
        """Compute the next `count` samples."""
        built = self.built
        tables = wavetables(self.rate)
        advance(built.program, built.signals, built.states, tables, self.tracks, self.rate, self.position, count)
        self.position += count


def measured_ports(outputs: frozenset[str], inputs: frozenset[str]) -> tuple[str, ...]:
    """Return the ports to measure; an input that shares its name with an output is left out."""
    return (*sorted(outputs), *sorted(inputs - outputs))
