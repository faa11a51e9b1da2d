"""Filter: low-pass, high-pass, band-pass and notch at 6, 12 or 24 dB per octave.

The poles are those of the analogue prototype carried over by impulse invariance, and the zeros are set so that
the magnitude agrees with the prototype's at the cutoff and far from it: M. Vicanek, "Matched second order
digital filters" (2016). So the response is the textbook's up to the top of hearing, where the usual bilinear
transform would bend it down. The poles run as a state-variable filter with zero-delay feedback in its
topology-preserving form (V. Zavalishin, "The art of VA filter design", 2012), which stays stable however fast
the cutoff moves: without damping and without input, its memory only turns on a circle.

At resonance 1 that circle is kept at one radius, so the filter sings at its cutoff, a pure sine, by itself. Below,
the filter is linear.
"""

import math
from collections.abc import Sequence
from typing import TypeVar

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules import theory
from inner_tone.core.modules.declaration import Choice, Input, ModuleType, Output, Ruler, cutoff_inputs, numbered
from inner_tone.core.modules.functions import exp2, is_heard, is_still, moved, sine
from inner_tone.core.modules.kernel import BLOCK, Tables, compiled, inlined
from inner_tone.core.modules.theory import Complexes, ResponseTheory, Settings, analogue_turns

MODES = ("lowpass", "highpass", "bandpass", "notch")
SLOPES = (6, 12, 24)
LOWPASS, HIGHPASS, BANDPASS, NOTCH = range(4)
SLOPE_6, SLOPE_12, SLOPE_24 = range(3)
BUTTERWORTH_2 = math.sqrt(2.0)  # 1/Q of the one section of a second-order Butterworth response
BUTTERWORTH_4_BROAD = 2.0 * math.cos(math.pi / 8.0)  # 1/Q of the two sections of a fourth-order one
BUTTERWORTH_4_SHARP = 2.0 * math.cos(3.0 * math.pi / 8.0)
LEAST_DAMPING = 5e-4
HIGHEST_ANGLE = 0.92 * math.pi
PER_LOG_2 = 1.0 / math.log(2.0)

SINGING = 0.9995  # the resonance from which on the filter sings by itself
SONG_POWER = 0.5  # the square of the amplitude at which it sings
SONG_RISE = 0.002  # how fast it gets there: nepers in a sample
SIDE_MODES = (LOWPASS, BANDPASS, HIGHPASS)
SPARK = 1e-6  # what it begins with where nothing comes in

Option = TypeVar("Option", str, int)
# A section's coefficients at one sample, and the rows in which those of a block stand.
Section = tuple[float, float, float, float, float, float]
COEFFICIENTS = 6
ROWS = COEFFICIENTS * BLOCK

FADE_SECONDS = 0.01  # in which another mode or slope takes over

# The state: which of two lanes is heard, how many samples the other one still fades out for, what they were made for,
# room to compute in; then the lanes, each with what its coefficients were computed from, its memories, and coefficients
# for a block of samples; then the same for the outputs at its side.
ACTIVE, FADING, MODE, SLOPE, OTHER_WISH = range(5)
ANGLES = 5
MOVED = ANGLES + 3 * BLOCK
OTHER = MOVED + BLOCK
LANES = OTHER + BLOCK
LAST_CUTOFF, LAST_RESONANCE, LAST_WISH = 0, 1, 2
PLAIN, SHARP = 4, 6
FIRST_ROWS = 8
SECOND_ROWS = FIRST_ROWS + ROWS
LANE = SECOND_ROWS + ROWS
SIDES = LANES + 2 * LANE
SIDES_ROWS = 6
SIZE = SIDES + SIDES_ROWS + 3 * ROWS


def theory_response(settings: Settings, frequencies_hz: Floats, rate: float) -> Complexes:
    """Return the response of a filter at frequencies in Hz: complex, 1 lets all pass.

    Butterworth's where the resonance is 0 (S. Butterworth, "On the theory of filter amplifiers", 1930); resonance r
    leaves the sharpest section a damping 1/Q of (1 - r) times Butterworth's.
    """
    turns = analogue_turns(frequencies_hz, rate)
    angle = 2.0 * math.pi * theory.cutoff_hz(settings) / rate
    mode = moved_on(MODES, settings["mode"], settings.get("next_mode", 0.0))
    slope = moved_on(SLOPES, settings["slope"], settings.get("next_slope", 0.0))
    if slope == 6 and mode in ("lowpass", "highpass"):
        return theory.single_pole(turns, angle, mode)
    left = max(1.0 - float(settings["resonance"]), LEAST_DAMPING)
    if slope == 24:
        broad = theory.section(turns, angle, BUTTERWORTH_4_BROAD, mode)
        return broad * theory.section(turns, angle, BUTTERWORTH_4_SHARP * left, mode)
    return theory.section(turns, angle, BUTTERWORTH_2 * left, mode)


def places_on(name: str, what: str, options: str, count: int) -> Input:
    """Return the input that goes on by whole places from the option that is set."""
    help = f"How many {what} on from the one that is set ({options}), without a click."
    most = float(count - 1)
    return Input(name, "control", help, Ruler(-most, most, 0, "", 1), bounds=(-most, most), usual=1.0, rare=True)


def moved_on(options: Sequence[Option], chosen: Option, places: float) -> Option:
    """Return the option that lies so many places on from the one that is chosen, or the last."""
    place = options.index(chosen) + math.floor(float(places) + 0.5)
    return options[max(0, min(len(options) - 1, place))]


MODULE = ModuleType(
    name="filter",
    family="shape",
    nanoseconds=16,
    title="Filter",
    summary="Takes away the partials on one side of its cutoff.",
    words=(
        "darker",
        "brighter",
        "duller",
        "warmer",
        "softer",
        "muffled",
        "distant",
        "less treble",
        "less bass",
        "thin",
        "low-pass",
        "high-pass",
        "band-pass",
        "notch",
        "cutoff",
        "resonance",
        "tone",
        "subtractive",
        "vcf",
        "lpf",
        "hpf",
        "bpf",
        "low pass",
        "high pass",
        "band pass",
        "key follow",
        "key tracking",
    ),
    explanation=(
        "A filter lets some of the partials pass and weakens the others, the more the farther they lie from its "
        "cutoff. A low-pass keeps what lies below: the sound grows darker, rounder, more distant as the cutoff "
        "falls. The slope says how fast it weakens the rest; the resonance lifts what lies right at the cutoff."
    ),
    inputs=(
        Input("in", "audio", "The sound to be filtered.", enters="through"),
        *cutoff_inputs("Where the filter begins to take away."),
        Input(
            "resonance",
            "control",
            "How far the cutoff itself is lifted: 0 is level, 1 sings by itself (not at 6 dB, nor as a notch).",
            Ruler(0, 1, 0, "", 0.01),
            bounds=(0.0, 1.0),
            role="ring",
        ),
        places_on("next_mode", "modes", "low-pass, high-pass, band-pass, notch", len(MODES)),
        places_on("next_slope", "slopes", "6, 12, 24 dB per octave", len(SLOPES)),
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
            MODES,
            "lowpass",
            "Which side passes.",
            words=("low-pass", "high-pass", "band-pass", "notch"),
            role="mode",
        ),
        Choice("slope", SLOPES, 12, "How fast the rest grows weaker.", "dB per octave", role="slope"),
    ),
    traits=frozenset({"sings"}),
    usually="path",
    shut_by="cutoff",
    seen_over="cycles",
    picture="response",
    theory=ResponseTheory(
        theory_response,
        beside={
            "low": {"mode": "lowpass", "slope": 12},
            "band": {"mode": "bandpass", "slope": 12},
            "high": {"mode": "highpass", "slope": 12},
        },
    ),
    state_size=lambda rate: SIZE,
)

IN, OUT, SET = numbered(MODULE)


@inlined
def angle_of(cutoff_hz: float, rate: float) -> float:
    """Return a cutoff in radians per sample, held below the top of what can be."""
    return min(2.0 * math.pi * cutoff_hz / rate, HIGHEST_ANGLE)


@inlined
def sine_squared(angle: float) -> float:
    """Return sin²(angle/2) for an angle from 0 to π; of the cutoff, it is Vicanek's φ1."""
    half = sine(0.5 * angle)
    return half * half


@inlined
def section(angle: float, phi1: float, damping: float, mode: int) -> Section:
    """Return a second-order section, with damping = 1/Q, at an angle in radians per sample; phi1 = sin²(angle/2).

    Returned are 1 / (1 + gk + g²), g over that, g of the state-variable form, and the weights of its input, its
    band and its low output for the response of `mode`.
    """
    half = 0.5 * damping
    fall = exp2(-PER_LOG_2 * half * angle)
    turn = sine_squared(angle * math.sqrt(1.0 - half * half))
    a2 = fall * fall
    at_dc = (1.0 - fall) ** 2 + 4.0 * fall * turn  # 1 + a1 + a2
    at_top = (1.0 + fall) ** 2 - 4.0 * fall * turn  # 1 - a1 + a2
    per_top = 1.0 / at_top
    g = math.sqrt(at_dc * per_top)
    twice = 2.0 * per_top / g
    b0, b1, b2 = numerator(phi1, damping, mode, at_dc, at_top, a2)
    # g²(1 + z⁻¹)², g(1 - z⁻²) and (1 - z⁻¹)² are the numerators of low, band and high, all over 4 / at_top
    low = (b0 + b1 + b2) / at_dc
    band = twice * (b0 - b2)
    high = per_top * (b0 - b1 + b2)
    # high = in - k · band - low
    return 0.25 * at_top, 0.25 * at_top * g, g, high, band - high * twice * (1.0 - a2), low - high


@inlined
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
def fill(rows: Floats, angles: Floats, phis: Floats, dampings: Floats, mode: int) -> None:
    """Write the coefficients of a section for a block of samples; the mode stays outside of the loop."""
    if mode == LOWPASS:
        fill_for(rows, angles, phis, dampings, LOWPASS)
    elif mode == HIGHPASS:
        fill_for(rows, angles, phis, dampings, HIGHPASS)
    elif mode == BANDPASS:
        fill_for(rows, angles, phis, dampings, BANDPASS)
    else:
        fill_for(rows, angles, phis, dampings, NOTCH)


@inlined
def fill_for(rows: Floats, angles: Floats, phis: Floats, dampings: Floats, mode: int) -> None:
    """Write the coefficients of a section for a block of samples in one mode."""
    n = len(angles)
    c0, c1, c2 = rows[:n], rows[BLOCK : BLOCK + n], rows[2 * BLOCK : 2 * BLOCK + n]
    c3, c4, c5 = rows[3 * BLOCK : 3 * BLOCK + n], rows[4 * BLOCK : 4 * BLOCK + n], rows[5 * BLOCK : 5 * BLOCK + n]
    for i in range(n):
        c0[i], c1[i], c2[i], c3[i], c4[i], c5[i] = section(angles[i], phis[i], dampings[i], mode)


@compiled
def lay_angles(room: Floats, cutoffs: Floats, rate: float) -> None:
    """Write the angles of a block's cutoffs, in radians per sample, and the squared sines of their halves."""
    for i in range(len(cutoffs)):
        room[i] = angle_of(cutoffs[i], rate)
        room[BLOCK + i] = sine_squared(room[i])


@compiled
def refill(st: Floats, room: Floats, resonances: Floats, mode: int, slope: int) -> None:
    """Compute a lane's coefficients for every sample of a block, all at once, so that it runs on vectors.

    Resonance r leaves the sharpest section a damping of (1 - r) times its Butterworth value.
    """
    n = len(resonances)
    angles, phis, dampings = room[:n], room[BLOCK : BLOCK + n], room[2 * BLOCK : 2 * BLOCK + n]
    if slope == SLOPE_24:
        dampings[:] = BUTTERWORTH_4_BROAD
        fill(st[FIRST_ROWS:SECOND_ROWS], angles, phis, dampings, mode)
        damp(dampings, resonances, BUTTERWORTH_4_SHARP)
        fill(st[SECOND_ROWS:LANE], angles, phis, dampings, mode)
    else:
        damp(dampings, resonances, BUTTERWORTH_2)
        fill(st[FIRST_ROWS:SECOND_ROWS], angles, phis, dampings, mode)


@compiled
def refill_sides(st: Floats, room: Floats, resonances: Floats) -> None:
    """Compute the coefficients of the outputs at the side for every sample of a block."""
    n = len(resonances)
    angles, phis, dampings = room[:n], room[BLOCK : BLOCK + n], room[2 * BLOCK : 2 * BLOCK + n]
    damp(dampings, resonances, BUTTERWORTH_2)
    for output in range(3):
        rows = st[SIDES_ROWS + output * ROWS : SIDES_ROWS + (output + 1) * ROWS]
        fill(rows, angles, phis, dampings, SIDE_MODES[output])


@inlined
def damp(dampings: Floats, resonances: Floats, butterworth: float) -> None:
    """Write what damping a resonance leaves of that of a Butterworth response."""
    for i in range(len(dampings)):
        dampings[i] = butterworth * max(1.0 - resonances[i], LEAST_DAMPING)


@inlined
def sung(s1: float, s2: float) -> tuple[float, float]:
    """Return the memory of a section, drawn a little towards the circle on which it sings."""
    power = s1 * s1 + s2 * s2
    if power < SPARK * SPARK:
        return s1 + SPARK, s2
    scale = max(0.5, 1.0 + SONG_RISE * (1.0 - power / SONG_POWER))
    return s1 * scale, s2 * scale


@inlined
def weighed(st: Floats, at: int, x: float, band: float, low: float) -> float:
    """Return a section's response from its input, its band and its low output."""
    response: float = st[at + 3 * BLOCK] * x + st[at + 4 * BLOCK] * band + st[at + 5 * BLOCK] * low
    return response


@compiled
def run_section(
    sound: Floats,
    out: Floats,
    st: Floats,
    memory: int,
    rows: int,
    still: bool,
    resonances: Floats,
    bandpass: bool,
    resonant: bool,
) -> None:
    """Run one section over a block; a resonant one sings where the resonance is 1, a band-pass by its bare band."""
    s1, s2 = st[memory], st[memory + 1]
    for i in range(len(out)):
        at = rows if still else rows + i
        x = sound[i]
        band = st[at] * s1 + st[at + BLOCK] * (x - s2)
        lift = st[at + 2 * BLOCK] * band
        low = s2 + lift
        out[i] = weighed(st, at, x, band, low)
        s1 = band + band - s1
        s2 = low + lift
        if resonant and resonances[i] >= SINGING:
            s1, s2 = sung(s1, s2)
            out[i] = band if bandpass else out[i]
    st[memory], st[memory + 1] = s1, s2


@compiled
def run_sides(sound: Floats, low: Floats, band: Floats, high: Floats, st: Floats, still: bool, res: Floats) -> None:
    """Run one section for the outputs low, band and high together; they differ only in their weights."""
    s1, s2 = st[PLAIN], st[PLAIN + 1]
    for i in range(len(low)):
        at = SIDES_ROWS if still else SIDES_ROWS + i
        x = sound[i]
        mid = st[at] * s1 + st[at + BLOCK] * (x - s2)
        lift = st[at + 2 * BLOCK] * mid
        bottom = s2 + lift
        low[i] = weighed(st, at, x, mid, bottom)
        band[i] = weighed(st, at + ROWS, x, mid, bottom)
        high[i] = weighed(st, at + 2 * ROWS, x, mid, bottom)
        s1 = mid + mid - s1
        s2 = bottom + lift
        if res[i] >= SINGING:
            s1, s2 = sung(s1, s2)
            band[i] = mid
    st[PLAIN], st[PLAIN + 1] = s1, s2


@compiled
def run_pole(sound: Floats, cutoffs: Floats, out: Floats, st: Floats, rate: float, highpass: bool) -> None:
    """Run one pole, 6 dB per octave; it has no resonance."""
    y, last = st[PLAIN], st[PLAIN + 1]
    cutoff = -1.0
    pole = b0 = b1 = 0.0
    for i in range(len(out)):
        if cutoffs[i] != cutoff:
            cutoff = cutoffs[i]
            pole, b0, b1 = single_pole(angle_of(cutoff, rate), highpass)
        x = sound[i]
        y = pole * y + b0 * x + b1 * last
        last = x
        out[i] = y
    st[PLAIN], st[PLAIN + 1] = y, last


@compiled
def is_known(st: Floats, cutoffs: Floats, resonances: Floats, still: bool, wish: float) -> bool:
    """Tell whether the coefficients at the front fit a whole block; note what they will have been computed from."""
    known = still and st[LAST_CUTOFF] == cutoffs[0] and st[LAST_RESONANCE] == resonances[0] and st[LAST_WISH] == wish
    st[LAST_CUTOFF], st[LAST_RESONANCE], st[LAST_WISH] = cutoffs[-1], resonances[-1], wish
    return known


@inlined
def to_the_front(st: Floats, first: int, last: int, count: int) -> None:
    """Bring the coefficients of a block's last sample to the front, where those that stand still are read."""
    for row in range(first, last, BLOCK):
        st[row] = st[row + count - 1]


@compiled
def run_lane(
    sound: Floats, cutoffs: Floats, resonances: Floats, out: Floats, st: Floats, room: Floats, wish: int, rate: float
) -> None:
    """Run one mode and slope over some samples; wish is mode + 4 · slope.

    A band-pass and a notch need two poles at least, so at 6 dB per octave they are what they are at 12.
    """
    mode, slope = wish % 4, wish // 4
    if slope == SLOPE_6 and mode <= HIGHPASS:
        run_pole(sound, cutoffs, out, st, rate, mode == HIGHPASS)
        return
    still = is_still(cutoffs) and is_still(resonances)
    if not is_known(st, cutoffs, resonances, still, float(wish + 1)):
        count = 1 if still else len(cutoffs)
        lay_angles(room, cutoffs[:count], rate)
        refill(st, room, resonances[:count], mode, slope)
    run_section(sound, out, st, PLAIN, FIRST_ROWS, still, resonances, mode == BANDPASS, slope != SLOPE_24)
    if slope == SLOPE_24:
        run_section(out, out, st, SHARP, SECOND_ROWS, still, resonances, mode == BANDPASS, True)
    if not still:
        to_the_front(st, FIRST_ROWS, LANE, len(out))


@inlined
def wished(chosen: float, places: float, most: int) -> int:
    """Return the option that lies so many places on from the one that is chosen, or the last."""
    return max(0, min(most, int(chosen) + math.floor(places + 0.5)))


@inlined
def lane(st: Floats, number: int) -> Floats:
    """Return one of the two lanes."""
    return st[LANES + number * LANE : LANES + (number + 1) * LANE]


@compiled
def begin(st: Floats, mode: int, slope: int, rate: float) -> None:
    """Let the lane that rests take over, from silence, while the other fades out; the first one needs no fading."""
    first = st[MODE] == 0.0
    st[MODE], st[SLOPE] = mode + 1.0, slope + 1.0
    if first:
        return
    st[ACTIVE] = 1.0 - st[ACTIVE]
    st[FADING] = math.floor(FADE_SECONDS * rate)
    coming = lane(st, int(st[ACTIVE]))
    coming[LAST_WISH] = 0.0
    coming[PLAIN : SHARP + 2] = 0.0


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Run what mode and slope ask for; coefficients are computed anew wherever cutoff or resonance have moved.

    Where another mode or slope is asked for, it takes over within a hundredth of a second, so that nothing clicks; what
    is asked for meanwhile waits until then.
    """
    sound, resonances = sig[ins[IN.in_], a:b], sig[ins[IN.resonance], a:b]
    cutoffs = moved(sig[ins[IN.cutoff], a:b], sig[ins[IN.linear], a:b], st[MOVED : MOVED + b - a])
    modes, slopes = sig[ins[IN.next_mode], a:b], sig[ins[IN.next_slope], a:b]
    out, room = sig[outs[OUT.out], a:b], st[ANGLES:MOVED]
    if is_heard(p[SET.heard], OUT.low, OUT.high):
        side = st[SIDES:]
        low, band, high = sig[outs[OUT.low], a:b], sig[outs[OUT.band], a:b], sig[outs[OUT.high], a:b]
        still = is_still(cutoffs) and is_still(resonances)
        if not is_known(side, cutoffs, resonances, still, 1.0):
            count = 1 if still else len(cutoffs)
            lay_angles(room, cutoffs[:count], rate)
            refill_sides(side, room, resonances[:count])
        run_sides(sound, low, band, high, side, still, resonances)
        if not still:
            to_the_front(side, SIDES_ROWS, SIDES_ROWS + 3 * ROWS, b - a)
    fixed = is_still(modes) and is_still(slopes)
    first_mode, first_slope = wished(p[SET.mode], modes[0], NOTCH), wished(p[SET.slope], slopes[0], SLOPE_24)
    if fixed and st[FADING] == 0.0 and first_mode + 1.0 == st[MODE] and first_slope + 1.0 == st[SLOPE]:
        wish = first_mode + 4 * first_slope
        run_lane(sound, cutoffs, resonances, out, lane(st, int(st[ACTIVE])), room, wish, rate)
        return
    i = 0
    while i < b - a:
        mode, slope = wished(p[SET.mode], modes[i], NOTCH), wished(p[SET.slope], slopes[i], SLOPE_24)
        if st[FADING] == 0.0 and (mode + 1.0 != st[MODE] or slope + 1.0 != st[SLOPE]):
            before = int(st[MODE] - 1.0 + 4.0 * (st[SLOPE] - 1.0))
            begin(st, mode, slope, rate)
            st[OTHER_WISH] = before
        stop = b - a
        if st[FADING] > 0.0:
            stop = min(stop, i + int(st[FADING]))
        elif not fixed:
            stop = i + 1
            while (
                stop < b - a
                and wished(p[SET.mode], modes[stop], NOTCH) == mode
                and wished(p[SET.slope], slopes[stop], SLOPE_24) == slope
            ):
                stop += 1
        active, wish = int(st[ACTIVE]), int(st[MODE] - 1.0 + 4.0 * (st[SLOPE] - 1.0))
        part, cut, lifted, given = sound[i:stop], cutoffs[i:stop], resonances[i:stop], out[i:stop]
        if st[FADING] > 0.0:
            fading = st[OTHER : OTHER + stop - i]
            run_lane(part, cut, lifted, fading, lane(st, 1 - active), room, int(st[OTHER_WISH]), rate)
            run_lane(part, cut, lifted, given, lane(st, active), room, wish, rate)
            whole = math.floor(FADE_SECONDS * rate)
            for k in range(stop - i):
                rest = (st[FADING] - k) / whole
                given[k] += rest * (fading[k] - given[k])
            st[FADING] -= stop - i
        else:
            run_lane(part, cut, lifted, given, lane(st, active), room, wish, rate)
        i = stop
