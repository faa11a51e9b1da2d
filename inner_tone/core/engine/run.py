"""The compiled loop: gathers each module's inputs, calls its kernel, keeps what is listened to."""

from typing import NamedTuple

from inner_tone.core.engine.dispatch import dispatch
from inner_tone.core.modules.declaration import Law
from inner_tone.core.modules.kernel import Floats, Ints, Tables, compiled

BLOCK = 128
CHUNK = 64  # samples to which one pair of the outline's minima and maxima belongs
FULL_SCALE = 1.0 + 1e-6  # rounding at full scale is not too loud
LINEAR = int(Law.LINEAR)
SEMITONES = int(Law.SEMITONES)


class Program(NamedTuple):
    """A patch as flat arrays; a module is a number m, an input port a number r.

    Signals are rows of a matrix with a column for each sample of a block; column 0 holds the last sample of
    the block before, which is what a connection with a lag of one sample reads first.
    """

    operation: Ints  # by m
    ins_start: Ints  # by m, one more at the end: its input ports r
    outs_start: Ints
    p_start: Ints
    st_start: Ints
    ins_row: Ints  # by r
    outs_row: Ints
    p: Floats
    connection_start: Ints  # by r, one more at the end
    law: Ints  # by r
    base: Floats
    low: Floats
    high: Floats
    source_row: Ints  # by connection
    source_lag: Ints
    scale_row: Ints  # -1 where nothing scales the connection
    scale_lag: Ints
    depth: Floats
    group_start: Ints  # by group, one more at the end: its modules m
    group_is_loop: Ints


class Tracks(NamedTuple):
    """What is written down while the program runs: whole signals, and measures of many."""

    rows: Ints  # rows kept whole
    signals: Floats  # shape (len(rows), samples)
    measured: Ints  # rows measured
    lows: Floats  # shape (len(measured), chunks)
    highs: Floats
    sums: Floats  # shape (len(measured),)
    squares: Floats


@compiled
def gather(program: Program, sig: Floats, m: int, a: int, b: int) -> None:
    """Compute the connected inputs of module m for columns a…b: base ⊕ Σ depth · source · scale."""
    for r in range(program.ins_start[m], program.ins_start[m + 1]):
        first = program.connection_start[r]
        last = program.connection_start[r + 1]
        if first == last:
            continue
        total = sig[program.ins_row[r], a:b]
        for c in range(first, last):
            lag = program.source_lag[c]
            source = sig[program.source_row[c], a - lag : b - lag]
            scale_row = program.scale_row[c]
            if scale_row < 0:
                add_scaled(total, source, program.depth[c], c == first)
            else:
                scale_lag = program.scale_lag[c]
                add_product(total, source, sig[scale_row, a - scale_lag : b - scale_lag], program.depth[c], c == first)
        settle(total, program.law[r], program.base[r], program.low[r], program.high[r])


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
    else:
        per_octave = 12.0 if law == SEMITONES else 1.0
        last = 0.0
        value = within(base, low, high, base)
        for i in range(len(total)):
            if total[i] != last:
                last = total[i]
                value = within(base * 2.0 ** min(60.0, max(-60.0, last / per_octave)), low, high, base)
            total[i] = value


@compiled
def step_module(
    program: Program, sig: Floats, states: Floats, tables: Tables, rate: float, m: int, a: int, b: int
) -> None:
    """Gather and process one module for columns a…b."""
    gather(program, sig, m, a, b)
    dispatch(
        program.operation[m],
        sig,
        program.ins_row[program.ins_start[m] : program.ins_start[m + 1]],
        program.outs_row[program.outs_start[m] : program.outs_start[m + 1]],
        program.p[program.p_start[m] : program.p_start[m + 1]],
        states[program.st_start[m] : program.st_start[m + 1]],
        tables,
        rate,
        a,
        b,
    )


@compiled
def measure(tracks: Tracks, sig: Floats, begin: int, count: int) -> None:
    """Update minima, maxima, sums and squares with the block's columns 1…count."""
    for t in range(len(tracks.measured)):
        values = sig[tracks.measured[t], 1 : count + 1]
        total = 0.0
        power = 0.0
        i = 0
        while i < count:
            chunk = (begin + i) // CHUNK
            stop = min(count, (chunk + 1) * CHUNK - begin)
            low = tracks.lows[t, chunk]
            high = tracks.highs[t, chunk]
            for value in values[i:stop]:
                low = value if value < low else low
                high = value if value > high else high
                total += value
                power += value * value
            tracks.lows[t, chunk] = low
            tracks.highs[t, chunk] = high
            i = stop
        tracks.sums[t] += total
        tracks.squares[t] += power


@compiled
def advance(
    program: Program,
    sig: Floats,
    states: Floats,
    tables: Tables,
    tracks: Tracks,
    rate: float,
    begin: int,
    count: int,
) -> None:
    """Run the program for `count` samples, the first of which is sample `begin` of the render."""
    done = 0
    while done < count:
        n = min(BLOCK, count - done)
        for g in range(len(program.group_is_loop)):
            first = program.group_start[g]
            last = program.group_start[g + 1]
            if program.group_is_loop[g] == 0:
                for m in range(first, last):
                    step_module(program, sig, states, tables, rate, m, 1, n + 1)
            else:
                for i in range(1, n + 1):
                    for m in range(first, last):
                        step_module(program, sig, states, tables, rate, m, i, i + 1)
        for t in range(len(tracks.rows)):
            kept = tracks.signals[t, begin + done : begin + done + n]
            kept[:] = sig[tracks.rows[t], 1 : n + 1]
        measure(tracks, sig, begin + done, n)
        for row in range(len(sig)):
            sig[row, 0] = sig[row, n]
        done += n


@compiled
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
