"""Envelope: a level that rises when a gate opens and falls when it closes."""

import math

import numpy as np

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.declaration import (
    OPENS,
    Choice,
    Input,
    ModuleType,
    Output,
    Ruler,
    Value,
    numbered,
    time_input,
)
from inner_tone.core.modules.functions import is_heard
from inner_tone.core.modules.kernel import Tables, compiled, inlined
from inner_tone.core.modules.theory import CourseTheory, Settings, Stages

ADSR, AD, AR = range(3)
REST, ATTACK, DECAY, SUSTAIN, RELEASE = range(5)
STAGE, PROGRESS, LEVEL, FROM, LAST_GATE, LAST_STRIKE, REMAINDER = range(7)
BEND = 4.0  # how strongly a curved stage is bent: the first half of its time covers 88 % of its way
BOTTOM = math.exp(-BEND)


def theory_course(settings: Settings, times_s: Floats, closing_s: float) -> Floats:
    """Return the level of an envelope whose gate opens at 0 s and closes at `closing_s`, at times in s."""
    stages = str(settings["stages"])
    attack, decay, release = (max(float(settings[name]), 1e-9) for name in ("attack", "decay", "release"))
    foot = {"attack-decay": 0.0, "attack-release": 1.0}.get(stages, float(settings["sustain"]))
    linear = settings["curve"] == "linear"

    def opened(at: Floats) -> Floats:
        falling = foot + (1.0 - foot) * (1.0 - theory_gone((at - attack) / decay, linear))
        return np.where(at < attack, theory_gone(at / attack, linear), falling)

    if stages == "attack-decay":
        return opened(times_s)
    left = float(opened(np.array([closing_s]))[0])
    released = left * (1.0 - theory_gone((times_s - closing_s) / release, linear))
    return np.where(times_s < closing_s, opened(times_s), released)


def theory_stages(settings: Settings) -> Stages:
    """Return the stages of an envelope as they are set."""
    attack, decay, release = (float(settings[name]) for name in ("attack", "decay", "release"))
    falls, waits = settings["stages"] != "attack-release", settings["stages"] != "attack-decay"
    level = (float(settings["sustain"]) if falls else 1.0) if waits else 0.0
    return Stages(attack, decay if falls else None, level, release if waits else None, settings["curve"] == "linear")


def gone_at(progress: float, linear: bool) -> float:
    """Return how much of its way a stage has gone at a progress."""
    return float(theory_gone(np.asarray(progress), linear))


def theory_gone(progress: Floats, linear: bool) -> Floats:
    """Return how much of its way a stage has gone at a progress of 0 to 1: straight, or as a capacitor charges."""
    progress = np.clip(progress, 0.0, 1.0)
    return progress if linear else np.asarray((1.0 - np.exp(-BEND * progress)) / (1.0 - BOTTOM))


def written(settings: Settings) -> dict[str, Value]:
    """Write settings one way: stages that it does not go through have no time."""
    unused = {"attack-decay": ("sustain", "release"), "attack-release": ("decay", "sustain")}
    return {**settings, **dict.fromkeys(unused.get(settings["stages"], ()), 0.0)}


MODULE = ModuleType(
    name="envelope",
    family="steer",
    nanoseconds=18,
    title="Envelope",
    summary="Rises when a note begins, and falls when it ends.",
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
        "adsr",
        "envelope generator",
        "eg",
        "contour generator",
    ),
    explanation=(
        "An envelope draws the course of a note. When the gate opens it climbs to the top in its attack time, falls "
        "to its sustain level in its decay time, and waits there until the gate closes; then it falls back to zero "
        "in its release time. It makes no sound: it is a hand that turns something else, most often the level of "
        "an amplifier."
    ),
    inputs=(
        Input("gate", "gate", "Opens and closes the envelope.", does=OPENS),
        Input("strike", "gate", "Begins the attack anew, even while the gate is open."),
        time_input("attack", 0.01, "The time from silence to the top.", role="attack"),
        time_input("decay", 0.2, "The time from the top to the sustain level.", role="decay"),
        Input(
            "sustain",
            "control",
            "The level that is held while the gate is open.",
            Ruler(0, 1, 0.7, "", 0.01),
            bounds=(0.0, 1.0),
            role="sustain",
        ),
        time_input("release", 0.3, "The time from where it stands to zero, after the gate has closed.", role="release"),
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
            role="bend",
        ),
    ),
    on_pitch=12.0,
    picture="course",
    written=written,
    theory=CourseTheory(theory_course, theory_stages, gone_at),
    state_size=lambda rate: 7,
)

IN, OUT, SET = numbered(MODULE)
CLICK: dict[str, str | int] = {"stages": "attack-decay", "attack": 0, "decay": 0, "curve": "linear"}  # a single sample


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
    stages, linear = int(p[SET.stages]), p[SET.curve] == 1.0
    gates, strikes, sustains = sig[ins[IN.gate], a:b], sig[ins[IN.strike], a:b], sig[ins[IN.sustain], a:b]
    out = sig[outs[OUT.out], a:b]
    attacks, decays, releases = sig[ins[IN.attack], a:b], sig[ins[IN.decay], a:b], sig[ins[IN.release], a:b]
    done = sig[outs[OUT.done], a:b]
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
    if is_heard(p[SET.heard], OUT.inverted, OUT.inverted):
        inverted = sig[outs[OUT.inverted], a:b]
        for i in range(len(out)):
            inverted[i] = 1.0 - out[i]
