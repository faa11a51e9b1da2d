"""Clock: pulses in the phrase's tempo."""

import numpy as np

from inner_tone.core.modules.declaration import ModuleType, Number, Output, Ruler, numbered
from inner_tone.core.modules.kernel import Floats, Ints, Tables, compiled
from inner_tone.core.modules.tempo import BEATS, division

COUNT, PULSE, BEAT = 0, 1, 4  # samples so far; of each pulse train: its number, where it begins and where it ends
ONE_BEAT = int(np.flatnonzero(BEATS == 1.0)[0])

MODULE = ModuleType(
    name="clock",
    family="steer",
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
    state_size=lambda rate: 7,
)

IN, OUT, SET = numbered(MODULE)


@compiled
def edge(number: float, place: int, swing: float, samples_per_beat: float) -> float:
    """Return the sample at which a pulse of a division begins, as whole number."""
    pair = np.floor(0.5 * number)
    within = number - 2.0 * pair
    beats = 2.0 * BEATS[place] * (pair + within * swing)
    sample: float = np.rint(beats * samples_per_beat)
    return sample


@compiled
def tick(out: Floats, st: Floats, at: int, place: int, swing: float, samples_per_beat: float) -> None:
    """Write a train of pulses; the state holds the present pulse's number, its beginning and its end."""
    count = st[COUNT]
    for i in range(len(out)):
        while count >= st[at + 2]:
            if st[at + 2] > 0.0:
                st[at] += 1.0
            st[at + 1] = st[at + 2]
            st[at + 2] = max(count + 1.0, edge(st[at] + 1.0, place, swing, samples_per_beat))
        out[i] = 1.0 if 2.0 * (count - st[at + 1]) < st[at + 2] - st[at + 1] else 0.0
        count += 1.0


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Count samples and let each pulse begin at the sample that is nearest to its beat."""
    samples_per_beat = 60.0 / p[SET.tempo] * rate
    tick(sig[outs[OUT.out], a:b], st, PULSE, int(p[SET.division]), 0.01 * p[SET.swing], samples_per_beat)
    tick(sig[outs[OUT.beat], a:b], st, BEAT, ONE_BEAT, 0.5, samples_per_beat)
    st[COUNT] += b - a
