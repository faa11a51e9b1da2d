"""Calls the kernel of a module by the number of its type. Written by bin/generate; do not edit."""

from inner_tone.core.modules.amplifier import kernel as amplifier_kernel
from inner_tone.core.modules.arithmetic import kernel as arithmetic_kernel
from inner_tone.core.modules.crossfade import kernel as crossfade_kernel
from inner_tone.core.modules.envelope import kernel as envelope_kernel
from inner_tone.core.modules.filter import kernel as filter_kernel
from inner_tone.core.modules.hold import kernel as hold_kernel
from inner_tone.core.modules.kernel import Floats, Ints, Tables, inlined
from inner_tone.core.modules.lever import kernel as lever_kernel
from inner_tone.core.modules.lfo import kernel as lfo_kernel
from inner_tone.core.modules.mixer import kernel as mixer_kernel
from inner_tone.core.modules.noise import kernel as noise_kernel
from inner_tone.core.modules.oscillator import kernel as oscillator_kernel
from inner_tone.core.modules.output import kernel as output_kernel
from inner_tone.core.modules.pan import kernel as pan_kernel
from inner_tone.core.modules.player import kernel as player_kernel
from inner_tone.core.modules.quantise import kernel as quantise_kernel
from inner_tone.core.modules.ramp import kernel as ramp_kernel
from inner_tone.core.modules.scale import kernel as scale_kernel
from inner_tone.core.modules.selector import kernel as selector_kernel
from inner_tone.core.modules.slew import kernel as slew_kernel


@inlined
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
    """Process samples a…b of one module; the numbers are those of `modules.OPERATION`."""
    if operation == 0:
        lever_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 1:
        player_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 2:
        noise_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 3:
        oscillator_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 4:
        amplifier_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 5:
        crossfade_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 6:
        filter_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 7:
        mixer_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 8:
        pan_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 9:
        selector_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 10:
        arithmetic_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 11:
        envelope_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 12:
        hold_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 13:
        lfo_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 14:
        quantise_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 15:
        ramp_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 16:
        scale_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 17:
        slew_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 18:
        output_kernel(sig, ins, outs, p, st, tables, rate, a, b)
