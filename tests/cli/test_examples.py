"""The example patches: each plays through the command line, is heard, and shows the idea that it is named for."""

import json
import tempfile
import unittest
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.io import wavfile

from inner_tone.cli.__main__ import main
from inner_tone.core.arrays import Floats
from inner_tone.core.engine.render import Render, render
from inner_tone.core.modules.oscillator import MIDDLE_C_HZ
from inner_tone.core.patch.validate import read_patch
from inner_tone.core.phrase import read_phrase
from tests.support.patches import RATE
from tests.support.spectra import level_db

FOLDER = Path(__file__).resolve().parents[2] / "docs" / "examples"
NAMES = sorted(file.name.removesuffix(".patch.json") for file in FOLDER.glob("*.patch.json"))


@cache
def rendered(name: str, *taps: str) -> Render:
    patch = read_patch(json.loads((FOLDER / f"{name}.patch.json").read_text()))
    return render(patch, read_phrase(json.loads((FOLDER / f"{name}.phrase.json").read_text())), taps=taps)


def second(signal: NDArray[Any], start: float, length: float = 1.0) -> Floats:
    return np.asarray(signal[round(start * RATE) : round((start + length) * RATE)], dtype=np.float64)


class ExamplesTest(unittest.TestCase):
    def test_every_example_is_rendered_by_the_command_line_and_heard(self) -> None:
        self.assertGreaterEqual(len(NAMES), 13)
        with tempfile.TemporaryDirectory() as folder:
            for name in NAMES:
                out = Path(folder) / f"{name}.wav"
                files = [str(FOLDER / f"{name}.{kind}.json") for kind in ("patch", "phrase")]
                done = main(["render", "--patch", files[0], "--phrase", files[1], "--out", str(out)])
                self.assertEqual(done, 0, name)
                _, sound = wavfile.read(out)
                peak = 20.0 * np.log10(np.max(np.abs(sound)))
                self.assertTrue(-15.0 < peak <= 0.0, f"{name}: peak {peak:.1f} dB")
                if "clock" not in Path(files[0]).read_text():  # a clock goes on when the notes have ended
                    self.assertLess(float(np.max(np.abs(sound[-4800:]))), 0.01, f"{name} ends in silence")

    def test_wheel_brings_in_the_vibrato(self) -> None:
        pitch = rendered("vibrato-by-wheel", "string.pitch").taps["string.pitch"]
        calm, moved = second(pitch, 0.1, 0.5), second(pitch, 1.75, 0.2)
        self.assertEqual(float(np.ptp(calm)), 0.0)
        self.assertGreater(float(np.ptp(moved)), 0.7)

    def test_pitch_glides_from_note_to_note(self) -> None:
        pitch = rendered("glide", "horn.pitch").taps["horn.pitch"]
        self.assertEqual((float(pitch[1000]), round(float(second(pitch, 2.4, 0.1)[0]), 1)), (-3.0, 9.0))
        self.assertLess(float(np.max(np.abs(np.diff(pitch)))), 0.02)

    def test_width_of_the_pulse_moves(self) -> None:
        width = rendered("pulse-width", "drone.width").taps["drone.width"]
        self.assertAlmostEqual(float(np.ptp(width)), 0.8, delta=0.05)

    def test_bell_has_the_partials_of_its_ratio(self) -> None:
        ring = second(rendered("fm-bell", "bell.out").taps["bell.out"], 0.05, 0.5)
        hertz = MIDDLE_C_HZ * 2.0 ** (9 / 12)
        for order in (-1, 0, 1, 2):
            self.assertGreater(level_db(ring, RATE, abs(hertz * (1.0 + 3.5 * order))), -25.0)
        self.assertLess(level_db(ring, RATE, 2.0 * hertz), -40.0)

    def test_filter_in_a_loop_sings_at_the_pitch(self) -> None:
        blown = second(rendered("filter-in-a-loop", "lip.out").taps["lip.out"], 0.6, 0.9)
        spectrum = np.abs(np.fft.rfft(blown * np.hanning(len(blown))))
        self.assertAlmostEqual(float(np.argmax(spectrum)) * RATE / len(blown), 220.0, delta=12.0)

    def test_steps_play_their_melody_without_a_player(self) -> None:
        pitch = rendered("step-sequence", "relay.pitch").taps["relay.pitch"]
        self.assertEqual(set(np.unique(pitch)), {-12.0, 0.0, 3.0, 7.0, 10.0})

    def test_chord_of_the_organ_has_all_its_notes(self) -> None:
        chord = second(rendered("additive-organ").left, 0.5)
        for note in (48, 60, 64, 67):
            self.assertGreater(level_db(chord, RATE, 440.0 * 2.0 ** ((note - 69) / 12)), -40.0)

    def test_folded_wave_has_more_partials_the_harder_it_is_driven(self) -> None:
        folded = rendered("wavefolder", "bend.out").taps["bend.out"]

        def brightness(passage: Floats) -> float:
            spectrum = np.abs(np.fft.rfft(passage * np.hanning(len(passage)))) ** 2
            return float(np.dot(np.arange(len(spectrum)), spectrum) / np.sum(spectrum))

        self.assertGreater(brightness(second(folded, 0.9, 0.2)), 3.0 * brightness(second(folded, 0.0, 0.2)))


if __name__ == "__main__":
    unittest.main()
