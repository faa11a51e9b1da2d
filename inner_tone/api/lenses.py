"""Lenses over the wire: what is asked for, and the picture's data with its sentence."""

from collections.abc import Mapping
from typing import Annotated, Literal

from pydantic import BaseModel, Field

from inner_tone.api.schemas import Incoming
from inner_tone.core.analysis.describe import describe_wave
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.patch.model import PortName


class WaveWish(Incoming):
    """The wave lens on a tap: some cycles of its pitch, held still, or the whole phrase (0 cycles).

    Held by another tap, it shows the same moments as the wave lens on that one, so that both can be compared.
    """

    kind: Literal["wave"]
    tap: PortName
    cycles: Annotated[int, Field(ge=0, le=64)] = 3
    held_by: PortName | None = None


class SpectrumWish(Incoming):
    """The spectrum lens on a tap."""

    kind: Literal["spectrum"]
    tap: PortName


LensWish = Annotated[WaveWish | SpectrumWish, Field(discriminator="kind")]


class WaveOut(BaseModel):
    """A stretch of a signal: at each of evenly spaced moments its least and its greatest value."""

    kind: Literal["wave"] = "wave"
    tap: str
    sentence: str
    start_s: float
    seconds: float
    frequency_hz: float | None
    lows: list[float]
    highs: list[float]


class PartialOut(BaseModel):
    """A partial: Hz, dB, MIDI note number with fractions, and its number in the series (0 if none)."""

    frequency_hz: float
    level_db: float
    midi: float
    number: int


class SpectrumOut(BaseModel):
    """Levels in dB by frequency in Hz, and the partials."""

    kind: Literal["spectrum"] = "spectrum"
    tap: str
    sentence: str
    start_s: float
    seconds: float
    fundamental_hz: float | None
    frequencies_hz: list[float]
    levels_db: list[float]
    partials: list[PartialOut]


LensOut = Annotated[WaveOut | SpectrumOut, Field(discriminator="kind")]


def taps_of(wish: WaveWish | SpectrumWish) -> set[str]:
    """Return the taps that a lens needs."""
    held_by = wish.held_by if isinstance(wish, WaveWish) else None
    return {wish.tap, held_by} if held_by else {wish.tap}


def look(sounds: Mapping[str, Sound], wish: WaveWish | SpectrumWish) -> WaveOut | SpectrumOut:
    """Return what a lens shows."""
    sound = sounds[wish.tap]
    if isinstance(wish, WaveWish):
        return wave(sound, sounds[wish.held_by or wish.tap], wish)
    return spectrum(sound, wish)


def rounded(values: Floats, digits: int) -> list[float]:
    """Return values with as many places as a picture can show."""
    found: list[float] = values.round(digits).tolist()
    return found


def wave(sound: Sound, held_by: Sound, wish: WaveWish) -> WaveOut:
    """Return what the wave lens shows."""
    shown = sound.cycles(wish.cycles, held_by) if wish.cycles else sound.course
    return WaveOut(
        tap=wish.tap,
        sentence=describe_wave(shown) if wish.cycles else sound.say_course(),
        start_s=shown.start_s,
        seconds=shown.seconds,
        frequency_hz=shown.frequency_hz,
        lows=rounded(shown.lows, 5),
        highs=rounded(shown.highs, 5),
    )


def spectrum(sound: Sound, wish: SpectrumWish) -> SpectrumOut:
    """Return what the spectrum lens shows."""
    shown = sound.spectrum
    return SpectrumOut(
        tap=wish.tap,
        sentence=sound.say_spectrum(),
        start_s=shown.start_s,
        seconds=shown.seconds,
        fundamental_hz=sound.fundamental_hz,
        frequencies_hz=rounded(shown.frequencies_hz, 3),
        levels_db=rounded(shown.levels_db, 2),
        partials=[
            PartialOut(frequency_hz=p.frequency_hz, level_db=p.level_db, midi=p.midi, number=p.number)
            for p in shown.partials
        ],
    )
