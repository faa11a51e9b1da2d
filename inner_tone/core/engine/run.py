"""The compiled loop: gathers each module's inputs, calls its kernel, keeps what is listened to."""

from typing import NamedTuple

import numpy as np

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.apart import PLACES, WORD, WORDS, call_kernel, laid, lie_at
from inner_tone.core.modules.declaration import Law
from inner_tone.core.modules.functions import exp2, is_still
from inner_tone.core.modules.kernel import BLOCK, Tables, borrowed, compiled, entry, inlined

CHUNK = 64  # samples to which one pair of the outline's minima and maxima belongs
CLOSE = 4096  # samples that are kept of what is measured: two cycles of the lowest tones that are heard as such
FULL_SCALE = 1.0 + 1e-6  # rounding at full scale is not too loud
LINEAR = int(Law.LINEAR)
SEMITONES = int(Law.SEMITONES)


class Arrays(NamedTuple):
    """A program as flat arrays; a unit is a number m, an input port a number r, a line a number c.

    Signals are rows of a matrix with a column for each sample of a block; column 0 holds the last sample of
    the block before, which is what a line with a lag of one sample reads first. What is on its way to another value
    has its slope per sample, and the number of samples that have gone since it set out: so it is the same to the bit
    however many samples are asked for at once.
    """

    kernel: Ints  # by m: the address of its type's kernel
    told: Ints  # by m: room for what its kernel is given, which is laid there anew at each call
    ins_start: Ints  # by m, one more at the end: its input ports r
    outs_start: Ints
    p_start: Ints
    st_start: Ints  # by m: where its state begins and ends
    st_end: Ints
    ins_row: Ints  # by r
    outs_row: Ints
    p: Floats
    connection_start: Ints  # by r, one more at the end
    law: Ints  # by r
    base: Floats
    base_slope: Floats
    base_gone: Floats
    low: Floats
    high: Floats
    source_row: Ints  # by c
    source_lag: Ints
    scale_row: Ints  # -1 where nothing scales the line
    scale_lag: Ints
    depth: Floats
    depth_slope: Floats
    depth_gone: Floats
    group_start: Ints  # by group, one more at the end: its units m
    group_is_loop: Ints
    group_voice: Ints  # the voice that it belongs to; -1 where it exists once
    group_resets: Ints  # whether it is a loop in which a unit can be begun anew from outside
    reset_port: Ints  # by m: the input port r by which it is begun anew from outside its loop; -1 where there is none
    kept: Floats  # room for a column of the matrix
    moving: Ints  # by m: whether one of its settings is on its way
    leaving_voice: Ints  # what leads from a voice to what exists once
    leaving_row: Ints


class Tracks(NamedTuple):
    """What is written down while the program runs: whole signals, and measures of many."""

    rows: Ints  # shape (taps, voices): rows kept whole
    signals: Floats  # shape (taps, samples)
    measured: Ints  # shape (ports, voices): rows measured
    lows: Floats  # shape (ports, chunks)
    highs: Floats
    sums: Floats  # shape (ports,)
    squares: Floats
    close: Floats  # shape (ports, CLOSE): a moment of each, sample by sample, written round and round
    closely: Ints  # shape (3,): how many samples still pass before it, how many are still to be kept, how many are


class Voices(NamedTuple):
    """Which voices are awake, which one the tracks show, and how loud those are that could fall asleep."""

    awake: Ints  # by voice
    resting: Ints  # by voice: whether its key is up, and nothing but a key can make it sound again
    loudest: Floats  # by voice: what it has given since this was last set to 0, while resting
    shown: Ints  # shape (1,)


class Glides(NamedTuple):
    """What is on its way to another value, each by a straight line: base values, settings and depths."""

    base: Ints  # the inputs r whose base values move
    place: Ints  # the places in the settings of those that move, with their units and slopes
    unit: Ints
    value: Floats  # from which they set out
    slope: Floats
    gone: Floats
    grain: Ints  # for how many samples they may stand still before they move on
    line: Ints  # the lines c whose depths move


@inlined
def gather(program: Arrays, sig: Floats, m: int, a: int, b: int) -> None:
    """Compute the connected inputs of unit m for columns a…b."""
    for r in range(program.ins_start[m], program.ins_start[m + 1]):
        if program.connection_start[r] < program.connection_start[r + 1]:
            gather_input(program, sig, r, a, b)


@inlined
def gather_input(program: Arrays, sig: Floats, r: int, a: int, b: int) -> None:
    """Compute a connected input for columns a…b: base ⊕ Σ depth · source · scale."""
    first = program.connection_start[r]
    total = sig[program.ins_row[r], a:b]
    for c in range(first, program.connection_start[r + 1]):
        lag = program.source_lag[c]
        source = sig[program.source_row[c], a - lag : b - lag]
        scale_row = program.scale_row[c]
        if program.depth_slope[c] != 0.0:
            scale = sig[max(scale_row, 0), a - program.scale_lag[c] : b - program.scale_lag[c]]
            slope, gone = program.depth_slope[c], program.depth_gone[c] + a
            add_fading(total, source, scale, scale_row >= 0, program.depth[c], slope, gone, c == first)
        elif scale_row < 0:
            add_scaled(total, source, program.depth[c], c == first)
        else:
            scale_lag = program.scale_lag[c]
            add_product(total, source, sig[scale_row, a - scale_lag : b - scale_lag], program.depth[c], c == first)
    if program.base_slope[r] == 0.0:
        settle(total, program.law[r], program.base[r], program.low[r], program.high[r])
    else:
        slope, gone = program.base_slope[r], program.base_gone[r] + a
        settle_moving(total, program.law[r], program.base[r], slope, gone, program.low[r], program.high[r])


@compiled
def forget(program: Arrays, sig: Floats, g: int, i: int) -> bool:
    """Let the units of a loop that begin anew in column i have given nothing before it; tell whether any does.

    The line that closes a loop brings what was there a sample ago. Where a cycle begins anew that is no past of its
    own, and with it the same note would never be the same twice. What really was there is `kept`.
    """
    begun = False
    for m in range(program.group_start[g], program.group_start[g + 1]):
        r = program.reset_port[m]
        if r < 0:
            continue
        gather_input(program, sig, r, i, i + 1)
        row = program.ins_row[r]
        if sig[row, i] > 0.0 and sig[row, i - 1] <= 0.0:
            if not begun:
                program.kept[:] = sig[:, i - 1]
                begun = True
            for o in range(program.outs_start[m], program.outs_start[m + 1]):
                sig[program.outs_row[o], i - 1] = 0.0
    return begun


@compiled
def add_scaled(total: Floats, source: Floats, depth: float, fresh: bool) -> None:
    """Add depth · source to the total, or begin the total with it."""
    if fresh:
        for i in range(len(total)):
            total[i] = depth * source[i]
    else:
        for i in range(len(total)):
            total[i] += depth * source[i]


@compiled
def add_product(total: Floats, source: Floats, scale: Floats, depth: float, fresh: bool) -> None:
    """Add depth · source · scale to the total, or begin the total with it."""
    if fresh:
        for i in range(len(total)):
            total[i] = depth * source[i] * scale[i]
    else:
        for i in range(len(total)):
            total[i] += depth * source[i] * scale[i]


@compiled
def add_fading(
    total: Floats, source: Floats, scale: Floats, scaled: bool, depth: float, slope: float, gone: float, fresh: bool
) -> None:
    """Add a source whose depth is on its way: it set out `gone` samples before the first column."""
    for i in range(len(total)):
        value = (depth + slope * (gone + i)) * source[i]
        value = value * scale[i] if scaled else value
        total[i] = value if fresh else total[i] + value


@inlined
def within(value: float, low: float, high: float, base: float) -> float:
    """Return the value held within its bounds; the base where it is not a number."""
    if value >= low:
        return value if value <= high else high
    return low if value < low else base


@compiled
def settle(total: Floats, law: int, base: float, low: float, high: float) -> None:
    """Turn summed modulation into the input's value, in place, within its bounds; NaN becomes the base."""
    if law == LINEAR:
        for i in range(len(total)):
            total[i] = within(base + total[i], low, high, base)
        return
    octaves_per_unit = 1.0 / 12.0 if law == SEMITONES else 1.0
    if is_still(total):
        total[:] = within(base * exp2(within(total[0] * octaves_per_unit, -60.0, 60.0, 0.0)), low, high, base)
        return
    for i in range(len(total)):
        total[i] = within(base * exp2(within(total[i] * octaves_per_unit, -60.0, 60.0, 0.0)), low, high, base)


@compiled
def settle_moving(total: Floats, law: int, base: float, slope: float, gone: float, low: float, high: float) -> None:
    """Do the same with a base that is on its way: it set out `gone` samples before the first column."""
    octaves_per_unit = 1.0 / 12.0 if law == SEMITONES else 1.0
    for i in range(len(total)):
        now = base + slope * (gone + i)
        if law == LINEAR:
            total[i] = within(now + total[i], low, high, now)
        else:
            moved = exp2(within(total[i] * octaves_per_unit, -60.0, 60.0, 0.0))
            total[i] = within(now * moved, low, high, now)


@compiled
def bring_back(sig: Floats, column: int, kept: Floats) -> None:
    """Write a column of the matrix as it was."""
    sig[:, column] = kept


@inlined
def step_unit(
    program: Arrays, sig: Floats, signals: int, tables: int, glides: Glides, rate: float, m: int, a: int, b: int
) -> None:
    """Gather and process one unit for columns a…b; in small steps while one of its settings is on its way."""
    gather(program, sig, m, a, b)
    told = program.told.ctypes.data + m * PLACES * WORD
    i = a
    while i < b:
        stride = b - i
        if program.moving[m]:
            stride = min(stride, move_settings(program, glides, m, i))
        call_kernel(program.kernel[m], signals, told, tables, rate, i, i + stride)
        i += stride


@compiled
def tell_kernels(program: Arrays, states: Floats) -> None:
    """Lay down what the kernel of each unit is given: where its ports, its settings and its state are."""
    for m in range(len(program.kernel)):
        told = program.told.ctypes.data + m * PLACES * WORD
        lie_at(told, program.ins_row[program.ins_start[m] : program.ins_start[m + 1]])
        lie_at(told + WORDS * WORD, program.outs_row[program.outs_start[m] : program.outs_start[m + 1]])
        lie_at(told + 2 * WORDS * WORD, program.p[program.p_start[m] : program.p_start[m + 1]])
        lie_at(told + 3 * WORDS * WORD, states[program.st_start[m] : program.st_end[m]])


@compiled
def move_settings(program: Arrays, glides: Glides, m: int, i: int) -> int:
    """Set the settings of unit m that are on their way to what they are in column i; return how long that holds.

    They move in steps that are counted from where each set out, so that it does not matter how many samples are asked
    for at once.
    """
    holds = BLOCK
    for g in range(len(glides.place)):
        if glides.unit[g] == m:
            passed = int(glides.gone[g]) + i - 1
            within = passed % glides.grain[g]
            holds = min(holds, glides.grain[g] - within)
            program.p[glides.place[g]] = glides.value[g] + glides.slope[g] * (passed - within + 1)
    return holds


@inlined
def sums_of(values: Floats) -> tuple[float, float, float, float]:
    """Return the least and the greatest of some values, their sum, and the sum of their squares.

    Four of each run side by side, so that no addition has to wait for the one before.
    """
    l0 = l1 = l2 = l3 = np.inf
    h0 = h1 = h2 = h3 = -np.inf
    t0 = t1 = t2 = t3 = 0.0
    q0 = q1 = q2 = q3 = 0.0
    whole = len(values) - len(values) % 4
    for i in range(0, whole, 4):
        v0, v1, v2, v3 = values[i], values[i + 1], values[i + 2], values[i + 3]
        l0, l1, l2, l3 = lesser(v0, l0), lesser(v1, l1), lesser(v2, l2), lesser(v3, l3)
        h0, h1, h2, h3 = greater(v0, h0), greater(v1, h1), greater(v2, h2), greater(v3, h3)
        t0, t1, t2, t3 = t0 + v0, t1 + v1, t2 + v2, t3 + v3
        q0, q1, q2, q3 = q0 + v0 * v0, q1 + v1 * v1, q2 + v2 * v2, q3 + v3 * v3
    for value in values[whole:]:
        l0, h0, t0, q0 = lesser(value, l0), greater(value, h0), t0 + value, q0 + value * value
    low, high = lesser(lesser(l0, l1), lesser(l2, l3)), greater(greater(h0, h1), greater(h2, h3))
    return low, high, t0 + t1 + t2 + t3, q0 + q1 + q2 + q3


@inlined
def lesser(a: float, b: float) -> float:
    """Return the lesser of two numbers, neither of which is NaN."""
    return a if a < b else b


@inlined
def greater(a: float, b: float) -> float:
    """Return the greater of two numbers, neither of which is NaN."""
    return a if a > b else b


@compiled
def measure(tracks: Tracks, sig: Floats, shown: int, begin: int, count: int) -> None:
    """Update minima, maxima, sums and squares of the voice that is shown with the block's columns 1…count."""
    for t in range(len(tracks.measured)):
        values = sig[tracks.measured[t, shown], 1 : count + 1]
        i = 0
        while i < count:
            chunk = (begin + i) // CHUNK
            stop = min(count, (chunk + 1) * CHUNK - begin)
            low, high, total, power = sums_of(values[i:stop])
            tracks.lows[t, chunk] = lesser(low, tracks.lows[t, chunk])
            tracks.highs[t, chunk] = greater(high, tracks.highs[t, chunk])
            tracks.sums[t] += total
            tracks.squares[t] += power
            i = stop


@compiled
def look_closely(tracks: Tracks, sig: Floats, shown: int, count: int) -> None:
    """Keep the block's columns 1…count of what is measured, as far as they belong to the moment."""
    passed = min(count, tracks.closely[0])
    kept = min(count - passed, tracks.closely[1])
    written = tracks.closely[2]
    if kept > 0:
        for t in range(len(tracks.measured)):
            row = sig[tracks.measured[t, shown]]
            for i in range(kept):
                tracks.close[t, (written + i) % CLOSE] = row[1 + passed + i]
    tracks.closely[0] -= passed
    tracks.closely[1] -= kept
    tracks.closely[2] += kept


@entry
def advance(
    kept_program: Arrays,
    kept_sig: Floats,
    kept_states: Floats,
    kept_tables: Tables,
    kept_voices: Voices,
    kept_tracks: Tracks,
    kept_glides: Glides,
    rate: float,
    begin: int,
    count: int,
) -> None:
    """Run the program for `count` samples, the first of which is sample `begin` of what is written down."""
    program, sig, states = borrowed(kept_program), borrowed(kept_sig), borrowed(kept_states)
    tables, voices, tracks = borrowed(kept_tables), borrowed(kept_voices), borrowed(kept_tracks)
    glides = borrowed(kept_glides)
    signals, looked_up = laid(sig), laid(tables)
    tell_kernels(program, states)
    shown = voices.shown[0]
    done = 0
    while done < count:
        n = min(BLOCK, count - done)
        lay_out(program, sig, glides, n)
        for g in range(len(program.group_is_loop)):
            voice = program.group_voice[g]
            if voice >= 0 and not voices.awake[voice]:
                continue
            # the units of a loop take turns at every sample, the others at every block
            stride = 1 if program.group_is_loop[g] else n
            for i in range(1, n + 1, stride):
                begun = program.group_resets[g] != 0 and forget(program, sig, g, i)
                for m in range(program.group_start[g], program.group_start[g + 1]):
                    step_unit(program, sig, signals, looked_up, glides, rate, m, i, i + stride)
                if begun:
                    bring_back(sig, i - 1, program.kept)
        listen(program, sig, voices, n)
        for t in range(len(tracks.rows)):
            kept = tracks.signals[t, begin + done : begin + done + n]
            kept[:] = sig[tracks.rows[t, shown], 1 : n + 1]
        measure(tracks, sig, shown, begin + done, n)
        look_closely(tracks, sig, shown, n)
        for row in range(len(sig)):
            sig[row, 0] = sig[row, n]
        move_on(program, glides, n)
        done += n


@compiled
def lay_out(program: Arrays, sig: Floats, glides: Glides, n: int) -> None:
    """Write the base values that are on their way into the rows of inputs with nothing connected."""
    for r in glides.base:
        if program.connection_start[r] == program.connection_start[r + 1]:
            row = sig[program.ins_row[r]]
            for i in range(1, n + 1):
                row[i] = program.base[r] + program.base_slope[r] * (program.base_gone[r] + i)


@compiled
def move_on(program: Arrays, glides: Glides, n: int) -> None:
    """Note where everything that is on its way has come to after n samples."""
    for r in glides.base:
        program.base_gone[r] += n
    for g in range(len(glides.place)):
        glides.gone[g] += n
    for c in glides.line:
        program.depth_gone[c] += n


@compiled
def listen(program: Arrays, sig: Floats, voices: Voices, n: int) -> None:
    """Note how loud those voices are that could fall asleep."""
    for k in range(len(program.leaving_row)):
        voice = program.leaving_voice[k]
        if voices.resting[voice]:
            for i in range(1, n + 1):
                voices.loudest[voice] = max(voices.loudest[voice], abs(sig[program.leaving_row[k], i]))


@entry
def limit(left: Floats, right: Floats, state: Floats, fall: float) -> None:
    """Keep both sides within -1…1, in place; transparent to the bit while nothing exceeds full scale.

    The gain drops at once where it must and returns at `fall` per sample; state[0] is the reduction.
    """
    for i in range(len(left)):
        top = max(abs(left[i]), abs(right[i]))
        state[0] *= fall
        if state[0] < 1e-6:
            state[0] = 0.0
        needed = 1.0 - 1.0 / top if top > FULL_SCALE else 0.0
        state[0] = max(state[0], needed)
        if state[0] > 0.0:
            left[i] = min(1.0, max(-1.0, left[i] * (1.0 - state[0])))
            right[i] = min(1.0, max(-1.0, right[i] * (1.0 - state[0])))
