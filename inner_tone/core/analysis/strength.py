"""Strength: how strong a sound is from moment to moment, and the stages of what is struck first."""

from dataclasses import replace

import numpy as np

from inner_tone.core.analysis.envelope import Envelope
from inner_tone.core.analysis.given import Given
from inner_tone.core.analysis.stages import LEAST_RISE, Stages, first_stretch, stages_of
from inner_tone.core.analysis.thresholds import COURSE_BELOW, LEAD_S


def is_course(given: Given) -> bool:
    """Tell whether a signal is itself a course of strength, as that of an envelope is: never below zero, and slow."""
    return bool(np.min(given.signal, initial=0.0) > -COURSE_BELOW)


def stages_in(given: Given, found: Envelope) -> Stages | None:
    """Return the attack, decay, sustain and release of what is struck first; nothing where nothing sounds."""
    gate = given.gates_s[0] if given.gates_s else None
    if gate is None:
        return stages_of(replace(found, levels=first_stretch(found.levels, found.step_s)))
    if len(given.gates_s) > 1:
        found = replace(found, levels=found.part(0.0, given.gates_s[1][0] - given.begin_s))
    opens, closes = (at - given.begin_s for at in gate)
    stages = stages_of(found, max(0.0, opens), closes if closes < given.seconds else None)
    # where the next one begins before this one has died away, how it ends is not heard
    held = closes >= given.seconds or len(given.gates_s) > 1
    if stages and stages.attack_s == 0.0 and is_up_already(given):
        stages = replace(stages, attack_s=None, up=True)
    return replace(stages, held=held) if stages else None


def is_up_already(given: Given) -> bool:
    """Tell whether a sound was about as strong all through its lead as it is at its beginning."""
    count = round(LEAD_S * given.rate)
    if len(given.lead) < count:
        return False
    start = float(np.max(np.abs(given.signal[:count]), initial=0.0))
    before = min(float(np.max(np.abs(half))) for half in np.array_split(given.lead, 2))
    return before * (1.0 + LEAST_RISE) > start
