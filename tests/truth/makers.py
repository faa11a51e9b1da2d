"""Makers of sounds whose nature is known: each draws one by chance."""

import math
from collections.abc import Callable

import numpy as np
from scipy.special import jv

from inner_tone.core.arrays import Floats
from inner_tone.core.units import frequency_of, midi_of
from tests.support.patches import RATE
from tests.truth.known import TOP_HZ, Known, Tone, Truth, partials_of, played, with_noise

Dice = np.random.Generator
NOISES_DB = (60.0, 40.0, 20.0)
WIDTHS = (0.1, 0.125, 0.2, 0.25, 1 / 3, 0.4)
BELL_RATIOS = (1.41, math.sqrt(2.0), math.pi, 1.618, 2.73)
ODD_RATIOS = (3.5, 2.5, 1.5, 0.5, 0.25)


def drawn_hz(dice: Dice, low: float = 8.0, high: float = 8000.0) -> float:
    """Return a frequency, evenly drawn over the octaves."""
    return float(np.exp(dice.uniform(np.log(low), np.log(high))))


def levels_of(kind: str, hertz: float, amplitude: float, width: float = 0.25) -> Floats:
    """Return the amplitudes of the partials of a wave up to 20 kHz."""
    n = np.arange(1, max(1, int(TOP_HZ / hertz)) + 1)
    odd = n % 2 == 1
    shapes = {
        "sine": np.where(n == 1, 1.0, 0.0),
        "saw": 1.0 / n,
        "square": np.where(odd, 1.0 / n, 0.0),
        "triangle": np.where(odd, 1.0 / n**2, 0.0),
        "pulse": np.abs(np.sin(np.pi * n * width)) / n,
    }
    found = shapes[kind]
    return amplitude * np.where(np.abs(found) < 1e-9, 0.0, found)


def phases_of(kind: str, count: int, width: float) -> Floats | None:
    """Return the phases that a pulse has; other waves have those of sines."""
    if kind != "pulse":
        return None
    n = np.arange(1, count + 1)
    return np.asarray(np.where(np.sin(np.pi * n * width) < 0.0, np.pi, 0.0) - np.pi * n * width)


def wave(dice: Dice) -> Known:
    """A plain wave, with noise far below."""
    kind = str(dice.choice(["sine", "saw", "square", "triangle", "pulse"]))
    hertz, width = drawn_hz(dice), float(dice.choice(WIDTHS))
    levels = levels_of(kind, hertz, float(dice.uniform(0.1, 0.6)), width)
    below = float(dice.choice(NOISES_DB))
    signal = with_noise(played(levels, hertz, 1.6, phases_of(kind, len(levels), width)), below, dice)
    truth = Truth(pitch_hz=hertz, tones=partials_of(hertz, levels), noise_db=below, brightness="stays")
    return Known(f"{kind} of {hertz:.2f} Hz, width {width:.3f}, noise {below:.0f} dB below", signal, truth)


def few_partials(dice: Dice) -> Known:
    """A few partials of a fundamental, which itself may be missing."""
    hertz = drawn_hz(dice, 30.0, 800.0)
    numbers = sorted(int(one) for one in dice.choice(np.arange(1, 16), size=dice.integers(2, 7), replace=False))
    divisor = math.gcd(*numbers)
    levels = np.zeros(max(numbers))
    levels[np.array(numbers) - 1] = dice.uniform(0.05, 0.2, len(numbers))
    signal = played(levels, hertz, 1.6, dice.uniform(0.0, 2.0 * np.pi, len(levels)))
    truth = Truth(pitch_hz=hertz * divisor, tones=partials_of(hertz, levels), brightness="stays")
    return Known(f"partials {numbers} of {hertz:.2f} Hz", signal, truth)


def low_pass(n: Floats, hertz: float, cutoff: float, poles: int, quality: float) -> Floats:
    """Return what an analogue low-pass lets through of partials; with two poles it may resonate."""
    x = n * hertz / cutoff
    if poles == 2:
        return np.asarray(1.0 / np.sqrt((1.0 - x**2) ** 2 + (x / quality) ** 2))
    return np.asarray(1.0 / np.sqrt(1.0 + x ** (2 * poles)))


def filtered(dice: Dice) -> Known:
    """A saw or a square behind an analogue low-pass, as its amplitudes are known."""
    kind = str(dice.choice(["saw", "square"]))
    hertz = drawn_hz(dice, 30.0, 400.0)
    poles, quality = int(dice.choice([1, 2, 4])), float(dice.choice([0.7071, 2.0, 5.0]))
    cutoff = float(np.exp(dice.uniform(np.log(10.0 * hertz), np.log(min(6000.0, 40.0 * hertz)))))
    levels = levels_of(kind, hertz, 0.4)
    n = np.arange(1.0, len(levels) + 1.0)
    gains = low_pass(n, hertz, cutoff, poles, quality)
    fine = np.geomspace(hertz, 20_000.0, 40_000)
    response = low_pass(fine / hertz, hertz, cutoff, poles, quality)
    lost = float(fine[np.flatnonzero(response > 10.0 ** (-3.0 / 20.0))[-1]])
    top = int(np.argmax(response))
    peak = (float(fine[top]), 20.0 * float(np.log10(response[top]))) if poles == 2 and quality > 1.0 else None
    signal = with_noise(played(levels * gains, hertz, 1.6), 60.0, dice)
    truth = Truth(
        pitch_hz=hertz,
        tones=partials_of(hertz, levels * gains),
        cut=(lost, 6.0 * poles),
        peak=peak,
        noise_db=60.0,
        brightness="stays",
    )
    return Known(f"{kind} of {hertz:.2f} Hz behind {poles} poles at {cutoff:.1f} Hz, Q {quality:.2f}", signal, truth)


def sidebands(carrier: float, modulator: float, index: float, amplitude: float) -> tuple[Tone, ...]:
    """Return the partials of a sine whose phase a sine moves: Bessel functions, folded at 0 Hz (Chowning 1973)."""
    sums: dict[float, float] = {}
    for n in range(-40, 41):
        place, height = carrier + n * modulator, amplitude * float(jv(n, index))
        key = round(abs(place), 6)
        sums[key] = sums.get(key, 0.0) + (height if place >= 0.0 else -height)
    return tuple(sorted((hz, abs(a)) for hz, a in sums.items() if abs(a) > 1e-7 and hz > 0.0))


def fm(dice: Dice) -> Known:
    """Frequency modulation at simple, odd and irrational ratios."""
    simple = [1.0, 2.0, 3.0, 4.0, 5.0]
    ratio = float(dice.choice([*simple, *ODD_RATIOS, *BELL_RATIOS]))
    index = float(dice.uniform(0.5, 5.0))
    carrier = drawn_hz(dice, 60.0, min(900.0, 20_000.0 / (1.0 + ratio * (index + 5.0))))  # so that nothing folds back
    time = np.arange(round(1.6 * RATE)) / RATE
    turn = 2.0 * np.pi * carrier * time
    signal = 0.5 * np.sin(turn + index * np.sin(ratio * turn))
    tones = sidebands(carrier, ratio * carrier, index, 0.5)
    pitch = None if ratio in BELL_RATIOS else carrier * {3.5: 0.5, 2.5: 0.5, 1.5: 0.5}.get(ratio, min(1.0, ratio))
    below = float(dice.choice(NOISES_DB[:2]))
    truth = Truth(pitch_hz=pitch, tones=tones, noise_db=below, brightness="stays")
    return Known(f"FM {carrier:.2f} Hz, 1:{ratio:.3f}, index {index:.2f}", with_noise(signal, below, dice), truth)


def vibrato(dice: Dice) -> Known:
    """A wave whose pitch swings."""
    kind = str(dice.choice(["sine", "saw", "square"]))
    note, rate = float(dice.uniform(36.0, 84.0)), float(dice.uniform(1.0, 10.0))
    cents = float(np.exp(dice.uniform(np.log(2.0), np.log(200.0))))
    time = np.arange(round(2.4 * RATE)) / RATE
    notes = note + 0.01 * cents * np.sin(2.0 * np.pi * rate * time + float(dice.uniform(0.0, 6.28)))
    hertz = 440.0 * 2.0 ** ((notes - 69.0) / 12.0)
    levels = levels_of(kind, float(np.max(hertz)), 0.4)
    below = float(dice.choice(NOISES_DB))
    truth = Truth(
        pitch_hz=frequency_of(note),
        tones=partials_of(frequency_of(note), levels),
        vibrato=(rate, cents),
        noise_db=below,
        brightness="stays",
    )
    name = f"{kind}, note {note:.2f}, vibrato {rate:.2f} Hz ±{cents:.1f} cents, noise {below:.0f} dB below"
    return Known(name, with_noise(played(levels, hertz, 2.4), below, dice), truth)


def glide(dice: Dice) -> Known:
    """A wave that goes from one note to another."""
    low, high = (float(one) for one in dice.choice(np.arange(36, 80), size=2, replace=False))
    seconds = float(dice.uniform(0.12, 0.8))
    time = np.arange(round(2.0 * RATE)) / RATE
    notes = np.interp(time, [0.6, 0.6 + seconds], [low, high])
    hertz = 440.0 * 2.0 ** ((notes - 69.0) / 12.0)
    signal = played(levels_of("saw", float(np.max(hertz)), 0.4), hertz, 2.0)
    return Known(
        f"glide {low:.0f} to {high:.0f} in {seconds:.3f} s", signal, Truth(melody=(low, high), glide_s=seconds)
    )


def melody(dice: Dice) -> Known:
    """Notes one after the other, without a gap."""
    count = int(dice.integers(2, 6))
    notes = [float(dice.integers(40, 80))]
    while len(notes) < count:
        one = float(dice.integers(40, 80))
        notes += [one] if abs(one - notes[-1]) >= 1.0 else []
    kind = str(dice.choice(["saw", "square", "triangle"]))
    each = float(dice.uniform(0.2, 0.5))
    parts = [played(levels_of(kind, frequency_of(one), 0.4), frequency_of(one), each) for one in notes]
    return Known(f"{kind}, notes {notes}, {each:.2f} s each", np.concatenate(parts), Truth(melody=tuple(notes)))


def beating(dice: Dice) -> Known:
    """Two sines that beat."""
    hertz, apart = drawn_hz(dice, 150.0, 2000.0), float(dice.uniform(0.5, 8.0))
    strong, weak = 0.4, 0.4 * float(dice.uniform(0.2, 0.8))
    time = np.arange(round(5.0 * RATE)) / RATE
    signal = strong * np.sin(2.0 * np.pi * hertz * time) + weak * np.sin(2.0 * np.pi * (hertz + apart) * time)
    truth = Truth(
        pitch_hz=hertz,
        tones=((hertz, strong), (hertz + apart, weak)),
        beats_hz=apart,
        beats_db=20.0 * math.log10((strong + weak) / (strong - weak)),
        apart_hz=apart,
        wavers=True,
    )
    return Known(f"sines of {hertz:.2f} Hz and {apart:.2f} Hz above", signal, truth)


def tremolo(dice: Dice) -> Known:
    """A wave whose level swings."""
    kind = str(dice.choice(["sine", "saw", "square"]))
    hertz, rate, depth = drawn_hz(dice, 80.0, 1000.0), float(dice.uniform(1.5, 9.0)), float(dice.uniform(0.2, 0.8))
    time = np.arange(round(3.0 * RATE)) / RATE
    levels = levels_of(kind, hertz, 0.3)
    signal = (1.0 + depth * np.sin(2.0 * np.pi * rate * time)) * played(levels, hertz, 3.0)
    truth = Truth(
        pitch_hz=hertz,
        tones=partials_of(hertz, levels),
        beats_hz=rate,
        beats_db=20.0 * math.log10((1.0 + depth) / (1.0 - depth)),
        wavers=True,
        brightness="stays",
    )
    return Known(f"{kind} of {hertz:.2f} Hz, tremolo {rate:.2f} Hz by {depth:.2f}", signal, truth)


def noise(dice: Dice) -> Known:
    """A noise of a colour."""
    colour = str(dice.choice(["white", "pink", "brown", "blue"]))
    exponent = {"white": 0.0, "pink": -0.5, "brown": -1.0, "blue": 0.5}[colour]
    count = round(2.0 * RATE)
    bins = np.fft.rfft(dice.standard_normal(count)) * np.maximum(np.arange(count // 2 + 1), 20.0) ** exponent
    signal = np.fft.irfft(bins, count)
    slope = {"white": 0.0, "pink": -3.0, "brown": -6.0, "blue": 3.0}[colour]
    level = float(dice.uniform(0.02, 0.2))
    return Known(f"{colour} noise", level * signal / np.std(signal), Truth(colour=colour, slope_db=slope))


def several(dice: Dice) -> Known:
    """Two to four notes at once, of a rich wave or of sines."""
    kind = str(dice.choice(["saw", "saw", "sine"]))
    count = int(dice.integers(2, 5))
    first = float(dice.integers(48, 65))
    notes = [first]
    while len(notes) < count:  # what is an octave or a twelfth above has the partials of what is below
        one = first + float(dice.integers(3, 19))
        notes += [one] if all(abs(one - other) not in (0.0, 1.0, 2.0, 12.0, 19.0) for other in notes) else []
    notes.sort()
    hertz = [frequency_of(one) for one in notes]
    parts = [levels_of(kind, one, 0.2) for one in hertz]
    signal = np.sum([played(part, one, 1.6) for part, one in zip(parts, hertz, strict=True)], axis=0)
    tones = [tone for part, one in zip(parts, hertz, strict=True) for tone in partials_of(one, part)]
    truth = Truth(tones=tuple(sorted(tones)), notes=tuple(hertz))
    return Known(f"{kind}s of notes {notes} together", signal, truth)


def stage(progress: Floats, bend: float) -> Floats:
    """Return how much of its way a stage has gone: straight, or bent as a capacitor charges."""
    progress = np.clip(progress, 0.0, 1.0)
    return progress if bend == 0.0 else np.asarray((1.0 - np.exp(-bend * progress)) / (1.0 - math.exp(-bend)))


def enveloped(hertz: float, levels: Floats, stages: tuple[float, float, float, float]) -> Truth:
    """Return what is true of a wave under an envelope: attack, decay, sustain level and release."""
    attack, decay, sustain, release = stages
    return Truth(
        pitch_hz=hertz,
        tones=partials_of(hertz, levels),
        attack_s=attack,
        decay_s=decay if sustain < 1.0 else None,
        sustain_db=20.0 * math.log10(sustain) if sustain < 1.0 else None,
        release_s=release,
        ends=True,
    )


def struck(dice: Dice) -> Known:
    """A wave under an envelope of four stages."""
    kind = str(dice.choice(["sine", "saw", "square"]))
    hertz, bend = drawn_hz(dice, 80.0, 1500.0), float(dice.choice([0.0, 4.0]))
    attack, decay, release = (float(np.exp(dice.uniform(np.log(low), np.log(0.4)))) for low in (0.005, 0.05, 0.05))
    sustain = float(dice.choice([1.0, 0.8, 0.7, 0.5, 0.3]))
    hold = attack + decay + 0.5
    time = np.arange(round((hold + release + 0.3) * RATE)) / RATE
    held = stage(time / attack, bend) - (1.0 - sustain) * stage((time - attack) / decay, bend) * (time > attack)
    level = np.where(time < hold, held, sustain * (1.0 - stage((time - hold) / release, bend)))
    levels = levels_of(kind, hertz, 0.4)
    truth = enveloped(hertz, levels, (attack, decay, sustain, release))
    name = f"{kind} of {hertz:.1f} Hz: {attack:.4f}, {decay:.3f}, {sustain}, {release:.3f} s, bend {bend:.0f}"
    return Known(name, level * played(levels, hertz, len(time) / RATE), truth)


def gated(dice: Dice) -> Known:
    """A bass in short bursts."""
    hertz, on, off = drawn_hz(dice, 45.0, 200.0), float(dice.uniform(0.12, 0.3)), float(dice.uniform(0.05, 0.2))
    levels = levels_of("saw", hertz, 0.4)
    edge = 0.003
    burst = np.interp(np.arange(round(on * RATE)) / RATE, [0.0, edge, on - edge, on], [0.0, 1.0, 1.0, 0.0])
    one = np.concatenate([burst * played(levels, hertz, on), np.zeros(round(off * RATE))])
    truth = Truth(
        pitch_hz=hertz,
        tones=partials_of(hertz, levels),
        melody=(midi_of(hertz),),
        attack_s=edge,
        release_s=edge,
        ends=True,
    )
    return Known(f"bursts of {hertz:.2f} Hz, {on:.3f} s on, {off:.3f} s off", np.tile(one, 6), truth)


def clipped(dice: Dice) -> Known:
    """A sine that is cut off flat."""
    hertz, over = drawn_hz(dice, 60.0, 800.0), float(dice.uniform(1.15, 4.0))
    time = np.arange(round(1.2 * RATE)) / RATE
    signal = np.clip(0.5 * over * np.sin(2.0 * np.pi * hertz * time + 0.3), -0.5, 0.5)
    return Known(f"sine of {hertz:.2f} Hz, {over:.2f} times too strong", signal, Truth(pitch_hz=hertz, clipped_at=0.5))


def slow(dice: Dice) -> Known:
    """A wave that comes back too slowly for a pitch."""
    hertz = float(dice.uniform(1.0, 5.0))
    time = np.arange(round(4.0 * RATE)) / RATE
    signal = 0.5 * (2.0 * (hertz * time % 1.0) - 1.0)
    return Known(f"saw of {hertz:.2f} Hz", signal, Truth(slow_hz=hertz))


def opening(dice: Dice) -> Known:
    """A saw whose filter opens, closes, or swings."""
    way = str(dice.choice(["rises", "falls", "swings"]))
    hertz, rate = drawn_hz(dice, 60.0, 200.0), float(dice.uniform(1.0, 4.0))
    time = np.arange(round(2.5 * RATE)) / RATE
    course = {"rises": time / 2.5, "falls": 1.0 - time / 2.5}.get(way, 0.5 - 0.5 * np.cos(2.0 * np.pi * rate * time))
    count = int(min(60, 15_000 / hertz))
    cutoff = 3.0 * hertz * (0.25 * count) ** course
    signal = np.zeros(len(time))
    for n in range(1, count + 1):
        gain = 1.0 / (1.0 + (n * hertz / cutoff) ** 4)
        signal += 0.4 / n * gain * np.sin(2.0 * np.pi * n * hertz * time)
    truth = Truth(pitch_hz=hertz, brightness=way, wavers=True, melody=(midi_of(hertz),))
    return Known(f"saw of {hertz:.2f} Hz whose filter {way}, {rate:.2f} Hz", signal, truth)


MAKERS: dict[str, Callable[[Dice], Known]] = {
    "wave": wave,
    "few partials": few_partials,
    "filtered": filtered,
    "FM": fm,
    "vibrato": vibrato,
    "glide": glide,
    "melody": melody,
    "beating": beating,
    "tremolo": tremolo,
    "noise": noise,
    "several": several,
    "struck": struck,
    "gated": gated,
    "clipped": clipped,
    "slow": slow,
    "opening": opening,
}
