"""Filter: low-pass, high-pass, band-pass and notch at 6, 12 or 24 dB per octave.

The poles are those of the analogue prototype carried over by impulse invariance, and the zeros are set so that
the magnitude agrees with the prototype's at the cutoff and far from it: M. Vicanek, "Matched second order
digital filters" (2016). So the response is the textbook's up to the top of hearing, where the usual bilinear
transform would bend it down. The poles run as a state-variable filter with zero-delay feedback in its
topology-preserving form (V. Zavalishin, "The art of VA filter design", 2012), which stays stable however fast
the cutoff moves.
"""

import math

from inner_tone.core.modules.declaration import Choice, Input, Law, ModuleType, Output, Ruler
from inner_tone.core.modules.functions import sine
from inner_tone.core.modules.kernel import Floats, Ints, Tables, compiled

LOWPASS, HIGHPASS, BANDPASS, NOTCH = range(4)
SLOPE_6, SLOPE_12, SLOPE_24 = range(3)
BUTTERWORTH_2 = math.sqrt(2.0)  # 1/Q of the one section of a second-order Butterworth response
BUTTERWORTH_4_BROAD = 2.0 * math.cos(math.pi / 8.0)  # 1/Q of the two sections of a fourth-order one
BUTTERWORTH_4_SHARP = 2.0 * math.cos(3.0 * math.pi / 8.0)
LEAST_DAMPING = 5e-4
HIGHEST_ANGLE = 0.92 * math.pi

Section = tuple[float, float, float, float, float, float]

# The state: what the coefficients were computed from, then the sections, each its memory and its coefficients.
LAST_CUTOFF, LAST_RESONANCE = 0, 1
SECTION = 8
PLAIN, SHARP, SIDES = 2, 2 + SECTION, 2 + 2 * SECTION
SIDES_SIZE = 13

MODULE = ModuleType(
    name="filter",
    family="shape",
    title="Filter",
    summary="Takes away the partials on one side of its cutoff.",
    explanation=(
        "A filter lets some of the partials pass and weakens the others, the more the farther they lie from its "
        "cutoff. A low-pass keeps what lies below: the sound grows darker, rounder, more distant as the cutoff "
        "falls. The slope says how fast it weakens the rest; the resonance lifts what lies right at the cutoff."
    ),
    inputs=(
        Input("in", "audio", "The sound to be filtered."),
        Input(
            "cutoff",
            "control",
            "Where the filter begins to take away. Other modules move it in semitones.",
            Ruler(20, 20_000, 1000, "Hz", 1, "log"),
            Law.SEMITONES,
            bounds=(5.0, 22_000.0),
        ),
        Input(
            "resonance",
            "control",
            "How far the cutoff itself is lifted: 0 is level, 1 whistles by itself.",
            Ruler(0, 1, 0, "", 0.01),
            bounds=(0.0, 1.0),
        ),
    ),
    outputs=(
        Output("out", "audio", "What passes in the chosen mode and slope."),
        Output("low", "audio", "What lies below the cutoff, at 12 dB per octave.", on_demand=True),
        Output("band", "audio", "What lies around the cutoff.", on_demand=True),
        Output("high", "audio", "What lies above the cutoff, at 12 dB per octave.", on_demand=True),
    ),
    settings=(
        Choice(
            "mode",
            ("lowpass", "highpass", "bandpass", "notch"),
            "lowpass",
            "Which side passes.",
            words=("low-pass", "high-pass", "band-pass", "notch"),
        ),
        Choice("slope", (6, 12, 24), 12, "How fast the rest grows weaker.", "dB per octave"),
    ),
    seen_over="cycles",
    state_size=lambda rate: SIDES + SIDES_SIZE,
)


@compiled
def angle_of(cutoff_hz: float, rate: float) -> float:
    """Return a cutoff in radians per sample, held below the top of what can be."""
    return min(2.0 * math.pi * cutoff_hz / rate, HIGHEST_ANGLE)


@compiled
def sine_squared(angle: float) -> float:
    """Return sin²(angle/2) for an angle from 0 to π; of the cutoff, it is Vicanek's φ1."""
    half = sine(0.5 * angle)
    return half * half


@compiled
def section(angle: float, phi1: float, damping: float, mode: int) -> Section:
    """Return a second-order section, with damping = 1/Q, at an angle in radians per sample; phi1 = sin²(angle/2).

    Returned are g, g + k and 1 / (1 + gk + g²) of the state-variable form, and the weights of its low, band
    and high outputs for the response of `mode`.
    """
    half = 0.5 * damping
    fall = math.exp(-half * angle)
    turn = sine_squared(angle * math.sqrt(1.0 - half * half))
    a2 = fall * fall
    at_dc = (1.0 - fall) ** 2 + 4.0 * fall * turn  # 1 + a1 + a2
    at_top = (1.0 + fall) ** 2 - 4.0 * fall * turn  # 1 - a1 + a2
    per_top = 1.0 / at_top
    g = math.sqrt(at_dc * per_top)
    twice = 2.0 * per_top / g
    b0, b1, b2 = numerator(phi1, damping, mode, at_dc, at_top, a2)
    # g²(1 + z⁻¹)², g(1 - z⁻²) and (1 - z⁻¹)² are the outputs' numerators, all over 4 / at_top
    low = (b0 + b1 + b2) / at_dc
    return g, g + twice * (1.0 - a2), 0.25 * at_top, low, twice * (b0 - b2), per_top * (b0 - b1 + b2)


@compiled
def numerator(
    phi1: float, damping: float, mode: int, at_dc: float, at_top: float, a2: float
) -> tuple[float, float, float]:
    """Return b0, b1 and b2 from squared magnitudes, polynomials in φ1 = sin²(ω/2), after Vicanek."""
    phi0 = 1.0 - phi1
    big0 = at_dc * at_dc
    big1 = at_top * at_top
    big2 = -4.0 * a2
    bottom = max(big0 * phi0 + big1 * phi1 + big2 * 4.0 * phi0 * phi1, 1e-30)
    if mode == LOWPASS:  # right at 0 Hz and at the cutoff
        b0 = 0.5 * (at_dc + math.sqrt(max(0.0, (bottom / (damping * damping) - big0 * phi0) / phi1)))
        return b0, at_dc - b0, 0.0
    if mode == HIGHPASS:  # two zeros at 0 Hz, right at the cutoff
        b0 = math.sqrt(bottom) / (4.0 * phi1 * damping)
        return b0, -2.0 * b0, b0
    if mode == BANDPASS:  # height and slope right at the cutoff
        slope = -big0 + big1 + 4.0 * (phi0 - phi1) * big2
        top2 = (bottom - slope * phi1) / (4.0 * phi1 * phi1)
        b1 = -0.5 * math.sqrt(max(0.0, slope - 4.0 * (phi0 - phi1) * top2))
        b0 = 0.5 * (math.sqrt(max(0.0, top2 + b1 * b1)) - b1)
        return b0, b1, -b0 - b1
    around = 4.0 * phi1 - 2.0  # zeros on the unit circle at the cutoff, level at 0 Hz
    b0 = at_dc / (2.0 + around)
    return b0, b0 * around, b0


@compiled
def single_pole(angle: float, highpass: bool) -> tuple[float, float, float]:
    """Return a first-order section's pole, b0 and b1, right at the cutoff and at 0 Hz (or with a zero there)."""
    pole = math.exp(-angle)
    phi1 = sine_squared(angle)
    bottom = (1.0 - pole) ** 2 * (1.0 - phi1) + (1.0 + pole) ** 2 * phi1
    if highpass:
        b0 = math.sqrt(0.5 * bottom / (4.0 * phi1))
        return pole, b0, -b0
    top = max(0.0, (0.5 * bottom - (1.0 - pole) ** 2 * (1.0 - phi1)) / phi1)
    b0 = 0.5 * ((1.0 - pole) + math.sqrt(top))
    return pole, b0, (1.0 - pole) - b0


@compiled
def tick(x: float, s1: float, s2: float, c: Section) -> tuple[float, float, float]:
    """Advance a section by one sample; returns the response and the two memories."""
    high = c[2] * (x - c[1] * s1 - s2)
    rise = c[0] * high
    band = rise + s1
    lift = c[0] * band
    low = lift + s2
    return c[3] * low + c[4] * band + c[5] * high, band + rise, low + lift


@compiled
def load(st: Floats, at: int) -> Section:
    """Return the coefficients that stand in the state behind a section's memory."""
    return st[at + 2], st[at + 3], st[at + 4], st[at + 5], st[at + 6], st[at + 7]


@compiled
def save(st: Floats, at: int, s1: float, s2: float, c: Section) -> None:
    """Write a section's memory and coefficients into the state."""
    st[at], st[at + 1] = s1, s2
    st[at + 2], st[at + 3], st[at + 4], st[at + 5], st[at + 6], st[at + 7] = c


@compiled
def run_pole(
    sig: Floats, ins: Ints, outs: Ints, st: Floats, rate: float, a: int, b: int, cutoff: float, mode: int
) -> None:
    """Run one pole, 6 dB per octave; it has no resonance."""
    y, last, pole, b0, b1 = st[PLAIN], st[PLAIN + 1], st[PLAIN + 2], st[PLAIN + 3], st[PLAIN + 4]
    for i in range(a, b):
        if sig[ins[1], i] != cutoff:
            cutoff = sig[ins[1], i]
            pole, b0, b1 = single_pole(angle_of(cutoff, rate), mode == HIGHPASS)
        x = sig[ins[0], i]
        y = pole * y + b0 * x + b1 * last
        last = x
        sig[outs[0], i] = y
    st[PLAIN], st[PLAIN + 1], st[PLAIN + 2], st[PLAIN + 3], st[PLAIN + 4] = y, last, pole, b0, b1


@compiled
def run_plain(
    sig: Floats,
    ins: Ints,
    outs: Ints,
    st: Floats,
    rate: float,
    a: int,
    b: int,
    cutoff: float,
    resonance: float,
    mode: int,
) -> None:
    """Run one section, 12 dB per octave."""
    s1, s2, c = st[PLAIN], st[PLAIN + 1], load(st, PLAIN)
    for i in range(a, b):
        if sig[ins[1], i] != cutoff or sig[ins[2], i] != resonance:
            cutoff = sig[ins[1], i]
            resonance = sig[ins[2], i]
            angle = angle_of(cutoff, rate)
            c = section(angle, sine_squared(angle), BUTTERWORTH_2 * max(1.0 - resonance, LEAST_DAMPING), mode)
        y, s1, s2 = tick(sig[ins[0], i], s1, s2, c)
        sig[outs[0], i] = y
    save(st, PLAIN, s1, s2, c)


@compiled
def run_steep(
    sig: Floats,
    ins: Ints,
    outs: Ints,
    st: Floats,
    rate: float,
    a: int,
    b: int,
    cutoff: float,
    resonance: float,
    mode: int,
) -> None:
    """Run two sections, 24 dB per octave; the sharper one takes the resonance."""
    s1, s2, c = st[PLAIN], st[PLAIN + 1], load(st, PLAIN)
    t1, t2, d = st[SHARP], st[SHARP + 1], load(st, SHARP)
    for i in range(a, b):
        if sig[ins[1], i] != cutoff or sig[ins[2], i] != resonance:
            cutoff = sig[ins[1], i]
            resonance = sig[ins[2], i]
            angle = angle_of(cutoff, rate)
            phi1 = sine_squared(angle)
            c = section(angle, phi1, BUTTERWORTH_4_BROAD, mode)
            d = section(angle, phi1, BUTTERWORTH_4_SHARP * max(1.0 - resonance, LEAST_DAMPING), mode)
        y, s1, s2 = tick(sig[ins[0], i], s1, s2, c)
        y, t1, t2 = tick(y, t1, t2, d)
        sig[outs[0], i] = y
    save(st, PLAIN, s1, s2, c)
    save(st, SHARP, t1, t2, d)


@compiled
def run_sides(
    sig: Floats, ins: Ints, outs: Ints, st: Floats, rate: float, a: int, b: int, cutoff: float, resonance: float
) -> None:
    """Run one section for the outputs low, band and high together."""
    s1, s2, c = st[SIDES], st[SIDES + 1], load(st, SIDES)
    band_low, band, band_high = st[SIDES + 8], st[SIDES + 9], st[SIDES + 10]
    top = st[SIDES + 11]
    for i in range(a, b):
        if sig[ins[1], i] != cutoff or sig[ins[2], i] != resonance:
            cutoff = sig[ins[1], i]
            resonance = sig[ins[2], i]
            angle = angle_of(cutoff, rate)
            damping = BUTTERWORTH_2 * max(1.0 - resonance, LEAST_DAMPING)
            phi1 = sine_squared(angle)
            c = section(angle, phi1, damping, LOWPASS)
            _, _, _, band_low, band, band_high = section(angle, phi1, damping, BANDPASS)
            _, _, _, _, _, top = section(angle, phi1, damping, HIGHPASS)
        high_now = c[2] * (sig[ins[0], i] - c[1] * s1 - s2)
        band_now = c[0] * high_now + s1
        low_now = c[0] * band_now + s2
        s1 = band_now + c[0] * high_now
        s2 = low_now + c[0] * band_now
        sig[outs[1], i] = c[3] * low_now + c[4] * band_now + c[5] * high_now
        sig[outs[2], i] = band_low * low_now + band * band_now + band_high * high_now
        sig[outs[3], i] = top * high_now
    save(st, SIDES, s1, s2, c)
    st[SIDES + 8], st[SIDES + 9], st[SIDES + 10], st[SIDES + 11] = band_low, band, band_high, top


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Run what the slope asks for; coefficients are computed anew wherever cutoff or resonance have moved.

    Resonance r leaves the sharpest section a damping of (1 - r) times its Butterworth value. A band-pass and a
    notch need two poles at least, so at 6 dB per octave they are what they are at 12.
    """
    mode = int(p[0])
    slope = int(p[1])
    cutoff = st[LAST_CUTOFF]
    resonance = st[LAST_RESONANCE]
    if slope == SLOPE_24:
        run_steep(sig, ins, outs, st, rate, a, b, cutoff, resonance, mode)
    elif slope == SLOPE_6 and mode <= HIGHPASS:
        run_pole(sig, ins, outs, st, rate, a, b, cutoff, mode)
    else:
        run_plain(sig, ins, outs, st, rate, a, b, cutoff, resonance, mode)
    if p[2] > 1.0:
        run_sides(sig, ins, outs, st, rate, a, b, cutoff, resonance)
    st[LAST_CUTOFF] = sig[ins[1], b - 1]
    st[LAST_RESONANCE] = sig[ins[2], b - 1]
