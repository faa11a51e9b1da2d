"""Calls the kernel of a module by the number of its type. Written by bin/generate; do not edit."""

from inner_tone.core.modules.amplifier import kernel as amplifier_kernel
from inner_tone.core.modules.arithmetic import kernel as arithmetic_kernel
from inner_tone.core.modules.clock import kernel as clock_kernel
from inner_tone.core.modules.comb import kernel as comb_kernel
from inner_tone.core.modules.compressor import kernel as compressor_kernel
from inner_tone.core.modules.crossfade import kernel as crossfade_kernel
from inner_tone.core.modules.delay import kernel as delay_kernel
from inner_tone.core.modules.envelope import kernel as envelope_kernel
from inner_tone.core.modules.filter import kernel as filter_kernel
from inner_tone.core.modules.harmonics import kernel as harmonics_kernel
from inner_tone.core.modules.hold import kernel as hold_kernel
from inner_tone.core.modules.kernel import Floats, Ints, Tables, inlined
from inner_tone.core.modules.ladder import kernel as ladder_kernel
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
from inner_tone.core.modules.reverb import kernel as reverb_kernel
from inner_tone.core.modules.sampler import kernel as sampler_kernel
from inner_tone.core.modules.scale import kernel as scale_kernel
from inner_tone.core.modules.selector import kernel as selector_kernel
from inner_tone.core.modules.shaper import kernel as shaper_kernel
from inner_tone.core.modules.slew import kernel as slew_kernel
from inner_tone.core.modules.steps import kernel as steps_kernel


@inlined
def dispatch(  # noqa: PLR0915 - one call for each type
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
        harmonics_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 3:
        noise_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 4:
        oscillator_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 5:
        sampler_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 6:
        amplifier_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 7:
        comb_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 8:
        compressor_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 9:
        crossfade_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 10:
        delay_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 11:
        filter_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 12:
        ladder_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 13:
        mixer_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 14:
        pan_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 15:
        reverb_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 16:
        selector_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 17:
        shaper_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 18:
        arithmetic_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 19:
        clock_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 20:
        envelope_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 21:
        hold_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 22:
        lfo_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 23:
        quantise_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 24:
        ramp_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 25:
        scale_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 26:
        slew_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 27:
        steps_kernel(sig, ins, outs, p, st, tables, rate, a, b)
    elif operation == 28:
        output_kernel(sig, ins, outs, p, st, tables, rate, a, b)
