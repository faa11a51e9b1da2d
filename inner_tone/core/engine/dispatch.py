"""Calls the kernel of a module by the number that `modules.OPERATION` gives its type."""

from inner_tone.core.modules.amplifier import amplifier
from inner_tone.core.modules.envelope import envelope
from inner_tone.core.modules.filter import filter_kernel
from inner_tone.core.modules.kernel import Floats, Ints, Tables, compiled
from inner_tone.core.modules.oscillator import oscillator
from inner_tone.core.modules.output import output
from inner_tone.core.modules.player import player


@compiled
def dispatch(
    operation: int,
    sig: Floats,
    ins: Ints,
    outs: Ints,
    p: Floats,
    st: Floats,
    tables: Tables,
    rate: float,
    a: int,
    b: int,
) -> None:
    """Process samples a…b of one module; the order is that of `modules.MODULE_TYPES`."""
    if operation == 0:
        player(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 1:
        oscillator(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 2:
        filter_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 3:
        envelope(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 4:
        amplifier(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 5:
        output(sig, ins, outs, p, st, tables, rate, a, b)
