"""Player: what the phrase, the keys and the wheels put out.

The engine writes the state of the player at each event (see `engine.keys`); the kernel lays it out in time.
"""

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.declaration import Choice, ModuleType, Number, Output, Ruler, numbered
from inner_tone.core.modules.kernel import Tables, compiled

PITCH, GATE, LOW, STRIKE, VELOCITY, WHEEL, WHEEL_SLOPE, BEND, BEND_SLOPE = range(9)
VELOCITY_LEFT, VELOCITY_SLOPE, LAST_GATE = range(9, 12)

MODULE = ModuleType(
    name="player",
    family="play",
    nanoseconds=10,
    title="Player",
    summary="Puts out what is played: which note, whether it is held, how hard it was struck.",
    words=(
        "keys",
        "keyboard",
        "notes",
        "play",
        "pitch",
        "gate",
        "velocity",
        "wheel",
        "bend",
        "start here",
        "key follow",
        "midi",
        "cv",
        "note on",
    ),
    explanation=(
        "The player turns a phrase, or your keys, into signals. Its pitch says which note is meant, in semitones "
        "from middle C, and stays where it is after the note has ended. Its gate is 1 for as long as a note is "
        "held and 0 otherwise. It makes no sound of its own: it only tells the other modules what to do."
    ),
    outputs=(
        Output("pitch", "pitch", "The note, in semitones from middle C, with the bend in it.", rest="meant"),
        Output("gate", "gate", "1 while a note is held, 0 while none is.", main=True),
        Output("strike", "gate", "1 for a single sample where a note begins.", on_demand=True),
        Output("velocity", "control", "How hard the note was struck, 0 to 1.", on_demand=True, rest="meant"),
        Output("wheel", "control", "Where the wheel stands, 0 to 1.", on_demand=True, for_all=True),
        Output("bend", "control", "Where the bend stands, -1 to 1.", on_demand=True, for_all=True),
    ),
    settings=(
        Choice(
            "priority",
            ("last", "low", "high"),
            "last",
            "Which of several held notes is played: the last one, the lowest or the highest.",
        ),
        Choice(
            "legato",
            ("off", "on"),
            "off",
            "When on, a note that begins while another is held does not reopen the gate.",
        ),
        Number("bend_range", Ruler(0, 24, 2, "st", 1), "How far the full bend moves the pitch."),
    ),
    traits=frozenset({"single"}),
    usually="player",
    on_pitch=12.0,
    state_size=lambda rate: 12,
)

IN, OUT, SET = numbered(MODULE)


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Lay out held values and straight movements of the wheel and the bend, sample by sample."""
    still = st[WHEEL_SLOPE] == 0.0 and st[BEND_SLOPE] == 0.0
    sig[outs[OUT.pitch], a:b] = st[PITCH] + p[SET.bend_range] * st[BEND]
    sig[outs[OUT.gate], a:b] = st[GATE]
    sig[outs[OUT.strike], a:b] = 0.0
    sig[outs[OUT.velocity], a:b] = st[VELOCITY]
    sig[outs[OUT.wheel], a:b] = st[WHEEL]
    sig[outs[OUT.bend], a:b] = st[BEND]
    if st[LOW] > 0.0:
        sig[outs[OUT.gate], a] = 0.0
        st[LOW] = 0.0
    st[LAST_GATE] = st[GATE]
    sig[outs[OUT.strike], a] = st[STRIKE]
    st[STRIKE] = 0.0
    if st[VELOCITY_LEFT] > 0.0:
        for i in range(a, b):
            sig[outs[OUT.velocity], i] = st[VELOCITY] - st[VELOCITY_LEFT] * st[VELOCITY_SLOPE]
            st[VELOCITY_LEFT] = max(0.0, st[VELOCITY_LEFT] - 1.0)
    if still:
        return
    for i in range(a, b):
        sig[outs[OUT.pitch], i] = st[PITCH] + p[SET.bend_range] * st[BEND]
        sig[outs[OUT.wheel], i] = st[WHEEL]
        sig[outs[OUT.bend], i] = st[BEND]
        st[WHEEL] = min(1.0, max(0.0, st[WHEEL] + st[WHEEL_SLOPE]))
        st[BEND] = min(1.0, max(-1.0, st[BEND] + st[BEND_SLOPE]))
