"""What each stage of the analysis costs by itself, one after the other: each finds the ones before it done."""

import time
from collections import defaultdict

import numpy as np

from benchmarks.lens import TIMES
from inner_tone.core.analysis.excerpt import Excerpt
from inner_tone.core.arrays import Floats
from inner_tone.core.lens.recipe import rendered
from inner_tone.demo.foghorn import BLASTS, DISTANT
from tests.support.patches import RATE
from tests.support.sounds import noise, series

# the stages in their order, each with what of an excerpt is found out in it
STAGES: dict[str, tuple[str, ...]] = {
    "course of the pitch": ("track", "melody"),
    "window": ("window", "note"),
    "straight": ("straight", "repetition", "sinusoids"),
    "series": ("series", "is_unison"),
    "certain": ("fundamental_hz", "harmonics", "tonal_share", "slow_hz"),
    "shape and notes": ("partials", "shape", "sure_notes"),
    "strength": ("envelope", "stages"),
    "swings": ("beating", "parted"),
}
VIBRATO_HZ, VIBRATO_SHARE = 5.0, 0.02


def main() -> None:
    """Print what each stage takes of some sounds, in ms."""
    print(f"{'':22}" + "".join(f"{stage:>21}" for stage in STAGES))
    for name, signal in sounds().items():
        spent: dict[str, list[float]] = defaultdict(list)
        for _ in range(TIMES):
            seen = Excerpt(signal, RATE)
            for stage, found in STAGES.items():
                begun = time.perf_counter()
                for one in found:
                    getattr(seen, one)
                spent[stage].append(time.perf_counter() - begun)
        print(f"{name:22}" + "".join(f"{1000.0 * min(spent[stage]):18.1f} ms" for stage in STAGES))


def sounds() -> dict[str, Floats]:
    """Return sounds of several kinds: one that stands, one that moves, noise, and the horn of a lesson."""
    at = np.arange(round(2.0 * RATE)) / RATE
    turn = 2.0 * np.pi * 220.0 * at + 220.0 * VIBRATO_SHARE / VIBRATO_HZ * np.sin(2.0 * np.pi * VIBRATO_HZ * at)
    horn = rendered(DISTANT, BLASTS, {"amp.out"})["amp.out"].signal
    return {
        "a saw at 110 Hz": series(110.0, 0.3),
        "a sine with vibrato": np.asarray(0.3 * np.sin(turn)),
        "pink noise": noise(-1.0),
        "the foghorn": horn,
    }


if __name__ == "__main__":
    main()
