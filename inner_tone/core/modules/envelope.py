"""Envelope: a level that rises when a gate opens and falls when it closes."""

import math

from inner_tone.core.modules.declaration import Choice, Input, Law, ModuleType, Output, Ruler
from inner_tone.core.modules.kernel import Floats, Ints, Tables, compiled

ADSR, AD, AR = range(3)
REST, ATTACK, DECAY, SUSTAIN, RELEASE = range(5)
STAGE, PROGRESS, LEVEL, FROM, LAST_GATE, LAST_STRIKE = range(6)
BEND = 4.0  # how strongly a curved stage is bent: the first half of its time covers 88 % of its way
TIME_RULER = (0.0, 20.0)


def time_input(name: str, default: float, help: str) -> Input:
    """Return the declaration of an input that is a time in seconds."""
    low, high = TIME_RULER
    ruler = Ruler(low, high, default, "s", 0.001, "log")
    return Input(name, "control", help, ruler, Law.OCTAVES, bounds=(0.0, 60.0))


MODULE = ModuleType(
    name="envelope",
    family="steer",
    title="Envelope",
    summary="Rises when a note begins and falls when it ends, in the times that you set.",
    explanation=(
        "An envelope draws the course of a note. When the gate opens it climbs to the top in its attack time, falls "
        "to its sustain level in its decay time, and waits there until the gate closes; then it falls back to zero "
        "in its release time. It makes no sound: it is a hand that turns something else, most often the level of "
        "an amplifier."
    ),
    inputs=(
        Input("gate", "gate", "Opens and closes the envelope."),
        Input("strike", "gate", "Begins the attack anew, even while the gate is open."),
        time_input("attack", 0.01, "The time from silence to the top."),
        time_input("decay", 0.2, "The time from the top to the sustain level."),
        Input(
            "sustain",
            "control",
            "The level that is held while the gate is open.",
            Ruler(0, 1, 0.7, "", 0.01),
            bounds=(0.0, 1.0),
        ),
        time_input("release", 0.3, "The time from where it stands to zero, after the gate has closed."),
    ),
    outputs=(
        Output("out", "control", "The envelope, 0 to 1."),
        Output("inverted", "control", "The envelope turned over: 1 at rest, 0 at the top.", on_demand=True),
        Output("done", "gate", "1 for a single sample where the envelope has come to its end.", on_demand=True),
    ),
    settings=(
        Choice(
            "stages",
            ("attack-decay-sustain-release", "attack-decay", "attack-release"),
            "attack-decay-sustain-release",
            "Which stages it goes through.",
            words=("all four", "attack, decay", "attack, release"),
        ),
        Choice(
            "curve",
            ("curved", "linear"),
            "curved",
            "Curved stages move fast first and slow down, as a capacitor charges; linear ones are straight.",
        ),
    ),
    state_size=lambda rate: 6,
)


@compiled
def bent(progress: float, linear: bool) -> float:
    """Return how much of its way a stage has gone when `progress` of its time has passed, both 0 to 1."""
    if linear:
        return progress
    return (1.0 - math.exp(-BEND * progress)) / (1.0 - math.exp(-BEND))


@compiled
def unbent(way: float, linear: bool) -> float:
    """Return the progress at which `bent` is `way`."""
    if linear:
        return way
    return -math.log(1.0 - way * (1.0 - math.exp(-BEND))) / BEND


@compiled
def envelope(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Go through the stages; each takes its stated time from its full starting level to its end.

    A gate that opens while the level is up begins the attack at the present level, so the attack then takes
    only the rest of its time and nothing jumps.
    """
    stages = int(p[0])
    linear = p[1] == 1.0
    for i in range(a, b):
        gate = sig[ins[0], i] > 0.0
        strike = sig[ins[1], i] > 0.0
        sustain = sig[ins[4], i]
        opened = gate and st[LAST_GATE] == 0.0
        struck = strike and st[LAST_STRIKE] == 0.0
        closed = not gate and st[LAST_GATE] == 1.0
        st[LAST_GATE] = 1.0 if gate else 0.0
        st[LAST_STRIKE] = 1.0 if strike else 0.0
        if opened or struck:
            st[STAGE] = ATTACK
            st[PROGRESS] = unbent(st[LEVEL], linear)
        elif closed and stages != AD and st[STAGE] != REST:
            st[STAGE] = RELEASE
            st[PROGRESS] = 0.0
            st[FROM] = st[LEVEL]

        if st[STAGE] == ATTACK and st[PROGRESS] >= 1.0:
            st[STAGE] = DECAY if stages != AR else SUSTAIN
            st[PROGRESS] -= 1.0
            if st[STAGE] == DECAY:
                # what is left of this sample belongs to the decay, at the decay's own speed
                st[PROGRESS] *= sig[ins[2], i] / max(sig[ins[3], i], 1.0 / rate)
        if st[STAGE] == DECAY and st[PROGRESS] >= 1.0:
            st[STAGE] = SUSTAIN if stages == ADSR else REST
        finished = st[STAGE] == RELEASE and st[PROGRESS] >= 1.0
        finished = finished or (st[STAGE] == REST and st[LEVEL] > 0.0)
        if finished:
            st[STAGE] = REST

        stage = st[STAGE]
        time = 0.0
        if stage == ATTACK:
            st[LEVEL] = bent(st[PROGRESS], linear)
            time = sig[ins[2], i]
        elif stage == DECAY:
            foot = sustain if stages == ADSR else 0.0
            st[LEVEL] = foot + (1.0 - foot) * (1.0 - bent(st[PROGRESS], linear))
            time = sig[ins[3], i]
        elif stage == RELEASE:
            st[LEVEL] = st[FROM] * (1.0 - bent(st[PROGRESS], linear))
            time = sig[ins[5], i]
        elif stage == SUSTAIN:
            st[LEVEL] = sustain if stages == ADSR else 1.0
        else:
            st[LEVEL] = 0.0
        if stage not in (REST, SUSTAIN):
            st[PROGRESS] += 1.0 / max(time * rate, 1.0)
        sig[outs[0], i] = st[LEVEL]
        sig[outs[1], i] = 1.0 - st[LEVEL]
        sig[outs[2], i] = 1.0 if finished else 0.0
