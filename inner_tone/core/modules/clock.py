"""Clock: pulses in the phrase's tempo."""

import numpy as np

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.declaration import ModuleType, Number, Output, Ruler, numbered
from inner_tone.core.modules.kernel import Tables, compiled
from inner_tone.core.modules.tempo import BEATS, division

COUNT = 0  # samples since it was born
ONE_BEAT = int(np.flatnonzero(BEATS == 1.0)[0])

MODULE = ModuleType(
    name="clock",
    family="steer",
    nanoseconds=10,
    title="Clock",
    summary="Ticks in the tempo of the phrase.",
    words=(
        "tempo",
        "beat",
        "pulse",
        "rhythm",
        "metronome",
        "trigger",
        "repeat",
    ),
    explanation=(
        "A clock puts out one short pulse after another, so many to the beat, and so keeps everything that it drives "
        "in step with the phrase. With swing the second pulse of each pair comes late, as in a shuffle."
    ),
    outputs=(
        Output("out", "gate", "1 for the first half of each pulse, 0 for the second."),
        Output("beat", "gate", "The same for each beat, whatever the division.", on_demand=True),
    ),
    settings=(
        division("1/4", "How long a pulse lasts."),
        Number(
            "swing", Ruler(50, 80, 50, "%", 1), "Where in each pair the second pulse begins; 50 is even, 67 a triplet."
        ),
    ),
    traits=frozenset({"own-time"}),
    usually="gates",
    state_size=lambda rate: 1,
)

IN, OUT, SET = numbered(MODULE)


@compiled
def edge(number: float, place: int, swing: float, since: float, beat: float, samples_per_beat: float) -> float:
    """Return the sample at which a pulse of a division begins, as whole number; `beat` falls on the sample `since`."""
    pair = np.floor(0.5 * number)
    within = number - 2.0 * pair
    beats = 2.0 * BEATS[place] * (pair + within * swing)
    sample: float = since + np.rint((beats - beat) * samples_per_beat)
    return sample


@compiled
def tick(
    out: Floats, count: float, place: int, swing: float, since: float, beat: float, samples_per_beat: float
) -> None:
    """Write a train of pulses from the sample `count` on.

    Which pulse it is follows from the beat alone. So none is given twice and none is lost, whatever becomes of tempo,
    division or swing: the beat only ever goes on.
    """
    now = beat + (count - since) / samples_per_beat
    number = 2.0 * np.floor(now / (2.0 * BEATS[place])) - 2.0
    while edge(number + 1.0, place, swing, since, beat, samples_per_beat) <= count:
        number += 1.0
    begin = edge(number, place, swing, since, beat, samples_per_beat)
    end = max(begin + 1.0, edge(number + 1.0, place, swing, since, beat, samples_per_beat))
    for i in range(len(out)):
        while count >= end:
            number += 1.0
            begin = end
            end = max(begin + 1.0, edge(number + 1.0, place, swing, since, beat, samples_per_beat))
        out[i] = 1.0 if 2.0 * (count - begin) < end - begin else 0.0
        count += 1.0


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Let each pulse begin at the sample that is nearest to its beat; while time stands still there is none."""
    out, beats = sig[outs[OUT.out], a:b], sig[outs[OUT.beat], a:b]
    count, since, beat = p[SET.born] + st[COUNT], p[SET.since], p[SET.beat]
    st[COUNT] += b - a
    if p[SET.runs] == 0.0:
        out[:] = 0.0
        beats[:] = 0.0
        return
    samples_per_beat = 60.0 / p[SET.tempo] * rate
    tick(out, count, int(p[SET.division]), 0.01 * p[SET.swing], since, beat, samples_per_beat)
    tick(beats, count, ONE_BEAT, 0.5, since, beat, samples_per_beat)
