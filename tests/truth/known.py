"""What is known of a sound, because it was made so."""

from dataclasses import dataclass, field, replace

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.lens.source import Played
from tests.support.patches import RATE
from tests.support.sounds import TAP, scene

TABLE = 1 << 15
TOP_HZ = 20_000.0
Tone = tuple[float, float]  # Hz and amplitude


@dataclass(frozen=True)
class Truth:
    """What is true of a sound. Amplitudes are those of sines; times in s, levels in dB.

    `tones` are its partials where they stand still; `pitch_hz` is what they are multiples of, if of anything.
    `noise_db` is how far below the tone noise lies.
    """

    pitch_hz: float | None = None
    tones: tuple[Tone, ...] = ()
    cut: tuple[float, float] | None = None  # Hz where 3 dB are lost, and dB per octave
    peak: tuple[float, float] | None = None  # Hz, and dB above what it would be
    vibrato: tuple[float, float] | None = None  # Hz and cents
    notes: tuple[float, ...] = ()  # together
    melody: tuple[float, ...] = ()  # MIDI notes one after the other
    glide_s: float | None = None
    beats_hz: float | None = None
    beats_db: float | None = None
    apart_hz: float | None = None
    colour: str | None = None
    slope_db: float | None = None
    noise_db: float | None = None
    slow_hz: float | None = None
    brightness: str | None = None
    attack_s: float | None = None
    decay_s: float | None = None
    sustain_db: float | None = None
    release_s: float | None = None
    ends: bool = False
    clipped_at: float | None = None
    top: float = 0.0  # the greatest distance from zero
    wavers: bool = False  # its level or its brightness moves
    # of a response: what passes, where 3 dB are lost, how steeply it falls, where and how far it is lifted
    passes: str | None = None
    corner_hz: float | None = None
    fall_db: float | None = None
    lift: tuple[float, float] | None = None
    middle_hz: float | None = None  # of a band or a notch
    steered: bool = False


@dataclass(frozen=True)
class Known:
    """A sound with its name, its signal and what is true of it; where a patch made it, with that and the tap."""

    name: str
    signal: Floats = field(repr=False)
    made: Truth
    patch: Played | None = field(default=None, repr=False)
    tap: str = TAP

    @property
    def source(self) -> Played:
        """What a lens looks at."""
        return self.patch or scene(self.signal)

    @property
    def truth(self) -> Truth:
        """What is true of it, with what its samples say of themselves."""
        return replace(self.made, top=float(np.max(np.abs(self.signal))))


def cycle_of(levels: Floats, phases: Floats) -> Floats:
    """Return one cycle whose partials have these amplitudes and phases, shape (TABLE + 1,)."""
    bins = np.zeros(TABLE // 2 + 1, dtype=np.complex128)
    bins[1 : len(levels) + 1] = 0.5 * TABLE * levels * np.exp(1j * phases)
    found = np.fft.irfft(bins, TABLE)
    return np.append(found, found[0])


def played(levels: Floats, hertz: float | Floats, seconds: float, phases: Floats | None = None) -> Floats:
    """Return a wave whose fundamental has a frequency in Hz, the same throughout or one for each sample."""
    count = round(seconds * RATE)
    places = np.cumsum(np.broadcast_to(np.asarray(hertz, dtype=np.float64), (count,))) / RATE
    table = cycle_of(levels, np.full(len(levels), -np.pi / 2) if phases is None else phases)
    return np.asarray(np.interp((places - places[0]) % 1.0 * TABLE, np.arange(TABLE + 1), table))


def partials_of(hertz: float, levels: Floats) -> tuple[Tone, ...]:
    """Return the partials of a wave."""
    return tuple((hertz * n, float(level)) for n, level in enumerate(levels, 1) if level > 0.0)


def with_noise(signal: Floats, below_db: float, chance: np.random.Generator) -> Floats:
    """Return a signal with white noise so many dB below it, both as RMS."""
    rms = float(np.sqrt(np.mean(signal**2)))
    return np.asarray(signal + rms * 10.0 ** (-below_db / 20.0) * chance.standard_normal(len(signal)))
