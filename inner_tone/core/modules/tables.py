"""What all kernels may look up, for one sampling rate: the cycles of the oscillators and the sounds of the samplers."""

from collections.abc import Collection

from inner_tone.core.modules.kernel import Tables
from inner_tone.core.modules.sounds import NO_SOUNDS, sounds
from inner_tone.core.modules.wavetables import wavetables


def tables_for(types: Collection[str], rate: float) -> Tables:
    """Return the tables for a patch with modules of some types; sounds only where there is a sampler."""
    cycles = wavetables(rate)
    return Tables(cycles, sounds(rate) if "sampler" in types else NO_SOUNDS)
