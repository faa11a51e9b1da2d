"""Hold: takes a value when it is told to, and keeps it until the next time (sample and hold)."""

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.declaration import Input, ModuleType, Output, numbered
from inner_tone.core.modules.kernel import Tables, compiled

KEPT, LAST_TRIGGER = range(2)

MODULE = ModuleType(
    name="hold",
    family="steer",
    nanoseconds=15,
    title="Hold",
    summary="Takes a value when it is told to, and keeps it until the next time.",
    words=(
        "sample and hold",
        "stepped",
        "random steps",
        "freeze",
        "stairs",
        "keep",
        "s&h",
    ),
    explanation=(
        "A hold looks at its input only for an instant, when its trigger rises from zero, and puts out what it saw "
        "until it looks again. Fed with noise and triggered evenly, it steps from one place to another by chance."
    ),
    inputs=(
        Input("in", "control", "What is looked at.", enters="through"),
        Input("trigger", "gate", "Where this rises from zero, a value is taken."),
    ),
    outputs=(Output("out", "control", "The value that was taken last; 0 before the first."),),
    traits=frozenset({"own-time"}),
    state_size=lambda rate: 2,
)

IN, OUT, SET = numbered(MODULE)


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Take the input at every sample where the trigger is above zero and was not at the one before."""
    for i in range(a, b):
        trigger = sig[ins[IN.trigger], i]
        if trigger > 0.0 and st[LAST_TRIGGER] <= 0.0:
            st[KEPT] = sig[ins[IN.in_], i]
        st[LAST_TRIGGER] = trigger
        sig[outs[OUT.out], i] = st[KEPT]
