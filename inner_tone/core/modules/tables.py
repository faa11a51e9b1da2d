"""What all kernels may look up, for one sampling rate: the cycles of the oscillators and the sounds of the samplers."""

from collections.abc import Collection

import numpy as np

from inner_tone.core.modules.kernel import Sounds, Tables
from inner_tone.core.modules.stock import sounds_for
from inner_tone.core.modules.wavetables import wavetables

NO_SOUNDS = Sounds(
    np.zeros(1, dtype=np.float32),
    np.full(1, -1, dtype=np.int64),
    np.zeros((1, 1), dtype=np.int64),
    np.zeros((1, 1), dtype=np.int64),
    np.ones((1, 1)),
    np.zeros(1),
    np.zeros((1, 2)),
)


def tables_for(sounds: Collection[str], rate: float) -> Tables:
    """Return the tables for a patch whose samplers are set to some sounds; raises SoundMissingError."""
    return Tables(wavetables(rate), sounds_for(sounds, rate) if sounds else NO_SOUNDS)
