"""Is a clause true? Each code of a clause is held against what is known of the sound.

A check returns whether the clause is true; nothing where the truth does not tell.
"""

from collections.abc import Callable, Mapping
from typing import Any

import numpy as np

from inner_tone.core.units import midi_of
from tests.truth.known import Truth

Facts = Mapping[str, Any]
Check = Callable[[Truth, Facts], bool | None]

HEARD_DB, EDGE_DB = -60.0, 6.0
HIGHEST_HZ = 18_000.0
STRONG_DB = -40.0


def near(found: float | None, true: float | None, share: float = 0.0, least: float = 0.0) -> bool:
    """Tell whether a value is as near to the truth as was promised."""
    if found is None or true is None:
        return False
    return abs(found - true) <= max(share * abs(true), least)


def cents(found: float, true: float) -> float:
    """Return how far a frequency is from the true one, in cents."""
    return abs(1200.0 * float(np.log2(found / true)))


def strong(truth: Truth, below_db: float = STRONG_DB) -> list[float]:
    """Return the frequencies of the strong partials."""
    top = max((level for _, level in truth.tones), default=0.0)
    return [hertz for hertz, level in truth.tones if level > top * 10.0 ** (below_db / 20.0)]


def pitch(truth: Truth, facts: Facts) -> bool | None:
    """A pitch must be the true one to three cents; of what swings, beats or nearly agrees, to as much as it moves."""
    found = facts["pitch_hz"]
    if truth.apart_hz and truth.pitch_hz:
        return bool(truth.pitch_hz - 0.3 < found < truth.pitch_hz + truth.apart_hz + 0.3)
    if truth.pitch_hz is None:
        return is_common(truth, found) if truth.tones else bool(truth.melody) and in_melody(truth, found)
    blur = 3.0 + (0.06 * truth.vibrato[1] if truth.vibrato else 0.0)
    return cents(found, truth.pitch_hz) < blur


def about(truth: Truth, facts: Facts) -> bool | None:
    """A pitch that is told about must be nearer to the true one than to any other note."""
    true = (midi_of(truth.pitch_hz),) if truth.pitch_hz else truth.melody
    return any(abs(midi_of(facts["about_hz"]) - one) < 0.5 for one in true)


def in_melody(truth: Truth, hertz: float) -> bool:
    """Tell whether a pitch is one of the notes."""
    return any(abs(midi_of(hertz) - note) < 0.05 for note in truth.melody)


def is_common(truth: Truth, hertz: float) -> bool:
    """Tell whether all strong partials are multiples of a frequency."""
    return all(abs(one - hertz * round(one / hertz)) < 0.15 + 1e-4 * one for one in strong(truth))


def levels_by_number(truth: Truth, facts: Facts) -> dict[int, float]:
    """Return the levels in dB, below the strongest, of the partials by their numbers."""
    hertz = facts["pitch_hz"] if truth.vibrato is None else truth.pitch_hz or facts["pitch_hz"]
    top = max(level for _, level in truth.tones)
    return {round(one / hertz): 20.0 * float(np.log10(level / top)) for one, level in truth.tones if one < HIGHEST_HZ}


def which(truth: Truth, facts: Facts) -> bool | None:
    """The numbers must be those of the partials within 60 dB; what lies near that, or is a hole, may be either."""
    if not truth.tones:
        return None
    true, said = levels_by_number(truth, facts), set(facts["partials"])
    last = max(said)
    for number in range(1, min(last, 64) + 1):
        level = true.get(number, -200.0)
        around = max((true.get(n, -200.0) for n in range(number - 3, number + 4) if n != number), default=-200.0)
        unsure = abs(level - HEARD_DB) < EDGE_DB or (level < around - 22.0 and level > -80.0)
        if unsure or hidden(truth, level):
            continue
        if (level > HEARD_DB) != (number in said):
            return False
    return True


def hidden(truth: Truth, level_db: float) -> bool:
    """Tell whether noise may hide a partial, or show one that is not there."""
    return truth.noise_db is not None and level_db < -truth.noise_db + 5.0 - 20.0


def sine(truth: Truth, facts: Facts) -> bool | None:
    """There must be no other partial that is heard."""
    if not truth.tones:
        return None
    return truth.apart_hz is None and len(strong(truth, HEARD_DB + EDGE_DB)) == 1


def fall(truth: Truth, facts: Facts) -> bool | None:
    """The true levels must lie on such a line, up to where a filter or the noise takes over."""
    if not truth.tones:
        return None
    true = {n: level for n, level in levels_by_number(truth, facts).items() if level > -50.0}
    if truth.cut is not None:
        limit = 0.4 * (truth.peak[0] if truth.peak else truth.cut[0])
        true = {n: level for n, level in true.items() if n * facts["pitch_hz"] < limit}
    if len(true) < 2:
        return None
    numbers, levels = np.array(list(true)), np.array(list(true.values()))
    slope = float(np.polyfit(np.log2(numbers), levels, 1)[0])
    return near(facts["fall_db"], -slope, 0.08, 1.0)


def cut(truth: Truth, facts: Facts) -> bool | None:
    """There must be a filter, at that place and as steep as that."""
    if truth.cut is None:
        return None if truth.wavers else False
    steep = facts["cut_db"]
    return near(facts["cut_hz"], truth.cut[0], 0.06) and (steep is None or near(steep, truth.cut[1], 0.2, 1.5))


def peak(truth: Truth, facts: Facts) -> bool | None:
    """There must be a resonance, at that place and as high as that."""
    if truth.peak is None:
        return False
    return near(facts["peak_hz"], truth.peak[0], 0.08) and near(facts["peak_db"], truth.peak[1], 0.15, 1.5)


def top(truth: Truth, facts: Facts) -> bool | None:
    """No partial above may be within the picture."""
    if not truth.tones or truth.wavers:
        return None
    above = [level for hertz, level in truth.tones if hertz > 1.03 * facts["top_hz"] + 20.0]
    return bool(max(above, default=0.0) < 10.0 ** (-82.0 / 20.0))


def swing(truth: Truth, facts: Facts) -> bool | None:
    """The vibrato must be the true one."""
    if truth.vibrato is None:
        return False
    rate, depth = truth.vibrato
    return near(facts["vibrato_hz"], rate, 0.02, 0.03) and near(depth_said(facts, depth), depth, 0.04, 1.0)


def depth_said(facts: Facts, true: float) -> float:
    """Return the depth that is said; one that is not said is not wrong."""
    said = facts["vibrato_cents"]
    return true if said is None else float(said)


def beats(truth: Truth, facts: Facts) -> bool | None:
    """It must beat as often and by as much."""
    if truth.slow_hz is not None:
        return near(facts["beats_hz"], truth.slow_hz, 0.02)
    if truth.beats_hz is None:
        return None if truth.wavers or truth.notes else False
    return near(facts["beats_hz"], truth.beats_hz, 0.02, 0.03) and near(facts["beats_db"], truth.beats_db, 0.15, 1.0)


def unison(truth: Truth, facts: Facts) -> bool | None:
    """There must be tones so near to one another."""
    if truth.apart_hz is None:
        return False
    return bool(facts["apart_hz"] is None or near(facts["apart_hz"], truth.apart_hz, 0.05, 0.05))


def together(truth: Truth, facts: Facts) -> bool | None:
    """They must be the notes that sound together."""
    said = facts["notes_hz"]
    return len(said) == len(truth.notes) and all(cents(a, b) < 4.0 for a, b in zip(said, truth.notes, strict=True))


def tones(truth: Truth, facts: Facts) -> bool | None:
    """They must be the strong partials."""
    said, true = facts["tones_hz"], strong(truth) if truth.tones else []
    return len(said) == len(true) and all(abs(a - b) < 0.3 for a, b in zip(said, sorted(true), strict=True))


def inharmonic(truth: Truth, facts: Facts) -> bool | None:
    """There must be no fundamental whose series is well filled, and the steps must be those that are said."""
    if not truth.tones:
        return False
    places = strong(truth)
    step = facts.get("apart_hz")
    if step is not None and not in_steps(places, step):
        return False
    return truth.pitch_hz is None


def in_steps(places: list[float], step: float) -> bool:
    """Tell whether all frequencies lie in equal steps, mirrored at zero."""
    middle = places[0]
    off = [
        min(abs(one + way * middle - step * round((one + way * middle) / step)) for way in (-1, 1)) for one in places
    ]
    return max(off) < 0.3


def noise_below(truth: Truth, facts: Facts) -> bool | None:
    """The noise must be so far below."""
    return near(facts["noise_below_db"], truth.noise_db, 0.0, 2.5)


def only_noise(truth: Truth, facts: Facts) -> bool | None:
    """It must be a noise, of that colour."""
    if truth.colour is None:
        return False
    slope = facts["noise_slope_db"]
    return facts.get("colour", truth.colour) == truth.colour and (
        slope is None or near(slope, truth.slope_db, 0.0, 1.0)
    )


def slow(truth: Truth, facts: Facts) -> bool | None:
    """It must come back so often."""
    return near(facts["repeats_hz"], truth.slow_hz, 0.01)


def melody_note(truth: Truth, facts: Facts) -> bool | None:
    """There must be one note alone, and that."""
    note = facts.get("note", (facts.get("notes") or [None])[0])
    if truth.pitch_hz is not None and not truth.melody:
        blur = 0.05 + (0.01 * 0.06 * truth.vibrato[1] if truth.vibrato else 0.0) + (0.5 if truth.apart_hz else 0.0)
        return near(note, midi_of(truth.pitch_hz), 0.0, blur)
    return len(truth.melody) == 1 and near(note, truth.melody[0], 0.0, 0.05)


def melody_notes(truth: Truth, facts: Facts) -> bool | None:
    """They must be the notes, in their order."""
    said, true = facts["notes"], truth.melody
    if truth.glide_s is not None:
        return False
    return len(said) == len(true) and all(abs(a - b) < 0.06 for a, b in zip(said, true, strict=True))


def brief(truth: Truth, facts: Facts) -> bool | None:
    """There must be several notes, and none beyond these."""
    low, high = facts["lowest_note"], facts["highest_note"]
    return len(truth.melody) > 1 and near(low, min(truth.melody), 0.0, 0.5) and near(high, max(truth.melody), 0.0, 0.5)


def gliding(truth: Truth, facts: Facts) -> bool | None:
    """It must glide so far in that time."""
    if truth.glide_s is None:
        return False
    ends = (facts["from_note"], facts["to_note"])
    return near(facts["glide_s"], truth.glide_s, 0.06, 0.02) and all(
        near(a, b, 0.0, 0.06) for a, b in zip(ends, truth.melody, strict=True)
    )


def bright(truth: Truth, facts: Facts) -> bool | None:
    """The brightness must do that."""
    if truth.brightness is None:
        return None
    return bool(facts["brightness"] == truth.brightness)


def no_pitch(truth: Truth, facts: Facts) -> bool | None:
    """There must be no pitch."""
    if truth.notes or truth.colour or truth.slow_hz:
        return True
    return (truth.pitch_hz is None and not truth.melody) or bool(truth.pitch_hz and truth.pitch_hz < 20.0)


def cycle(truth: Truth, facts: Facts) -> bool | None:
    """A cycle must take that time."""
    hertz = truth.slow_hz or truth.pitch_hz
    if truth.apart_hz and hertz:
        return bool(hertz - 0.3 < 1.0 / facts["cycle_s"] < hertz + truth.apart_hz + 0.3)
    if hertz is None:
        if truth.melody:
            return in_melody(truth, 1.0 / facts["cycle_s"])
        return bool(truth.tones) and is_common(truth, 1.0 / facts["cycle_s"])
    blur = 0.003 + (6e-4 * 0.1 * truth.vibrato[1] if truth.vibrato else 0.0)
    return near(facts["cycle_s"], 1.0 / hertz, blur)


def no_cycle(truth: Truth, facts: Facts) -> bool | None:
    """There must be nothing that repeats."""
    return truth.pitch_hz is None and truth.slow_hz is None and not truth.melody


def flat(truth: Truth, facts: Facts) -> bool | None:
    """It must be cut off there."""
    return near(facts["clipped_at"], truth.clipped_at, 0.01)


def stage_time(name: str, true: float | None, facts: Facts, least: float) -> bool:
    """Tell whether a stage takes as long as is said, or is as short as is said; a sound without it has none."""
    if f"{name}_below_s" in facts:
        return (true or 0.0) <= 1.1 * float(facts[f"{name}_below_s"])
    return near(facts[f"{name}_s"], true or 0.0, 0.06, least)


def attack(truth: Truth, facts: Facts) -> bool | None:
    """The attack must take that time; what sounds from its first sample on has none."""
    return None if truth.wavers else stage_time("attack", truth.attack_s, facts, 0.0012)


def decay(truth: Truth, facts: Facts) -> bool | None:
    """The decay must take that time, and lead there; most sounds have none."""
    if truth.decay_s is None:
        return None if truth.wavers else False
    return near(facts["decay_s"], truth.decay_s, 0.06, 0.004) and near(facts["sustain_db"], truth.sustain_db, 0.0, 0.3)


def release(truth: Truth, facts: Facts) -> bool | None:
    """The release must take that time; what does not end has none."""
    return truth.ends and stage_time("release", truth.release_s, facts, 0.004)


def top_level(truth: Truth, facts: Facts) -> bool | None:
    """The peak must be that of the samples."""
    if "peak_db" not in facts:
        return None
    return near(10.0 ** (facts["peak_db"] / 20.0), truth.top, 0.01)


def unending(truth: Truth, facts: Facts) -> bool | None:
    """It must not end."""
    return not truth.ends


def falling(truth: Truth, facts: Facts) -> bool | None:
    """Its level must still fall: only that of a filter that closes does."""
    return None if truth.wavers else False


def wavering(truth: Truth, facts: Facts) -> bool | None:
    """Its level must go up and down: that of a wave, of a vibrato or of what is struck does not."""
    if truth.pitch_hz is None:
        return None
    return bool(truth.wavers or truth.notes or truth.colour or truth.slow_hz or truth.melody or truth.glide_s)


def silence(truth: Truth, facts: Facts) -> bool | None:
    """It must be silent: no sound here is."""
    return False


def moving(truth: Truth, facts: Facts) -> bool | None:
    """Its pitch must move."""
    return truth.vibrato is not None or truth.glide_s is not None


def noisy_tones(truth: Truth, facts: Facts) -> bool | None:
    """There must be both."""
    return truth.noise_db is not None and truth.noise_db < 12.0


def missing(truth: Truth, facts: Facts) -> bool | None:
    """The fundamental must be missing, and be the true one."""
    first = levels_by_number(truth, facts).get(1, -200.0) if truth.tones else 0.0
    return first < HEARD_DB + EDGE_DB and bool(pitch(truth, facts))


def harmonic(truth: Truth, facts: Facts) -> bool | None:
    """There must be a fundamental."""
    return truth.pitch_hz is not None


def said_notes(truth: Truth, facts: Facts) -> bool | None:
    """Notes at once, or one after the other."""
    return together(truth, facts) if "notes_hz" in facts else melody_notes(truth, facts)


def several(truth: Truth, facts: Facts) -> bool | None:
    """There must be several notes."""
    return len(truth.notes) > 1


def passing(truth: Truth, facts: Facts) -> bool | None:
    """What is said to pass must pass, up to where, and as steep as that."""
    if truth.passes != facts["passes"]:
        return False
    corner, slope = facts.get("corner_hz"), facts.get("slope_db")
    steep = slope is None or near(abs(slope), truth.fall_db, 0.05, 0.6)
    return (corner is None or near(corner, truth.corner_hz, 0.02)) and steep


def lifting(truth: Truth, facts: Facts) -> bool | None:
    """It must be lifted there, and by so much."""
    if truth.lift is None:
        return False
    return near(facts["lift_hz"], truth.lift[0], 0.05) and near(facts["lift_db"], truth.lift[1], 0.05, 0.3)


def middling(truth: Truth, facts: Facts) -> bool | None:
    """A band or a notch must lie there."""
    return truth.passes == facts["passes"] and near(facts.get("most_hz", facts.get("notch_hz")), truth.middle_hz, 0.03)


def as_theory(truth: Truth, facts: Facts) -> bool | None:
    """What theory says of the cutoff as it is steered must be near."""
    return bool(facts["theory_within_db"] < 0.3)


def always(truth: Truth, facts: Facts) -> bool | None:
    """Nothing is claimed of which the truth could tell."""
    return None


CHECKS: dict[str, Check] = {
    "pitch": pitch,
    "about": about,
    "changing": lambda truth, facts: truth.wavers,
    "missing": missing,
    "which": which,
    "harmonic": harmonic,
    "sine": sine,
    "fall": fall,
    "cut": cut,
    "peak": peak,
    "top": top,
    "vibrato": swing,
    "beating": beats,
    "unison": unison,
    "notes": said_notes,
    "tones": tones,
    "tone": tones,
    "inharmonic": inharmonic,
    "noise": noise_below,
    "noise only": only_noise,
    "tones in noise": noisy_tones,
    "slow": slow,
    "note": melody_note,
    "glide": gliding,
    "brief": brief,
    "brightness": bright,
    "no pitch": no_pitch,
    "several": several,
    "cycle": cycle,
    "no cycle": no_cycle,
    "clipped": flat,
    "attack": attack,
    "decay": decay,
    "release": release,
    "unending": unending,
    "falling": falling,
    "wavers": wavering,
    "silence": silence,
    "moving": moving,
    "level line": silence,
    "passes": passing,
    "lifted": lifting,
    "band": middling,
    "notch": middling,
    "theory": as_theory,
    "steered": lambda truth, facts: truth.steered,
    "loudness": always,
    "course": always,
    "too short": always,
    "cannot tell": always,
}


def is_true(code: str, lens: str, truth: Truth, facts: Facts) -> bool | None:
    """Return whether a clause of a lens is true; nothing where the truth does not tell."""
    if code == "peak" and lens in ("level", "wave"):
        return top_level(truth, facts)
    if code == "pitch" and lens == "wave":
        return None  # said with the cycle, which is checked
    return CHECKS[code](truth, facts)
