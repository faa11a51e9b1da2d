"""The smaller modules against plain formulas, sample by sample, and noise against its definition."""

import math
import unittest
from typing import Any

import numpy as np
from scipy.signal import welch

from inner_tone.core.arrays import Floats
from inner_tone.core.engine.events import Move, NoteOn, Timed
from inner_tone.core.modules.chance import uniform
from inner_tone.core.modules.quantise import SCALES
from tests.support.figures import record
from tests.support.patches import RATE, Line, listen, module, patch

SECONDS = 0.05


def outcome(unit: dict[str, Any], lines: list[Line], tap: str, seconds: float = SECONDS) -> tuple[Floats, ...]:
    """Return a module's output and its two sources, a saw and a sine that have nothing to do with each other."""
    sources = [
        module("player", "player"),
        module("saw", "oscillator", wave="saw", ratio=0.83),
        module("sine", "oscillator", wave="sine", ratio=1.37),
    ]
    played = patch([*sources, unit], lines)
    events: list[Timed] = [(0, NoteOn(7.0, 0.6)), (0, Move("wheel", 0.0, 1.0 / 2400))]
    return tuple(listen(played, one, seconds, events) for one in (tap, "saw.out", "sine.out", "player.wheel"))


class ShapingTest(unittest.TestCase):
    def test_mixer_adds_at_its_levels(self) -> None:
        lines: list[Line] = [("saw.out", "mix.in1"), ("sine.out", "mix.in6"), ("player.wheel", "mix.level6", 0.5)]
        found, saw, sine, wheel = outcome(module("mix", "mixer", level1=0.25), lines, "mix.out")
        np.testing.assert_allclose(found, 0.25 * saw + (1.0 + 0.5 * wheel) * sine, atol=1e-12)

    def test_mixer_mutes_and_solos(self) -> None:
        lines: list[Line] = [("saw.out", "mix.in1"), ("sine.out", "mix.in2")]
        for settings, wanted in (({"mute1": "on"}, 2), ({"solo1": "on"}, 1), ({"solo1": "on", "mute1": "on"}, 0)):
            found, saw, sine, _ = outcome(module("mix", "mixer", **settings), lines, "mix.out")
            np.testing.assert_allclose(found, (0.0 * saw, saw, sine)[wanted], atol=1e-12)

    def test_crossfade_keeps_power_or_gain(self) -> None:
        lines: list[Line] = [("saw.out", "x.a"), ("sine.out", "x.b"), ("player.wheel", "x.position")]
        found, saw, sine, wheel = outcome(module("x", "crossfade", position=0), lines, "x.out")
        turn = 0.5 * np.pi * wheel
        np.testing.assert_allclose(found, np.cos(turn) * saw + np.sin(turn) * sine, atol=1e-12)
        found, saw, sine, wheel = outcome(module("x", "crossfade", position=0, law="gain"), lines, "x.out")
        np.testing.assert_allclose(found, (1 - wheel) * saw + wheel * sine, atol=1e-12)

    def test_pan_keeps_the_power_of_both_sides(self) -> None:
        lines: list[Line] = [("saw.out", "pan.in"), ("player.wheel", "pan.position", 2.0)]
        left, saw, _, _ = outcome(module("pan", "pan", position=-1), lines, "pan.left")
        right = outcome(module("pan", "pan", position=-1), lines, "pan.right")[0]
        np.testing.assert_allclose(left**2 + right**2, saw**2, atol=1e-12)
        self.assertAlmostEqual(float(left[0]), float(saw[0]))
        self.assertAlmostEqual(float(right[-1]), float(saw[-1]), places=3)

    def test_selector_lets_one_pass_and_never_clicks(self) -> None:
        lines: list[Line] = [("saw.out", "x.in1"), ("sine.out", "x.in3"), ("player.wheel", "x.position", 2.0)]
        found, saw, sine, wheel = outcome(module("x", "selector"), lines, "x.out")
        early, late = wheel < 0.2, wheel > 0.95
        np.testing.assert_allclose(found[early], saw[early], atol=1e-12)
        np.testing.assert_allclose(found[late], sine[late], atol=1e-12)
        steady: list[Line] = [("player.velocity", "x.in1"), ("player.velocity", "x.in2", -1.0), lines[2]]
        moving = outcome(module("x", "selector"), steady, "x.out")[0]
        self.assertLess(float(np.max(np.abs(np.diff(moving)))), 0.006)


class SteeringTest(unittest.TestCase):
    def test_scale(self) -> None:
        found, saw, _, _ = outcome(module("s", "scale", gain=-2, offset=0.5), [("saw.out", "s.in")], "s.out")
        np.testing.assert_allclose(found, 0.5 - 2.0 * saw, atol=1e-12)

    def test_arithmetic(self) -> None:
        lines: list[Line] = [("saw.out", "m.a"), ("sine.out", "m.b")]
        for operation, formula in (
            ("multiply-add", lambda a, b: a * b + 0.25),
            ("minimum", np.minimum),
            ("maximum", np.maximum),
            ("difference", lambda a, b: a - b),
            ("magnitude", lambda a, b: np.abs(a)),
            ("greater", lambda a, b: (a > b) * 1.0),
        ):
            unit = module("m", "arithmetic", operation=operation, b=7, c=0.25)
            found, saw, sine, _ = outcome(unit, lines, "m.out")
            np.testing.assert_allclose(found, formula(saw, sine), atol=1e-12, err_msg=operation)

    def test_unconnected_input_of_arithmetic_is_its_setting(self) -> None:
        found, saw, _, _ = outcome(module("m", "arithmetic", b=3, c=-1), [("saw.out", "m.a")], "m.out")
        np.testing.assert_allclose(found, 3.0 * saw - 1.0, atol=1e-12)
        found, saw, _, _ = outcome(module("m", "arithmetic"), [("saw.out", "m.b")], "m.out")
        np.testing.assert_array_equal(found, saw)  # a factor that nobody connects is 1

    def test_product_with_a_factor_at_zero_is_zero(self) -> None:
        """A wheel that is down leaves nothing of the LFO, whichever of the two ways in it has."""
        for lfo, wheel in ("ab", "ba"):
            played = patch(
                [module("player", "player"), module("lfo", "lfo"), module("m", "arithmetic")],
                [("lfo.out", f"m.{lfo}"), ("player.wheel", f"m.{wheel}")],
            )
            np.testing.assert_array_equal(listen(played, "m.out", 0.5), 0.0)

    def test_hold_is_exact_against_a_plain_loop(self) -> None:
        found, saw, sine, _ = outcome(module("h", "hold"), [("saw.out", "h.in"), ("sine.out", "h.trigger")], "h.out")
        kept, last, theory = 0.0, 0.0, []
        for value, trigger in zip(saw, sine, strict=True):
            if trigger > 0.0 and last <= 0.0:
                kept = value
            last = trigger
            theory.append(kept)
        np.testing.assert_array_equal(found, theory)
        self.assertGreater(len(set(theory)), 10)

    def test_quantise_is_exact_against_a_search_over_all_notes(self) -> None:
        for scale, notes in SCALES.items():
            for root in (0, 5, 11):
                unit = module("q", "quantise", scale=scale, root=root)
                found, _, sine, _ = outcome(unit, [("sine.out", "q.in", 40.0)], "q.out")
                allowed = np.array([12.0 * octave + root + note for octave in range(-6, 6) for note in notes])
                allowed.sort()
                nearest = allowed[np.argmin(np.abs(40.0 * sine[:, np.newaxis] - allowed), axis=1)]
                np.testing.assert_array_equal(found, nearest, err_msg=f"{scale} {root}")

    def test_ramp_is_the_phase_of_its_pitch(self) -> None:
        played = patch([module("ramp", "ramp", pitch=-24)])
        found = listen(played, "ramp.out", 0.2)
        theory = (261.6255653005986 / 4.0 / RATE * np.arange(len(found))) % 1.0
        np.testing.assert_allclose(found, theory, atol=1e-9)

    def test_slew_is_exact_against_a_plain_loop(self) -> None:
        for shape in ("linear", "curved"):
            unit = module("s", "slew", shape=shape, rise=0.002, fall=0.01)
            found, saw, _, _ = outcome(unit, [("saw.out", "s.in", 3.0)], "s.out")
            level, theory = 3.0 * float(saw[0]), []
            for goal in 3.0 * saw:
                time = 0.002 if goal > level else 0.01
                if shape == "linear":
                    level += min(1.0 / (time * RATE), max(-1.0 / (time * RATE), goal - level))
                else:
                    level += (1.0 - 0.01 ** (1.0 / (time * RATE))) * (goal - level)
                theory.append(level)
            np.testing.assert_allclose(found, theory, atol=1e-9, err_msg=shape)

    def test_glide_takes_the_stated_time_for_a_semitone(self) -> None:
        played = patch(
            [module("player", "player"), module("glide", "slew", shape="linear", rise=0.05)],
            [("player.pitch", "glide.in")],
        )
        found = listen(played, "glide.out", 1.0, [(0, NoteOn(0.0, 1.0)), (4800, NoteOn(7.0, 1.0))])
        self.assertEqual(float(found[4799]), 0.0, "the first note does not slide in")
        self.assertAlmostEqual(float(np.argmax(found >= 7.0 - 1e-9)) / RATE, 0.1 + 7 * 0.05, places=3)


class LfoTest(unittest.TestCase):
    def lfo(self, seconds: float = 1.0, **settings: float | str) -> Floats:
        return listen(patch([module("lfo", "lfo", **settings)]), "lfo.out", seconds)

    def test_waves(self) -> None:
        phase = (5.0 * np.arange(48_000) / RATE) % 1.0
        theory = {
            "sine": np.sin(2 * np.pi * phase),
            "triangle": 2.0 / np.pi * np.arcsin(np.sin(2 * np.pi * phase)),
            "rise": 2.0 * phase - 1.0,
            "fall": 1.0 - 2.0 * phase,
            "square": np.where(phase < 0.5, 1.0, -1.0),
        }
        for wave, wanted in theory.items():
            found = self.lfo(rate=5, wave=wave)
            self.assertLess(float(np.sum(np.abs(found - wanted) > 1e-6)), 12, wave)

    def test_range_and_phase(self) -> None:
        plain, shifted = self.lfo(rate=4), self.lfo(rate=4, phase=0.25, range="positive")
        np.testing.assert_allclose(shifted[:36_000], 0.5 + 0.5 * plain[3000:39_000], atol=1e-6)

    def test_random_waves_visit_the_same_places_each_time(self) -> None:
        stepped, smooth = self.lfo(rate=10, wave="stepped", seed=3), self.lfo(rate=10, wave="smooth", seed=3)
        places = [uniform(cycle, 3) for cycle in range(10)]
        np.testing.assert_allclose(stepped[2400::4800], places)
        np.testing.assert_allclose(smooth[::4800], places, atol=1e-3)
        self.assertLess(float(np.max(np.abs(np.diff(smooth)))), 0.002)
        self.assertFalse(np.array_equal(stepped, self.lfo(rate=10, wave="stepped", seed=4)))

    def test_rate_is_moved_in_octaves(self) -> None:
        played = patch(
            [module("player", "player"), module("lfo", "lfo", rate=3, wave="rise")],
            [("player.velocity", "lfo.rate", 2)],
        )
        found = listen(played, "lfo.out", 1.0, [(0, NoteOn(0, 0.5))])
        self.assertAlmostEqual(float(np.sum(np.diff(found) < -1)), 6, delta=1)

    def test_vibrato_moves_the_frequency_by_a_semitone(self) -> None:
        played = patch(
            [module("lfo", "lfo", rate=1, wave="square"), module("osc", "oscillator", wave="sine", ratio=1.7)],
            [("lfo.out", "osc.pitch", 1.0)],
        )
        signal = listen(played, "osc.out", 1.0)
        worst = 0.0
        for half, factor in ((0, 2 ** (1 / 12)), (1, 2 ** (-1 / 12))):
            part = signal[half * 24_000 + 100 : half * 24_000 + 23_900]
            crossings = np.flatnonzero((part[:-1] < 0) & (part[1:] >= 0))
            exact = crossings + part[crossings] / (part[crossings] - part[crossings + 1])
            hertz = RATE * (len(exact) - 1) / (exact[-1] - exact[0])
            theory = 261.6255653005986 * 1.7 * factor
            worst = max(worst, abs(1200 * math.log2(hertz / theory)))
        record("Modulation", "an LFO of 1 semitone on the pitch, off 2^(±1/12)", "0.1 cent", f"{worst:.4f} cent")
        self.assertLess(worst, 0.1)


class NoiseTest(unittest.TestCase):
    """A minute of noise in thirds of an octave from 50 Hz to 15 kHz."""

    def thirds(self, colour: str) -> tuple[Floats, Floats]:
        signal = listen(patch([module("n", "noise", colour=colour)]), "n.out", 60.0)
        frequencies, density = welch(signal, RATE, nperseg=1 << 15)
        centres = 1000.0 * 2.0 ** (np.arange(-13, 12) / 3.0)
        levels = []
        for centre in centres:
            inside = (frequencies >= centre * 2 ** (-1 / 6)) & (frequencies < centre * 2 ** (1 / 6))
            levels.append(10.0 * np.log10(np.mean(density[inside])))
        return centres, np.array(levels)

    def slope(self, colour: str) -> float:
        centres, levels = self.thirds(colour)
        return float(np.polyfit(np.log2(centres), levels, 1)[0])

    def test_white_is_flat(self) -> None:
        _, levels = self.thirds("white")
        apart = float(np.max(np.abs(levels - np.mean(levels))))
        record("Noise", "white, each third of an octave, 50 Hz to 15 kHz", "within 0.5 dB", f"{apart:.2f} dB")
        self.assertLess(apart, 0.5)

    def test_pink_brown_and_blue_have_their_slopes(self) -> None:
        for colour, wanted in (("pink", -10 * math.log10(2)), ("brown", -20 * math.log10(2)), ("blue", 3.01)):
            slope = self.slope(colour)
            record("Noise", f"{colour}, dB per octave, 50 Hz to 15 kHz", f"{wanted:.2f} ± 0.3", f"{slope:.2f}")
            self.assertAlmostEqual(slope, wanted, delta=0.3, msg=colour)

    def test_pink_follows_its_line_closely(self) -> None:
        centres, levels = self.thirds("pink")
        line = -10.0 * np.log10(centres)
        off = levels - line - np.mean(levels - line)
        self.assertLess(float(np.max(np.abs(off))), 0.6)

    def test_seed_decides(self) -> None:
        one, again, other = (
            listen(patch([module("n", "noise", colour="pink", seed=seed)]), "n.out", 0.1) for seed in (1, 1, 2)
        )
        np.testing.assert_array_equal(one, again)
        self.assertLess(abs(float(np.corrcoef(one, other)[0, 1])), 0.2)
        self.assertLess(float(np.max(np.abs(one))), 1.5)


if __name__ == "__main__":
    unittest.main()
