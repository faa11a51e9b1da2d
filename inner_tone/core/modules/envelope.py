"""Envelope: a level that rises when a gate opens and falls when it closes."""

import math

from inner_tone.core.modules.declaration import Choice, Input, ModuleType, Output, Ruler, time_input
from inner_tone.core.modules.kernel import Floats, Ints, Tables, compiled, inlined

ADSR, AD, AR = range(3)
REST, ATTACK, DECAY, SUSTAIN, RELEASE = range(5)
STAGE, PROGRESS, LEVEL, FROM, LAST_GATE, LAST_STRIKE, REMAINDER = range(7)
BEND = 4.0  # how strongly a curved stage is bent: the first half of its time covers 88 % of its way


MODULE = ModuleType(
    name="envelope",
    family="steer",
    title="Envelope",
    summary="Rises when a note begins and falls when it ends, in the times that you set.",
    words=(
        "fade",
        "swell",
        "pluck",
        "shape over time",
        "attack",
        "decay",
        "sustain",
        "release",
        "begin",
        "end",
        "softer start",
        "contour",
        "dies away",
        "longer",
        "shorter",
        "stop the tone",
    ),
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
    state_size=lambda rate: 7,
)


BOTTOM = math.exp(-BEND)
PER_RISE = 1.0 / (1.0 - BOTTOM)


@inlined
def gone(progress: float, remainder: float, linear: bool) -> float:
    """Return how much of its way a stage has gone, 0 to 1; `remainder` is exp(-BEND · progress)."""
    return progress if linear else (1.0 - remainder) * PER_RISE


@compiled
def progress_at(way: float, linear: bool) -> float:
    """Return the progress at which a stage has gone a part of its way."""
    return way if linear else -math.log(1.0 - way * (1.0 - BOTTOM)) / BEND


@compiled
def begin_stages(st: Floats, gate: bool, strike: bool, stages: int, linear: bool) -> None:
    """Let a gate that opens or closes, or a strike, begin a stage."""
    opened = gate and st[LAST_GATE] == 0.0
    struck = strike and st[LAST_STRIKE] == 0.0
    closed = not gate and st[LAST_GATE] == 1.0
    st[LAST_GATE] = 1.0 if gate else 0.0
    st[LAST_STRIKE] = 1.0 if strike else 0.0
    if opened or struck:
        st[STAGE] = ATTACK
        st[PROGRESS] = progress_at(st[LEVEL], linear)
        st[REMAINDER] = math.exp(-BEND * st[PROGRESS])
    elif closed and stages != AD and st[STAGE] != REST:
        st[STAGE] = RELEASE
        st[PROGRESS] = 0.0
        st[REMAINDER] = 1.0
        st[FROM] = st[LEVEL]


@compiled
def end_stages(st: Floats, stages: int, attack: float, decay: float, rate: float) -> bool:
    """Let a stage whose time is over give way to the next; returns whether the whole envelope has ended."""
    if st[STAGE] == ATTACK and st[PROGRESS] >= 1.0:
        st[STAGE] = DECAY if stages != AR else SUSTAIN
        # what is left of this sample belongs to the decay, at the decay's own speed
        st[PROGRESS] = (st[PROGRESS] - 1.0) * attack / max(decay, 1.0 / rate)
        st[REMAINDER] = math.exp(-BEND * st[PROGRESS])
    if st[STAGE] == DECAY and st[PROGRESS] >= 1.0:
        st[STAGE] = SUSTAIN if stages == ADSR else REST
    ended = st[STAGE] == RELEASE and st[PROGRESS] >= 1.0
    if ended:
        st[STAGE] = REST
    if st[STAGE] == REST or st[STAGE] == SUSTAIN:
        st[PROGRESS] = 0.0
    return ended or bool(st[STAGE] == REST and st[LEVEL] > 0.0)


@inlined
def level_now(stage: float, way: float, begun_at: float, stages: int, sustain: float) -> float:
    """Return the level where the present stage has gone a part of its way."""
    foot = sustain if stages == ADSR else 0.0
    if stage == ATTACK:
        return way
    if stage == DECAY:
        return foot + (1.0 - foot) * (1.0 - way)
    if stage == RELEASE:
        return begun_at * (1.0 - way)
    if stage == SUSTAIN:
        return sustain if stages == ADSR else 1.0
    return 0.0


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Go through the stages; each takes its stated time from its full starting level to its end.

    A gate that opens while the level is up begins the attack at the present level, so the attack then takes
    only the rest of its time and nothing jumps.
    """
    stages, linear = int(p[0]), p[1] == 1.0
    gates, strikes, sustains, out = sig[ins[0], a:b], sig[ins[1], a:b], sig[ins[4], a:b], sig[outs[0], a:b]
    attacks, decays, releases = sig[ins[2], a:b], sig[ins[3], a:b], sig[ins[5], a:b]
    done = sig[outs[2], a:b]
    stage, progress, remainder, level = st[STAGE], st[PROGRESS], st[REMAINDER], st[LEVEL]
    last_time = -1.0
    step = 0.0
    factor = 1.0
    for i in range(len(out)):
        gate, strike = gates[i] > 0.0, strikes[i] > 0.0
        done[i] = 0.0
        if progress >= 1.0 or (st[LAST_GATE] > 0.0) != gate or (st[LAST_STRIKE] > 0.0) != strike:
            st[PROGRESS], st[REMAINDER], st[LEVEL] = progress, remainder, level
            begin_stages(st, gate, strike, stages, linear)
            done[i] = 1.0 if end_stages(st, stages, attacks[i], decays[i], rate) else 0.0
            stage, progress, remainder = st[STAGE], st[PROGRESS], st[REMAINDER]
        level = level_now(stage, gone(progress, remainder, linear), st[FROM], stages, sustains[i])
        out[i] = level
        if stage not in (REST, SUSTAIN):
            time = attacks[i] if stage == ATTACK else decays[i] if stage == DECAY else releases[i]
            if time != last_time:
                last_time = time
                step = 1.0 / max(time * rate, 1.0)
                factor = math.exp(-BEND * step)
            progress += step
            remainder *= factor
    st[STAGE], st[PROGRESS], st[REMAINDER], st[LEVEL] = stage, progress, remainder, level
    if p[2] > 1.0:
        inverted = sig[outs[1], a:b]
        for i in range(len(out)):
            inverted[i] = 1.0 - out[i]
