"""A render: a patch that has played a phrase, with the measures of every port. A pure function of its inputs."""

import json
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from hashlib import sha256

import numpy as np
from numpy.typing import NDArray

from inner_tone.core.arrays import Floats
from inner_tone.core.engine.events import events_of
from inner_tone.core.engine.playing import Playing
from inner_tone.core.engine.recorder import Recorder
from inner_tone.core.engine.run import CHUNK, CLOSE, FULL_SCALE, limit
from inner_tone.core.modules.declaration import Value
from inner_tone.core.modules.stock import key_of
from inner_tone.core.modules.version import version_with
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Module, Patch
from inner_tone.core.patch.port import Port
from inner_tone.core.phrase import Phrase

RATE = 48_000.0
RATES = (44_100.0, 48_000.0, 88_200.0, 96_000.0)
TAIL_SECONDS = 4.0
SILENCE = 10.0 ** (-90.0 / 20.0)
SILENCE_SECONDS = 0.25
LIMITER_RETURN_SECONDS = 0.2
OUTLINE_POINTS = 128
WATCH_SECONDS = 0.25
TELLING_SECONDS = 0.6  # a note has found its tone by then

Watch = Callable[[float], None]


def unwatched(part: float) -> None:
    """Let a render go its way."""


@dataclass(frozen=True)
class Measure:
    """What a port did during a render; the outline has the least and the greatest value of each 128th."""

    least: float
    greatest: float
    rms: float
    mean: float
    lows: tuple[float, ...]
    highs: tuple[float, ...]

    @property
    def peak(self) -> float:
        """The greatest distance from zero."""
        return max(abs(self.least), abs(self.greatest))


@dataclass(frozen=True)
class Render:
    """The sound of a patch playing a phrase. `left` and `right` have passed the limiter, `taps` have not.

    `close` has what is seen on cards of a moment within the most telling note, sample by sample.
    """

    key: str
    rate: float
    left: NDArray[np.float32]
    right: NDArray[np.float32]
    taps: dict[str, Floats]
    measures: dict[str, Measure]
    limited_db: float
    close: dict[Port, Floats]

    @property
    def seconds(self) -> float:
        """How long the render lasts."""
        return len(self.left) / self.rate


def render_key(patch: Patch, phrase: Phrase, rate: float = RATE) -> str:
    """Return the SHA-256 of what the sound depends on, as canonical JSON; names and titles are not among it."""
    parts = {
        "engine": version_with(module.type for module in patch.modules),
        "rate": rate,
        "voices": patch.voices,
        "modules": [[module.id, module.type, settled(module)] for module in patch.modules],
        "connections": [connection.model_dump(mode="json") for connection in patch.live.connections],
        "phrase": phrase.model_dump(mode="json", exclude={"title", "company"}),
    }
    return sha256(json.dumps(parts, sort_keys=True, separators=(",", ":")).encode()).hexdigest()


def settled(module: Module) -> dict[str, float | str | list[float]]:
    """Return a module's settings in one way of writing: 24 and 24.0 are the same."""
    heard = module.declaration.sounds_played  # a sound is what it is, whatever it is called
    settings = {
        name: key_of(str(value)) or value if name in heard else value for name, value in module.all_settings.items()
    }
    return {name: one_way(value) for name, value in settings.items()}


def one_way(value: Value) -> float | str | list[float]:
    """Return a value in one way of writing."""
    if isinstance(value, tuple):
        return [float(number) for number in value]
    return value if isinstance(value, str) else float(value)


def render(
    patch: Patch, phrase: Phrase, *, taps: Sequence[str] = (), rate: float = RATE, watch: Watch = unwatched
) -> Render:
    """Play the phrase on the patch, then go on for up to four seconds until it falls silent.

    Parameters
    ----------
    patch, phrase
        What is played; both valid.
    taps
        Ports, as `module.port`, whose signals are kept.
    rate
        The sampling rate in Hz.
    watch
        Is told again and again how much of the phrase has been played, 0 to 1. Where it raises, the render ends.

    Raises
    ------
    TapError
        If a tap is not a port of the patch.
    """
    sides = heard_taps(patch)
    end = phrase.sample(phrase.beats, rate)
    close = (telling_sample(phrase, rate), CLOSE)
    recorder = Recorder(end + math.ceil(TAIL_SECONDS * rate), (*sides, *taps), close=close)
    playing = Playing(patch, rate, recorder, tempo=phrase.tempo)
    for sample, event in events_of(phrase, rate):
        play_until(playing, sample, end, watch)
        playing.apply(event)
    play_until(playing, end, end, watch)
    play_tail(playing, len(sides))
    return finished(playing, sides, taps, render_key(patch, phrase, rate))


def telling_sample(phrase: Phrase, rate: float) -> int:
    """Return the sample from which a phrase is looked at closely: in the longest note, of those the strongest."""
    notes = sorted(phrase.notes, key=lambda note: (-note.length, -note.velocity, note.start))
    if not notes:
        return phrase.sample(phrase.beats / 4.0, rate)
    begin, end = phrase.sample(notes[0].start, rate), phrase.sample(notes[0].start + notes[0].length, rate)
    return begin + min((end - begin) // 2, round(TELLING_SECONDS * rate))


def seen_closely(graph: Graph) -> set[Port]:
    """Return the ports that cards show closely: what stands for each module, and what a filter takes from."""
    modules = graph.modules.values()
    mains = {Port.of(one.id, one.declaration.main.name) for one in modules if one.declaration.main}
    filters = [one for one in modules if one.declaration.picture == "response"]
    return mains | {Port.of(one.id, way.name) for one in filters for way in one.declaration.ways}


def play_until(playing: Playing, stop: int, end: int, watch: Watch) -> None:
    """Go on to a sample, telling in between how far it is to the end."""
    stride = round(WATCH_SECONDS * playing.rate)
    while playing.position < stop:
        watch(playing.position / end)
        playing.advance(min(stride, stop - playing.position))


def heard_taps(patch: Patch) -> tuple[Port, ...]:
    """Return what is heard on the left and on the right, or nothing if the patch has no output."""
    output = Graph(patch).output
    return tuple(Port.of(output.id, port.name) for port in output.declaration.outputs) if output else ()


def play_tail(playing: Playing, sides: int) -> None:
    """Go on until a quarter of a second has been silent, or until there is no more room."""
    recorder = playing.recorder
    step = round(SILENCE_SECONDS * playing.rate)
    while recorder.position < recorder.capacity and sides:
        begin = recorder.position
        playing.advance(min(step, recorder.capacity - begin))
        if np.max(np.abs(recorder.tracks.signals[:sides, begin : recorder.position])) < SILENCE:
            return


def finished(playing: Playing, sides: Sequence[Port], taps: Sequence[str], key: str) -> Render:
    """Return what has been written down, with the limiter behind the output."""
    recorder, rate = playing.recorder, playing.rate
    length = recorder.position
    signals = {tap: recorder.tracks.signals[n, :length] for n, tap in enumerate(recorder.taps)}
    left, right = (signals[side] for side in sides) if sides else (np.zeros(length), np.zeros(length))
    measures = measures_of(recorder)
    peak = max((measures[side].peak for side in sides), default=0.0)
    if peak > FULL_SCALE:
        left, right = left.copy(), right.copy()
        limit(left, right, np.zeros(1), math.exp(-1.0 / (LIMITER_RETURN_SECONDS * rate)))
    return Render(
        key=key,
        rate=rate,
        left=np.clip(left, -1.0, 1.0).astype(np.float32),
        right=np.clip(right, -1.0, 1.0).astype(np.float32),
        taps={Port(tap): signals[Port(tap)] for tap in taps},
        measures=measures,
        limited_db=20.0 * math.log10(peak) if peak > FULL_SCALE else 0.0,
        close=recorder.close(seen_closely(playing.graph)),
    )


def measures_of(recorder: Recorder) -> dict[str, Measure]:
    """Return the measures of every port that was measured."""
    return measures_between(recorder, 0, recorder.position)


def measures_between(recorder: Recorder, chunk: int, length: int) -> dict[str, Measure]:
    """Return the measures of every port from a chunk on; RMS and mean are of the last `length` samples."""
    tracks, count = recorder.tracks, len(recorder.measured)
    chunks = -(-recorder.position // CHUNK)
    edges = np.linspace(chunk, chunks, OUTLINE_POINTS + 1)
    first = np.minimum(np.floor(edges[:-1]).astype(int), chunks - 1)
    lows = np.minimum.reduceat(tracks.lows[:count, :chunks], first, axis=1)
    highs = np.maximum.reduceat(tracks.highs[:count, :chunks], first, axis=1)
    return {
        port: Measure(
            least=float(np.min(lows[t])),
            greatest=float(np.max(highs[t])),
            rms=math.sqrt(tracks.squares[t] / length),
            mean=float(tracks.sums[t] / length),
            lows=tuple(np.round(lows[t], 5).tolist()),
            highs=tuple(np.round(highs[t], 5).tolist()),
        )
        for t, port in enumerate(recorder.measured)
    }
