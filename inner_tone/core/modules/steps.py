"""Steps: three rows of numbers, gone through one step at each pulse of a clock."""

from collections.abc import Mapping
from typing import Any

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.chance import uniform
from inner_tone.core.modules.declaration import Input, ModuleType, Number, Output, Row, Ruler, numbered, reset_input
from inner_tone.core.modules.kernel import Tables, compiled

MOST_STEPS = 16
ROWS = 3
STEP, BEGUN, LAST_CLOCK, LAST_RESET, SINCE, LENGTH, OLDER, OPEN = range(8)

NUMBERS = Ruler(-60, 60, 0, "", 0.01)


def sounding(settings: Mapping[str, Any]) -> dict[str, tuple[float, ...]]:
    """Return the rows as they sound, where they are shaken anew; nothing where they sound as they are written."""
    if not settings["reroll"]:
        return {}
    count, seed = int(settings["count"]), int(settings["reroll"])
    rows = {f"row{row + 1}": [*settings[f"row{row + 1}"], *[0.0] * MOST_STEPS][:count] for row in range(ROWS)}
    return {
        name: tuple(shaken(min(written), max(written), row, step, seed) for step in range(count))
        for row, (name, written) in enumerate(rows.items())
    }


@compiled
def shaken(low: float, high: float, row: int, step: int, seed: int) -> float:
    """Return what stands at a step in the place of what is written there, between the ends of its row."""
    chance = 0.5 + 0.5 * uniform(row * MOST_STEPS + step, seed)
    return low + (high - low) * chance


MODULE = ModuleType(
    name="steps",
    family="steer",
    nanoseconds=30,
    title="Steps",
    summary="Goes through rows of numbers, one step at each pulse of a clock.",
    words=(
        "sequence",
        "sequencer",
        "melody",
        "pattern",
        "rhythm",
        "arpeggio",
        "riff",
        "repeat",
        "bass line",
        "step sequencer",
    ),
    explanation=(
        "Steps hold numbers, not notes: what a row does depends on what it is connected to. Connected to a pitch "
        "it is a melody in semitones, connected to a cutoff a pattern of brightness, to a level a pattern of accents. "
        "The gate says at each step whether it is to be heard, and for how long."
    ),
    inputs=(
        Input("clock", "gate", "Each rise goes on to the next step.", role="advance"),
        reset_input("After a rise, the next step is the first one."),
    ),
    outputs=(
        Output("row1", "control", "The number of this step in the first row.", rest="meant"),
        Output("row2", "control", "The number of this step in the second row.", rest="meant"),
        Output("row3", "control", "The number of this step in the third row.", rest="meant"),
        Output("gate", "gate", "1 for the stated part of each step that is on.", main=True),
        Output("strike", "gate", "1 for a single sample where a step that is on begins."),
    ),
    settings=(
        Number("count", Ruler(1, MOST_STEPS, 8, "", 1), "How many steps there are."),
        Row("row1", MOST_STEPS, NUMBERS, "A number for each step.", "count"),
        Row("row2", MOST_STEPS, NUMBERS, "A number for each step.", "count", rare=True),
        Row("row3", MOST_STEPS, NUMBERS, "A number for each step.", "count", rare=True),
        Row(
            "gates", MOST_STEPS, Ruler(0, 1, 1, "", 1), "Whether each step is on, 1, or off, 0.", "count", role="gates"
        ),
        Number(
            "gate_length",
            Ruler(0.05, 1, 0.5, "", 0.05),
            "The part of a step for which its gate is open; 1 joins it to the next.",
            role="open",
        ),
        Number(
            "reroll",
            Ruler(0, 999, 0, "", 1),
            "0 plays the rows as they are written; any other number shakes them anew, each within its own range.",
            rare=True,
        ),
    ),
    traits=frozenset({"own-time", "random", "numbers"}),
    usually="plays",
    one="steps",
    sounding=sounding,
    state_size=lambda rate: 8,
)

IN, OUT, SET = numbered(MODULE)


@compiled
def number_at(p: Floats, row: int, step: int) -> float:
    """Return the number of a step in a row, as written or shaken."""
    first = SET.row1 + row * MOST_STEPS
    if p[SET.reroll] == 0.0:
        written: float = p[first + step]
        return written
    low = high = p[first]
    for place in range(1, int(p[SET.count])):
        low = min(low, p[first + place])
        high = max(high, p[first + place])
    anew: float = shaken(low, high, row, step, int(p[SET.reroll]))
    return anew


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Go to the next step where the clock rises; a step's gate closes when its part of the step has passed.

    How long a step lasts is known from the last but one, so that steps that swing have each their own; at first from
    the one before. The first one's gate is open while the clock is up. Each step that is on opens its gate anew.
    """
    count = int(p[SET.count])
    length = p[SET.gate_length]
    clocks, resets = sig[ins[IN.clock], a:b], sig[ins[IN.reset], a:b]
    gates, strikes = sig[outs[OUT.gate], a:b], sig[outs[OUT.strike], a:b]
    for i in range(b - a):
        strikes[i] = 0.0
        if resets[i] > 0.0 and st[LAST_RESET] <= 0.0:
            st[STEP] = -1.0
        if clocks[i] > 0.0 and st[LAST_CLOCK] <= 0.0:
            st[STEP] = (st[STEP] + 1.0) % count if st[BEGUN] > 0.0 else 0.0
            st[OLDER] = st[LENGTH]
            st[LENGTH] = st[SINCE] if st[BEGUN] > 0.0 else 0.0
            st[SINCE] = 0.0
            st[BEGUN] = 1.0
            strikes[i] = p[SET.gates + int(st[STEP])]
        step = max(0, min(count - 1, int(st[STEP])))
        for row in range(ROWS):
            sig[outs[OUT.row1 + row], a + i] = number_at(p, row, step)
        own = st[OLDER] if st[OLDER] > 0.0 else st[LENGTH]
        within = length >= 1.0 or (st[SINCE] < length * own if own > 0.0 else clocks[i] > 0.0)
        on = st[BEGUN] > 0.0 and st[STEP] >= 0.0 and p[SET.gates + step] >= 0.5
        anew = length < 1.0 and st[SINCE] == 0.0 and st[OPEN] > 0.0
        gates[i] = 1.0 if on and within and not anew else 0.0
        st[OPEN] = gates[i]
        st[SINCE] += 1.0
        st[LAST_CLOCK], st[LAST_RESET] = clocks[i], resets[i]
