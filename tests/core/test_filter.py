"""The filter against the analogue prototypes that the textbook gives."""

import math
import unittest

import numpy as np
from scipy.signal import butter, freqs

from inner_tone.core.arrays import Floats
from inner_tone.core.engine.events import Move, NoteOn
from inner_tone.core.modules import CATALOGUE
from inner_tone.core.modules.oscillator import MIDDLE_C_HZ
from inner_tone.core.modules.theory import ResponseTheory
from tests.support.figures import record
from tests.support.patches import RATE, Line, listen, module, patch, sine
from tests.support.spectra import level_db

IMPULSE = 1 << 16


def response_db(frequencies_hz: Floats, output: str = "out", **settings: float | str) -> Floats:
    """Return the response at some frequencies, from the answer to an impulse made by a very short envelope."""
    played = patch(
        [
            module("player", "player"),
            module("pulse", "envelope", stages="attack-decay", attack=0, decay=0, curve="linear"),
            module("filter", "filter", **settings),
        ],
        [("player.gate", "pulse.gate"), ("pulse.out", "filter.in")],
    )
    count = IMPULSE / RATE
    events = [(64, NoteOn(0, 1))]
    answer = listen(played, f"filter.{output}", count, events)
    impulse = listen(played, "pulse.out", count, events)
    turns = np.exp(-2j * np.pi * np.outer(frequencies_hz / RATE, np.arange(IMPULSE)))
    return np.asarray(20.0 * np.log10(np.abs(turns @ answer) / np.abs(turns @ impulse)))


class CutoffTest(unittest.TestCase):
    def test_low_pass_and_high_pass_are_three_decibels_down_at_the_cutoff(self) -> None:
        for slope in (6, 12, 24):
            worst = 0.0
            for mode in ("lowpass", "highpass"):
                for cutoff in (50, 110, 440, 1000, 3000, 7000, 12_000):
                    found = response_db(np.array([float(cutoff)]), mode=mode, slope=slope, cutoff=cutoff)[0]
                    worst = max(worst, abs(found + 10.0 * math.log10(2.0)))
            record("Filter", f"level at the cutoff, {slope} dB, 50 Hz to 12 kHz", "−3.01 ± 0.1 dB", f"± {worst:.4f} dB")
            self.assertLess(worst, 0.1, slope)

    def test_slopes_are_what_they_are_called(self) -> None:
        for slope in (6, 12, 24):
            low = response_db(np.array([2000.0, 4000.0]), mode="lowpass", slope=slope, cutoff=500)
            high = response_db(np.array([62.5, 125.0]), mode="highpass", slope=slope, cutoff=500)
            for name, fall in (("low-pass", low[0] - low[1]), ("high-pass", high[1] - high[0])):
                asked = f"{slope} ± 0.5 dB"
                record("Filter", f"slope of the {name} of {slope} dB, 2–3 octaves from 500 Hz", asked, f"{fall:.2f} dB")
                self.assertAlmostEqual(fall, slope, delta=0.5, msg=f"{name} {slope}")

    def test_response_without_resonance_is_butterworths(self) -> None:
        frequencies = np.geomspace(40.0, 16_000.0, 60)
        for mode, kind in (("lowpass", "low"), ("highpass", "high")):
            for slope, order in ((6, 1), (12, 2), (24, 4)):
                for cutoff in (200.0, 1500.0, 6000.0):
                    b, a = butter(order, 2 * math.pi * cutoff, kind, analog=True)
                    _, theory = freqs(b, a, 2 * math.pi * frequencies)
                    wanted = 20.0 * np.log10(np.abs(theory))
                    found = response_db(frequencies, mode=mode, slope=slope, cutoff=cutoff)
                    heard = wanted > -60.0
                    apart = float(np.max(np.abs(found - wanted)[heard]))
                    self.assertLess(apart, 1.2, f"{mode} {slope} {cutoff}")


class ResonanceTest(unittest.TestCase):
    def test_resonance_lifts_the_cutoff_by_its_q(self) -> None:
        for resonance in (0.3, 0.6, 0.9):
            found = response_db(np.array([1000.0]), slope=12, cutoff=1000, resonance=resonance)[0]
            quality = 1.0 / (math.sqrt(2.0) * (1.0 - resonance))
            self.assertAlmostEqual(found, 20.0 * math.log10(quality), delta=0.05)

    def test_band_pass_is_level_at_the_cutoff_and_falls_on_both_sides(self) -> None:
        found = response_db(np.array([100.0, 1000.0, 10_000.0]), mode="bandpass", cutoff=1000, resonance=0.5)
        self.assertAlmostEqual(found[1], 0.0, delta=0.05)
        self.assertLess(found[0], -15.0)
        self.assertLess(found[2], -15.0)

    def test_notch_takes_away_only_the_cutoff(self) -> None:
        found = response_db(np.array([50.0, 1000.0, 15_000.0]), mode="notch", cutoff=1000)
        self.assertLess(found[1], -80.0)
        self.assertAlmostEqual(found[0], 0.0, delta=0.2)
        self.assertAlmostEqual(found[2], 0.0, delta=0.6)

    def test_side_outputs_are_what_the_modes_give(self) -> None:
        frequencies = np.geomspace(100.0, 10_000.0, 20)
        for output, mode in (("low", "lowpass"), ("band", "bandpass"), ("high", "highpass")):
            side = response_db(frequencies, output, mode="notch", cutoff=800, resonance=0.4)
            main = response_db(frequencies, mode=mode, cutoff=800, resonance=0.4)
            np.testing.assert_allclose(side, main, atol=0.01)


def integrated(tone_hz: float, mod_hz: float, semitones: float, cutoff: float, resonance: float, count: int) -> Floats:
    """Return what the analogue low-pass of 12 dB does while its cutoff moves: its two equations, by Runge and Kutta.

    A second implementation, at eight times the rate: band' = ω(t)(in - k · band - low), low' = ω(t) · band.
    """
    over = 8
    half = 0.5 / (RATE * over)
    time = half * np.arange(2 * count * over + 1)
    sound = np.sin(2 * np.pi * tone_hz * time)
    speed = 2 * np.pi * cutoff * 2.0 ** (semitones / 12 * np.sin(2 * np.pi * mod_hz * time))
    damping = math.sqrt(2.0) * (1.0 - resonance)

    def slope(state: Floats, at: int) -> Floats:
        return np.array([speed[at] * (sound[at] - damping * state[0] - state[1]), speed[at] * state[0]])

    state, found = np.zeros(2), np.zeros(count)
    for step in range(count * over):
        if step % over == 0:
            found[step // over] = state[1]
        first = slope(state, 2 * step)
        second = slope(state + half * first, 2 * step + 1)
        third = slope(state + half * second, 2 * step + 1)
        fourth = slope(state + 2 * half * third, 2 * step + 2)
        state = state + half / 3 * (first + 2 * second + 2 * third + fourth)
    return found


class MovingTest(unittest.TestCase):
    def test_cutoff_that_moves_at_audio_rate_does_what_the_analogue_filter_does(self) -> None:
        count, settled = 4800, 1200
        for mod_hz, allowed in ((150.0, 0.1), (1100.0, 0.6)):
            theory = integrated(440.0, mod_hz, 24.0, 1000.0, 0.4, count)
            played = patch(
                [sine("tone", 440.0), sine("mod", mod_hz), module("f", "filter", cutoff=1000, resonance=0.4)],
                [("tone.out", "f.in"), ("mod.out", "f.cutoff", 24)],
            )
            found = listen(played, "f.out", count / RATE)
            weights = np.hanning(count - settled)
            wanted, ours = (np.abs(np.fft.rfft(one[settled:] * weights)) for one in (theory, found))
            loud = wanted > 0.01 * np.max(wanted)
            apart = float(np.max(np.abs(20.0 * np.log10(ours[loud] / wanted[loud]))))
            name = f"cutoff moved ±24 semitones at {mod_hz:,.0f} Hz, sidebands above −40 dB"
            record("Filter", name, "true to the analogue filter", f"within {apart:.2f} dB")
            self.assertLess(apart, allowed)

    def test_cutoff_that_moves_at_audio_rate_stays_bounded(self) -> None:
        for mode in ("lowpass", "highpass", "bandpass", "notch"):
            for slope in (6, 12, 24):
                played = patch(
                    [
                        module("source", "oscillator", wave="saw", ratio=0.4),
                        module("mod", "oscillator", wave="square", ratio=3.7),
                        module("filter", "filter", mode=mode, slope=slope, cutoff=1000, resonance=0.9),
                    ],
                    [("source.out", "filter.in"), ("mod.out", "filter.cutoff", 48)],
                )
                signal = listen(played, "filter.out", 1.0)
                self.assertTrue(np.all(np.isfinite(signal)))
                self.assertLess(float(np.max(np.abs(signal))), 200.0, f"{mode} {slope}")

    def test_cutoff_moves_in_semitones(self) -> None:
        played = patch(
            [
                module("player", "player"),
                module("source", "oscillator", wave="sine", ratio=2000.0 / MIDDLE_C_HZ),
                module("filter", "filter", slope=24, cutoff=500),
            ],
            [("source.out", "filter.in"), ("player.wheel", "filter.cutoff", 24)],
        )
        signal = listen(played, "filter.out", 2.0, [(0, Move("wheel", 1.0))])[48_000:]
        self.assertAlmostEqual(level_db(signal, RATE, 2000.0), -3.01, delta=0.1)


class SwitchedTest(unittest.TestCase):
    """Mode and slope switched by a lever: there it is the filter that would have been set, and nothing clicks."""

    AT = 48_000

    def switched(self, way: str, places: float, **settings: float | str) -> Floats:
        """Return a low tone through a filter whose lever goes on by some places after a second."""
        lever = module("hand", "lever", low=-3, high=3, step=1, value=0)
        played = patch(
            [lever, sine("tone", 100.0), module("f", "filter", cutoff=400, **settings)],
            [("tone.out", "f.in"), ("hand.out", f"f.{way}")],
        )
        return listen(played, "f.out", 2.0, [(self.AT, Move("lever:hand", (places + 3.0) / 6.0))])

    def test_lever_brings_what_would_have_been_set(self) -> None:
        cases: list[tuple[str, dict[str, float | str], float, dict[str, float | str]]] = [
            ("next_mode", {}, 1, {"mode": "highpass"}),
            ("next_mode", {"mode": "highpass"}, 2, {"mode": "notch"}),
            ("next_mode", {"mode": "notch"}, -3, {"mode": "lowpass"}),
            ("next_mode", {"mode": "notch"}, 2, {"mode": "notch"}),
            ("next_slope", {"slope": 6}, 1, {"slope": 12}),
            ("next_slope", {"slope": 6}, 2, {"slope": 24}),
            ("next_slope", {"slope": 24}, -2, {"slope": 6}),
        ]
        for way, before, places, after in cases:
            with self.subTest(way, places=places, before=before):
                found = self.switched(way, places, **before)
                tone = sine("tone", 100.0)
                fixed = patch([tone, module("f", "filter", cutoff=400, **{**before, **after})], [("tone.out", "f.in")])
                np.testing.assert_allclose(found[72_000:], listen(fixed, "f.out", 2.0)[72_000:], atol=1e-9)
                was = patch([tone, module("f", "filter", cutoff=400, **before)], [("tone.out", "f.in")])
                np.testing.assert_array_equal(found[: self.AT], listen(was, "f.out", 1.0))

    def test_nothing_clicks(self) -> None:
        """An edge would show in the second differences, which for a tone of 100 Hz are at most (2π · 100 / rate)²."""
        smooth = (2 * np.pi * 100.0 / RATE) ** 2
        for way, places, settings in (
            ("next_mode", 1, {}),
            ("next_mode", 2, {}),
            ("next_mode", 3, {"slope": 24}),
            ("next_slope", 1, {}),
            ("next_slope", -1, {"mode": "highpass"}),
        ):
            found = self.switched(way, places, **settings)
            bent = np.abs(np.diff(found, 2))[self.AT - 100 : self.AT + 2000]
            # the second lane begins from silence under a fade of 480 samples
            self.assertLess(float(np.max(bent)), smooth + 3.0 / 480**2 + 0.005, way)
            self.assertLess(float(np.max(np.abs(np.diff(found)))), 0.02, way)

    def test_it_does_not_matter_how_many_samples_are_asked_for_at_once(self) -> None:
        lfo = module("lfo", "lfo", rate=37, wave="square")
        saw = module("tone", "oscillator", pitch=-12)
        lines: list[Line] = [("tone.out", "f.in"), ("lfo.out", "f.next_mode", 1), ("lfo.out", "f.next_slope", 1)]
        played = patch([lfo, saw, module("f", "filter", mode="highpass")], lines)
        whole = listen(played, "f.out", 0.3)
        # a loop runs sample by sample
        looped = patch([lfo, saw, module("f", "filter", mode="highpass")], [*lines, ("f.out", "f.in", 0.0)])
        np.testing.assert_allclose(whole, listen(looped, "f.out", 0.3), atol=1e-12)

    def test_theory_follows_the_lever(self) -> None:
        theory = CATALOGUE["filter"].theory
        assert isinstance(theory, ResponseTheory)
        hertz = np.array([100.0, 1000.0, 8000.0])
        settings = CATALOGUE["filter"].defaults
        moved = theory.response({**settings, "next_mode": 1.2, "next_slope": 1.0}, hertz, RATE)
        np.testing.assert_array_equal(
            moved, theory.response({**settings, "mode": "highpass", "slope": 24}, hertz, RATE)
        )


class LinearTest(unittest.TestCase):
    def test_cutoff_is_moved_in_hertz_as_if_it_were_set_there(self) -> None:
        """Steered evenly in hertz it goes through the same cutoffs as one that is set to each of them."""
        for kind in ("filter", "ladder"):
            for way in ({"linear": 500.0}, {"linear": -300.0}):
                moved = self.tone(kind, cutoff=800.0, **way)
                np.testing.assert_array_equal(moved, self.tone(kind, cutoff=800.0 + way["linear"]), err_msg=kind)

    def test_steering_in_hertz_is_another_way_than_in_semitones(self) -> None:
        lever = module("hand", "lever", low=0, high=1, value=0.5)
        tone = sine("tone", 2000.0)
        found = []
        for line in (("hand.out", "f.linear", 3000.0), ("hand.out", "f.cutoff", 24.0)):
            played = patch([lever, tone, module("f", "filter", cutoff=1000.0)], [("tone.out", "f.in"), line])
            found.append(float(np.std(listen(played, "f.out", 0.5)[12_000:])))
        same = patch([tone, module("f", "filter", cutoff=2500.0)], [("tone.out", "f.in")])
        self.assertAlmostEqual(found[0], float(np.std(listen(same, "f.out", 0.5)[12_000:])), places=6)
        self.assertNotAlmostEqual(found[0], found[1], places=2)

    def tone(self, kind: str, **settings: float) -> Floats:
        saw = module("tone", "oscillator", wave="saw", pitch=-24)
        return listen(patch([saw, module("f", kind, **settings)], [("tone.out", "f.in")]), "f.out", 0.3)


if __name__ == "__main__":
    unittest.main()
