"""This engine beside a program in C that has the same voice fused into one loop, compiled on the spot."""

import ctypes
import math
import subprocess
import tempfile
from functools import partial
from pathlib import Path

import numpy as np

from benchmarks.patches import voice
from benchmarks.timing import SECONDS, beside, played, speed_of
from inner_tone.core.arrays import Floats
from inner_tone.core.engine.render import RATE
from inner_tone.core.modules.filter import BUTTERWORTH_4_BROAD, BUTTERWORTH_4_SHARP
from inner_tone.core.modules.oscillator import MIDDLE_C_HZ, band_of
from inner_tone.core.modules.wavetables import wavetables
from inner_tone.core.patch.model import Patch
from tests.support.figures import record

SOURCE = Path(__file__).with_name("fused.c")
OPTIONS = {"gcc -O3": ["-O3"], "gcc -O3 -march=native": ["-O3", "-march=native"]}


class Fused:
    """The program in C, compiled with some options."""

    def __init__(self, folder: str, options: list[str]) -> None:
        library = Path(folder) / ("fused" + "".join(options) + ".so")
        subprocess.run(["gcc", *options, "-shared", "-fPIC", str(SOURCE), "-o", str(library), "-lm"], check=True)
        self.library = ctypes.CDLL(str(library))

    def play(self, patch: Patch, key: float, count: int) -> Floats:
        """Return what the voice plays for a key in semitones from middle C that is held for half of the time."""
        saw_hz = MIDDLE_C_HZ * 2.0 ** (key / 12.0)
        square_hz = 0.5 * saw_hz
        out = np.zeros(count)
        filter, bright, loud = (patch.by_id[name].all_settings for name in ("filter", "bright", "loud"))
        stages = ("attack", "decay", "sustain", "release")
        times = np.array([one[stage] for one in (bright, loud) for stage in stages], dtype=np.float64)
        cycles = wavetables(RATE)
        tables = [
            (np.ascontiguousarray(cycles.saw[cycles.start[band] :]), int(cycles.size[band]))
            for band in (band_of(hz, cycles.lowest, len(cycles.size)) for hz in (saw_hz, square_hz))
        ]
        sharp = BUTTERWORTH_4_SHARP * (1.0 - float(str(filter["resonance"])))
        self.library.play(
            pointer(out),
            ctypes.c_int(count),
            ctypes.c_int(count // 2),
            *(ctypes.c_double(value) for value in (RATE, saw_hz, square_hz)),
            *(argument for table, size in tables for argument in (pointer(table), ctypes.c_int(size))),
            *(ctypes.c_double(value) for value in (float(str(filter["cutoff"])), 4.0, BUTTERWORTH_4_BROAD, sharp)),
            pointer(times),
        )
        return out


def pointer(array: Floats) -> object:
    """Return an array as C takes it."""
    return array.ctypes.data_as(ctypes.POINTER(ctypes.c_double))


def main() -> None:
    """Print the table."""
    patch = voice()
    count = round(SECONDS * RATE)
    ours = played(patch).recorder.tracks.signals[0]
    with tempfile.TemporaryDirectory() as folder:
        print("Two oscillators, a filter that moves, two envelopes, an amplifier: one note, as times real time")
        programs = {name: Fused(folder, options) for name, options in OPTIONS.items()}
        theirs = programs["gcc -O3"].play(patch, -3.0, count)
        apart = 20.0 * math.log10(np.max(np.abs(ours - theirs)) / np.max(np.abs(theirs)))
        print(f"  the two agree to {apart:.0f} dB")
        plays = [partial(program.play, patch, -3.0, count) for program in programs.values()]
        bare, whole, *fused = beside(partial(played, patch, measured=False), partial(played, patch), *plays)
        print(f"  this engine: {speed_of(bare):.0f} ×; with the measures of all its ports: {speed_of(whole):.0f} ×")
        for name, seconds in zip(programs, fused, strict=True):
            ratio = seconds / bare
            print(f"  fused, {name}: {speed_of(seconds):.0f} ×; this engine runs at {ratio:.2f} of its speed")
            record("Speed", f"voice of two oscillators beside C, {name}", "0.8 of its speed", f"{ratio:.2f}")
    record("Speed", "voice of two oscillators, with all measures", "120 × real time", f"{speed_of(whole):.0f} ×")
