"""What moves in a sound, and what modules make of one: on signals of SciPy's and NumPy's, and against theory."""

import math
import unittest

import numpy as np
import pyloudnorm
from scipy.signal import chirp, freqs

from inner_tone.core.analysis import response, sweep
from inner_tone.core.analysis.loudness import loudness_lufs
from inner_tone.core.analysis.melody import Melody, melody_of
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.analysis.track import track
from inner_tone.core.arrays import Floats
from inner_tone.core.patch.model import Module
from tests.support.figures import record
from tests.support.patches import RATE
from tests.support.sounds import low_passed, noise, series, shaped, sines, swept, time


def melody(signal: Floats) -> Melody:
    return melody_of(track(signal, RATE))


class VibratoTest(unittest.TestCase):
    def test_rate_and_depth_are_found(self) -> None:
        rates, depths = 0.0, 0.0
        for note in (38.0, 45.0, 57.0, 69.0, 81.0):
            for rate, cents in ((5.5, 30.0), (6.0, 50.0), (3.0, 100.0), (7.0, 15.0)):
                signal = swept(note + cents / 100.0 * np.sin(2 * np.pi * rate * time(2.0)))
                found = melody(signal).vibrato
                assert found is not None, (note, rate)
                rates = max(rates, abs(found.rate_hz / rate - 1.0))
                depths = max(depths, abs(found.depth_cents - cents))
        record("Lenses", "rate of a vibrato, D2 to A5, 3 to 7 Hz", "1 %", f"{100 * rates:.2f} %")
        record("Lenses", "depth of a vibrato of 15 to 100 cents", "2 cents", f"{depths:.2f} cents")
        self.assertLess(rates, 0.01)
        self.assertLess(depths, 2.0)

    def test_steady_tone_and_noise_have_none(self) -> None:
        self.assertIsNone(melody(series(110.0)).vibrato)
        self.assertIsNone(melody(noise(0.0)).vibrato)
        self.assertIsNone(melody(np.zeros(48_000)).vibrato)
        self.assertIsNone(melody(np.zeros(10)).vibrato)

    def test_glide_is_found_with_its_time(self) -> None:
        worst = 0.0
        for seconds in (0.1, 0.4, 1.0):
            signal = swept(np.interp(time(2.0), [0.5, 0.5 + seconds], [45.0, 57.0]))
            (found,) = melody(signal).glides
            self.assertAlmostEqual(found.from_note, 45.0, delta=0.02)
            self.assertAlmostEqual(found.to_note, 57.0, delta=0.02)
            worst = max(worst, abs(found.seconds - seconds))
        record("Lenses", "time of a glide over an octave, 0.1 to 1 s", "—", f"within {1000 * worst:.0f} ms")
        self.assertLess(worst, 0.03)

    def test_tune_with_vibrato_has_its_notes_and_not_its_turning_points(self) -> None:
        tune = np.array([64.0, 62.0, 57.0, 60.0])
        written = tune[np.minimum(time(4.0).astype(int), 3)]
        for hertz, cents in ((4.5, 60.0), (5.6, 35.0), (6.5, 15.0)):
            swing = 0.01 * cents * np.sin(2.0 * np.pi * hertz * time(4.0))
            found = melody(swept(written + swing))
            np.testing.assert_allclose([one.note for one in found.held], tune, atol=0.03)
            self.assertEqual(found.glides, ())

    def test_trill_is_not_evened_out(self) -> None:
        """Two notes that step to and fro four times a second are both held, and not what lies between them."""
        steps = 60.0 + 2.0 * ((8.0 * time(3.0)).astype(int) % 2)
        notes = {round(one.note) for one in melody(swept(steps)).held}
        self.assertEqual(notes, {60, 62})

    def test_quick_steps_are_no_glides(self) -> None:
        """Eight steps of a sixteenth over and over, in a long sound of which fewer looks are taken."""
        row = (-12, 0, 3, 7, -12, 10, 7, 3)
        for each in (0.15, 0.181, 0.22):
            places = (np.arange(round(8.0 * RATE)) / RATE / each).astype(int)
            notes = 60.0 + np.array(row, dtype=np.float64)[places % len(row)]
            self.assertEqual(melody(swept(notes)).glides, (), each)


class BeatingTest(unittest.TestCase):
    def test_rate_and_depth_are_those_of_the_sum(self) -> None:
        worst, depth = 0.0, 0.0
        for apart in (0.5, 0.7, 1.3, 3.0, 7.0, 12.0):
            for weaker in (0.5, 0.3, 0.1):
                found = Sound(sines(6.0, (440.0, 0.5), (440.0 + apart, weaker)), RATE).whole.beating
                assert found is not None, (apart, weaker)
                worst = max(worst, abs(found.rate_hz / apart - 1.0))
                if weaker < 0.5:
                    wanted = 20.0 * math.log10((0.5 + weaker) / (0.5 - weaker))
                    depth = max(depth, abs(found.depth_db - wanted))
        record("Lenses", "rate of beating, tones 0.5 to 12 Hz apart", "1 %", f"{100 * worst:.3f} %")
        record("Lenses", "depth of beating", "—", f"within {depth:.2f} dB")
        self.assertLess(worst, 0.01)
        self.assertLess(depth, 1.0)

    def test_steady_tones_and_single_notes_do_not_beat(self) -> None:
        for signal in (series(110.0), sines(2.0, (300.0, 0.5), (517.0, 0.5)), noise(0.0), np.zeros(48_000)):
            self.assertIsNone(Sound(signal, RATE).whole.beating)
        blasts = np.concatenate([shaped(sines(3.0, (200.0, 0.5)), 0.2, 0.8, 0.5, 0.1) for _ in range(3)])
        self.assertIsNone(Sound(blasts, RATE).whole.beating, "three blasts are no beating")


class LoudnessTest(unittest.TestCase):
    def test_loudness_is_that_of_a_published_implementation(self) -> None:
        meter = pyloudnorm.Meter(int(RATE), filter_class="DeMan")
        worst = 0.0
        signals = [
            series(110.0, 0.3),
            noise(-0.5),
            low_passed(noise(0.0), 300.0, 2),
            sines(3.0, (50.0, 0.5), (4000.0, 0.1)),
        ]
        signals.append(np.concatenate([0.02 * sines(3.0, (1000.0, 1.0)), sines(3.0, (1000.0, 0.5))]))
        for signal in signals:
            both = np.stack([signal, 0.5 * np.roll(signal, 100)])
            worst = max(worst, abs(loudness_lufs(both, RATE) - meter.integrated_loudness(both.T)))
        record("Lenses", "loudness against pyloudnorm 0.2.0, five sounds", "0.1 LU", f"{worst:.4f} LU")
        self.assertLess(worst, 0.1)


class SweepTest(unittest.TestCase):
    def test_chirp_is_where_scipy_put_it(self) -> None:
        signal = chirp(time(3.0), 100.0, 3.0, 8000.0, "logarithmic")
        for resolution, octaves in (("time", 0.35), ("balanced", 0.12), ("pitch", 0.1)):
            found = sweep.sweep(signal, RATE, resolution=resolution)  # type: ignore[arg-type]
            for moment in (0.8, 1.5, 2.2):
                column = int(np.argmin(np.abs(found.times_s - moment)))
                top = found.frequencies_hz[np.argmax(found.levels_db[:, column])]
                self.assertLess(abs(math.log2(top / (100.0 * 80.0 ** (moment / 3.0)))), octaves, (resolution, moment))

    def test_level_is_right(self) -> None:
        for frequency in (100.0, 997.0, 7013.0):
            found = sweep.sweep(sines(1.0, (frequency, 0.5)), RATE, resolution="pitch")
            self.assertAlmostEqual(float(np.max(found.levels_db)), -6.02, delta=0.85)

    def test_empty_sound(self) -> None:
        self.assertEqual(sweep.sweep(np.zeros(0), RATE).levels_db.shape[0], 180)


def analogue_db(mode: str, slope: int, cutoff: float, resonance: float, frequencies: Floats) -> Floats:
    """Return the response of the analogue prototype by SciPy's `freqs`."""
    sections = {12: [math.sqrt(2.0)], 24: [2.0 * math.cos(math.pi / 8.0), 2.0 * math.cos(3.0 * math.pi / 8.0)]}[slope]
    sections[-1] *= 1.0 - resonance
    total = np.ones(len(frequencies), dtype=np.complex128)
    for damping in sections:
        tops = {"lowpass": [1.0], "highpass": [1.0, 0.0, 0.0], "bandpass": [damping, 0.0], "notch": [1.0, 0.0, 1.0]}
        total *= freqs(tops[mode], [1.0, damping, 1.0], frequencies / cutoff)[1]
    return np.asarray(20.0 * np.log10(np.abs(total)))


class ResponseTest(unittest.TestCase):
    def test_filter_is_what_theory_says(self) -> None:
        worst, textbook = 0.0, 0.0
        for mode in ("lowpass", "highpass", "bandpass", "notch"):
            for slope in (12, 24):
                for cutoff in (100.0, 420.0, 2000.0, 6000.0):
                    for resonance in (0.0, 0.5, 0.9):
                        settings = {"mode": mode, "slope": slope, "cutoff": cutoff, "resonance": resonance}
                        found = response.filter_response(Module(id="f", type="filter", settings=settings))
                        assert found.theory_db is not None
                        wanted = analogue_db(mode, slope, cutoff, resonance, found.frequencies_hz)
                        heard = (wanted > -50.0) & (found.frequencies_hz < 15_000.0)
                        worst = max(worst, float(np.max(np.abs(found.gains_db - found.theory_db)[heard])))
                        textbook = max(textbook, float(np.max(np.abs(found.gains_db - wanted)[heard])))
        record(
            "Lenses",
            "response of the filter as measured, against its theory, 20 Hz to 15 kHz",
            "0.2 dB",
            f"{worst:.3f} dB",
        )
        record("Lenses", "the same against the analogue prototype (SciPy’s freqs)", "—", f"{textbook:.2f} dB")
        self.assertLess(worst, 0.2)
        self.assertLess(textbook, 0.7)

    def test_ladder_is_what_theory_says(self) -> None:
        worst = 0.0
        for poles in (1, 2, 4):
            for cutoff in (100.0, 1000.0, 5000.0):
                for resonance in (0.0, 0.5, 0.9):
                    settings = {"poles": poles, "cutoff": cutoff, "resonance": resonance}
                    found = response.filter_response(Module(id="f", type="ladder", settings=settings))
                    s = 1j * np.tan(np.pi * found.frequencies_hz / RATE) / math.tan(math.pi * cutoff / RATE)
                    wanted = 20.0 * np.log10(np.abs((1 + s) ** (4 - poles) / ((1 + s) ** 4 + 4.0 * resonance)))
                    heard = (wanted > -50.0) & (found.frequencies_hz < 15_000.0)
                    worst = max(worst, float(np.max(np.abs(found.gains_db - wanted)[heard])))
        record(
            "Lenses",
            "response of the ladder as measured, against its theory, 20 Hz to 15 kHz",
            "0.2 dB",
            f"{worst:.3f} dB",
        )
        self.assertLess(worst, 0.2)

    def test_phase_of_a_low_pass_turns_by_a_quarter_for_each_pole(self) -> None:
        for slope, poles in ((6, 1), (12, 2), (24, 4)):
            found = response.filter_response(Module(id="f", type="filter", settings={"slope": slope, "cutoff": 500}))
            at = float(np.interp(500.0, found.frequencies_hz, found.phases_deg))
            self.assertAlmostEqual(at, -45.0 * poles, delta=6.0, msg=f"{slope}")

    def test_shaper_is_its_curve(self) -> None:
        for curve in ("soft", "hard", "fold", "harmonic"):
            for drive, bias in ((0, 0), (12, 0), (6, 0.3)):
                settings = {"curve": curve, "drive": drive, "bias": bias}
                found = response.shaper_curve(Module(id="s", type="shaper", settings=settings))
                self.assertLess(float(np.max(np.abs(found.ys - found.theory))), 0.02, (curve, drive, bias))

    def test_envelope_is_its_shape(self) -> None:
        for stages in ("attack-decay-sustain-release", "attack-decay", "attack-release"):
            for curve in ("curved", "linear"):
                settings = {"stages": stages, "curve": curve, "attack": 0.2, "decay": 0.3, "release": 0.5}
                found = response.envelope_course(Module(id="e", type="envelope", settings=settings))
                self.assertLess(float(np.max(np.abs(found.ys - found.theory))), 1e-9, (stages, curve))


if __name__ == "__main__":
    unittest.main()
