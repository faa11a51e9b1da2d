"""Arithmetic: computes with up to three signals, sample by sample."""

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.declaration import Choice, Input, ModuleType, Output, Ruler, Settings, Sums, numbered
from inner_tone.core.modules.kernel import Tables, compiled

MULTIPLY_ADD, MINIMUM, MAXIMUM, DIFFERENCE, MAGNITUDE, GREATER = range(6)
NUMBER = Ruler(-60, 60, 0, "", 0.01)


def sums(settings: Settings, connected: frozenset[str]) -> Sums | None:
    """Return what it adds up: a · b + c, where not both of a and b are signals."""
    if settings["operation"] != "multiply-add" or {"a", "b"} <= connected:
        return None
    signal, number = ("b", "a") if "b" in connected else ("a", "b")
    return {"out": ({signal: float(settings[number]), "c": 1.0}, 0.0)}


def swaps(settings: Settings) -> tuple[tuple[str, ...], ...]:
    """Return its first two inputs, where their order does not matter."""
    return (("a",), ("b",)) if settings["operation"] in ("multiply-add", "minimum", "maximum") else ()


MODULE = ModuleType(
    name="arithmetic",
    family="steer",
    nanoseconds=15,
    title="Arithmetic",
    summary="Computes with up to three signals: a · b + c, the smaller, the larger, and more.",
    words=(
        "multiply",
        "add",
        "minimum",
        "maximum",
        "compare",
        "logic",
        "maths",
        "calculate",
        "greater",
        "ring modulation",
        "ring modulator",
        "product",
    ),
    explanation=(
        "Arithmetic multiplies, adds and compares signals. Two sounds multiplied with each other are ring modulation: "
        "their sums and differences sound, and neither of them. An input with nothing connected is the number that "
        "it is set to."
    ),
    inputs=(
        *(
            Input(
                name,
                "control",
                f"The {number} signal. With nothing connected it is this number: as a factor of 1 it changes nothing.",
                Ruler(-60, 60, 1, "", 0.01),
                enters="through",
                effect="multiplies",
                channel=name,
                alone=True,
            )
            for name, number in (("a", "first"), ("b", "second"))
        ),
        Input("c", "control", "The third signal.", NUMBER),
    ),
    outputs=(Output("out", "control", "The result.", rest="meant"),),
    settings=(
        Choice(
            "operation",
            ("multiply-add", "minimum", "maximum", "difference", "magnitude", "greater"),
            "multiply-add",
            "What is computed: a · b + c, the smaller or larger of a and b, a - b, a without its sign, 1 where a > b.",
            words=("a · b + c", "smaller of a and b", "larger of a and b", "a − b", "a without sign", "1 where a > b"),
            role="operation",
        ),
    ),
    traits=frozenset({"numbers"}),
    sums=sums,
    swaps=swaps,
    one="arithmetic",
    state_size=lambda rate: 0,
)

IN, OUT, SET = numbered(MODULE)


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Compute the chosen operation for every sample."""
    operation = int(p[SET.operation])
    for i in range(a, b):
        x, y = sig[ins[IN.a], i], sig[ins[IN.b], i]
        if operation == MULTIPLY_ADD:
            sig[outs[OUT.out], i] = x * y + sig[ins[IN.c], i]
        elif operation == MINIMUM:
            sig[outs[OUT.out], i] = min(x, y)
        elif operation == MAXIMUM:
            sig[outs[OUT.out], i] = max(x, y)
        elif operation == DIFFERENCE:
            sig[outs[OUT.out], i] = x - y
        elif operation == MAGNITUDE:
            sig[outs[OUT.out], i] = abs(x)
        else:
            sig[outs[OUT.out], i] = 1.0 if x > y else 0.0
