"""Company: the mix against one made with NumPy, bands against theory, what is said against sounds of known truth."""

import unittest
from math import cos, log10, pi, sin, sqrt

import numpy as np

from inner_tone.core.accompaniments import accompaniments
from inner_tone.core.analysis.loudness import loudness_lufs
from inner_tone.core.analysis.thirds import CENTRES_HZ, EDGES_HZ, band_powers, hidden_below, regions, standings
from inner_tone.core.arrays import Floats
from inner_tone.core.checkup import checkup
from inner_tone.core.company import Heard, Mix, company_of, fitted, mix_of
from inner_tone.core.documents import read
from inner_tone.core.engine.render import render, render_key
from inner_tone.core.errors import DocumentError
from inner_tone.core.lens.chart import Chart
from inner_tone.core.lens.company import in_company
from inner_tone.core.lens.kinds.level import LevelView
from inner_tone.core.lens.kinds.spectrum import SpectrumView
from inner_tone.core.lens.kinds.sweep import SweepView
from inner_tone.core.lens.kinds.wave import WaveView
from inner_tone.core.lens.moment import Span
from inner_tone.core.lens.recipe import Behind, Recipe, charts, rendered
from inner_tone.core.lesson.playing import played_differently
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.notation import notated
from inner_tone.core.patch.port import Port
from inner_tone.core.phrase import Companion, Note, Phrase, Score, checked_phrase
from tests.support.figures import record
from tests.support.patches import RATE

WHOLE = Span(0.0, None, "whole")
TIME = np.arange(2 * 48_000) / RATE
HORN = notated("""
    player: player
    reed: oscillator "Reed" wave=saw octave=-2
    amp: amplifier
    out: output level=-12
    player.pitch -> reed.pitch
    reed.out -> amp.in
    player.gate -> amp.level
    amp.out -> out.left, out.right
""")
TUNE = Score(tempo=120, beats=2, notes=(Note(start=0, length=1, pitch=69), Note(start=1, length=0.5, pitch=76)))


def part(identity: str = "bells", **more: float | bool) -> Companion:
    """Return a part that plays a sine an octave above the horn."""
    patch = notated("""
        player: player
        tone: oscillator wave=sine
        amp: amplifier
        out: output level=-10
        player.pitch -> tone.pitch
        tone.out -> amp.in
        player.gate -> amp.level
        amp.out -> out.left, out.right
    """)
    return Companion.model_validate({"id": identity, "name": identity.title(), "patch": patch, "phrase": TUNE, **more})


def phrase(*company: Companion, beats: float = 5, tempo: float = 90) -> Phrase:
    return Phrase(tempo=tempo, beats=beats, notes=(Note(start=0, length=4, pitch=57),), company=company)


def heard(patch: Patch, played: Phrase) -> Floats:
    """Return what is heard of a patch, shape (2, n), by a render of its own."""
    done = render(patch, played, taps=["out.left", "out.right"])
    return np.stack([done.taps["out.left"], done.taps["out.right"]])


def tone(hertz: float, level_db: float) -> Floats:
    """Return a sine in both channels, shape (2, n)."""
    wave = 10 ** (level_db / 20) * np.sin(2 * np.pi * hertz * TIME)
    return np.stack([wave, wave])


class MixTest(unittest.TestCase):
    def test_mix_is_that_of_numpy(self) -> None:
        """Rendered one by one, then scaled, placed and added by hand: the same numbers."""
        bells, low = part(level=-7.0, pan=0.6, fade_in=2.0), part("low", level=3.0, pan=-1.0, fade_out=1.5)
        played = phrase(bells, low)
        found = mix_of(HORN, played, rendered)
        alone = phrase()
        parts = [heard(HORN, alone)]
        for one, gain, angle in ((bells, -7.0, 1.6 * pi / 4), (low, 3.0, 0.0)):
            notes = []
            for turn in range(3):
                for note in TUNE.notes:
                    start = note.start + 2 * turn
                    if start < 5:
                        notes.append(Note(start=start, length=min(note.length, 5 - start), pitch=note.pitch))
            sound = heard(one.patch, Phrase(tempo=90, beats=5, notes=tuple(notes)))
            beats = np.arange(sound.shape[1]) / RATE * 1.5
            fade = np.clip(beats / 2, 0, 1) if one is bells else np.clip((5 - beats) / 1.5, 0, 1)
            parts.append(sound * fade * 10 ** (gain / 20) * sqrt(2) * np.array([[cos(angle)], [sin(angle)]]))
        length = max(one.shape[1] for one in parts)
        padded = [np.pad(one, ((0, 0), (0, length - one.shape[1]))) for one in parts]
        np.testing.assert_allclose(found.own, padded[0], atol=1e-12)
        np.testing.assert_allclose(found.others, padded[1] + padded[2], atol=1e-12)
        np.testing.assert_allclose(found.together, sum(padded), atol=1e-12)

    def test_muted_and_alone(self) -> None:
        bells, low = part(), part("low", muted=True)
        played = phrase(bells, low)
        one = mix_of(HORN, phrase(bells), rendered)
        np.testing.assert_allclose(mix_of(HORN, played, rendered).together, one.together)
        alone = company_of(played, rendered, "low")
        np.testing.assert_allclose(alone, company_of(phrase(part("low")), rendered))

    def test_company_changes_nothing_of_the_take_itself(self) -> None:
        self.assertEqual(render_key(HORN, phrase(part())), render_key(HORN, phrase()))

    def test_a_part_plays_at_the_tempo_and_for_the_length_of_the_phrase(self) -> None:
        for beats, count in ((0.5, 1), (2, 2), (3, 3), (5, 5), (6.5, 7)):
            found = fitted(part(), phrase(beats=beats, tempo=133))
            self.assertEqual((found.tempo, found.beats, len(found.notes)), (133, beats, count))
            self.assertTrue(all(note.start + note.length <= beats for note in found.notes))

    def test_what_is_wrong_is_said_with_its_place(self) -> None:
        data = phrase(part(), part()).model_dump(mode="json", by_alias=True)
        data["company"][1]["patch"]["modules"][1]["settings"]["wave"] = "round"
        data["company"][1]["phrase"]["notes"][0]["start"] = 9
        with self.assertRaises(DocumentError) as caught:
            checked_phrase(read(Phrase, data))
        paths = [one.path for one in caught.exception.problems]
        self.assertIn("company[0].id", paths)
        self.assertIn("company[1].patch.modules[1].settings.wave", paths)
        self.assertIn("company[1].phrase.notes[0].start", paths)

    def test_who_comes_and_goes_is_told(self) -> None:
        said = [one.text for one in played_differently(phrase(part("low")), phrase(part()), HORN)]
        self.assertEqual(said, ["Let Bells sound along.", "Let Low sound along no longer."])


class ThirdsTest(unittest.TestCase):
    def test_bands_are_those_of_the_standard(self) -> None:
        """IEC 61260-1, base 10: exact mid-band frequencies 1000·10^(n/10), edges a twentieth of a decade apart."""
        self.assertAlmostEqual(float(CENTRES_HZ[16]), 1_000.0)
        self.assertAlmostEqual(float(EDGES_HZ[16]), 891.25, places=2)
        self.assertAlmostEqual(float(EDGES_HZ[17]), 1_122.02, places=2)

    def test_power_of_a_tone_is_in_its_band(self) -> None:
        for hertz, band in ((31.6, 1), (100.0, 6), (1_000.0, 16), (9_990.0, 26)):
            found = band_powers(tone(hertz, -6.0), RATE)
            self.assertAlmostEqual(10 * log10(float(found[band])), -9.01, delta=0.1, msg=str(hertz))
            self.assertGreater(float(found[band] / np.sum(found)), 0.97)

    def test_power_of_all_bands_is_that_of_the_signal(self) -> None:
        rng = np.random.default_rng(4)
        noise = np.stack([rng.normal(0, 0.1, 96_000), rng.normal(0, 0.2, 96_000)])
        within = (EDGES_HZ[-1] - EDGES_HZ[0]) / 24_000.0
        found = float(np.sum(band_powers(noise, RATE)))
        self.assertAlmostEqual(found / (0.5 * (0.01 + 0.04) * within), 1.0, delta=0.02)

    def test_white_noise_rises_by_a_decibel_a_band(self) -> None:
        """Each band is 10^0.1 times as wide as the one below: 1 dB."""
        noise = np.random.default_rng(5).normal(0, 0.1, (2, 480_000))
        found = 10 * np.log10(band_powers(noise, RATE))
        np.testing.assert_allclose(np.diff(found)[8:], 1.0, atol=0.5)

    def test_hiding_is_that_of_schroeder(self) -> None:
        """In its own band 15.81 + 7.5 · 0.474 − 17.5 · √(1 + 0.474²) − 5.5 dB beneath; steeper below than above."""
        power = np.zeros(len(CENTRES_HZ))
        power[16] = 1.0
        found = 10 * np.log10(hidden_below(power))
        self.assertAlmostEqual(float(found[16]), 15.81 + 7.5 * 0.474 - 17.5 * sqrt(1 + 0.474**2) - 5.5, places=6)
        self.assertLess(float(found[10]), float(found[22]))

    def test_standings_of_tones_of_known_truth(self) -> None:
        own, other = tone(200.0, -20.0), tone(2_000.0, -20.0)
        found = dict(
            zip(np.round(CENTRES_HZ), standings(band_powers(own, RATE), band_powers(other, RATE)), strict=True)
        )
        self.assertIn(found[200.0], ("free", "covers"))
        self.assertEqual(found[1995.0], "absent")
        beneath = band_powers(own + tone(2_050.0, -46.0), RATE)
        found = dict(zip(np.round(CENTRES_HZ), standings(beneath, band_powers(other, RATE)), strict=True))
        self.assertEqual(found[1995.0], "covered")
        found = dict(zip(np.round(CENTRES_HZ), standings(band_powers(other, RATE), beneath), strict=True))
        self.assertEqual(found[1995.0], "covers")

    def test_regions_have_all_power_once(self) -> None:
        rng = np.random.default_rng(6)
        one, other = (10.0 ** rng.uniform(-9, -2, len(CENTRES_HZ)) for _ in range(2))
        found = regions(one, other)
        self.assertAlmostEqual(sum(each.own for each in found), float(np.sum(one)))
        self.assertAlmostEqual(sum(each.other for each in found), float(np.sum(other)))
        self.assertEqual([found[0].first, found[-1].last], [0, len(CENTRES_HZ)])


class SentenceTest(unittest.TestCase):
    def chart(self, own: Floats, *voices: tuple[str, Floats]) -> Chart:
        mix = Mix(own, tuple(Heard(name, sound) for name, sound in voices))
        return in_company(SpectrumView(taps=(Port("amp.out"),)), mix, WHOLE, "others", "company")

    def test_energy_share_is_that_of_the_mix(self) -> None:
        """60 Hz of mine at −20 dB, of theirs at −29.5 dB: 9 of 10 parts are mine; at 3 kHz they cover me."""
        own = tone(60.0, -20.0) + tone(3_000.0, -50.0)
        low, bells = tone(63.0, -29.54), tone(3_050.0, -22.0)
        found = self.chart(own, ("Hull", low), ("Bells", bells))
        facts = found.facts
        (carried,) = [
            facts[name] for name in ("free", "covers", "shared") if name in facts and facts[name]["low_hz"] < 60
        ]
        bands = np.sum(tone(60.0, -20.0) ** 2), np.sum(low**2)
        self.assertAlmostEqual(carried["share"], float(bands[0] / (bands[0] + bands[1])), delta=0.02)
        self.assertEqual(facts["covered"]["by"], "Bells")
        said = found.sentence
        self.assertIn("9 of 10 parts of the energy", said)
        self.assertIn("it is covered by Bells", said)

    def test_loudness_of_the_whole_before_and_after(self) -> None:
        own, other = tone(400.0, -20.0), tone(1_000.0, -20.0)
        facts = self.chart(own, ("Bells", other)).facts
        self.assertAlmostEqual(facts["others_lufs"], loudness_lufs(other, RATE))
        self.assertAlmostEqual(facts["together_lufs"], loudness_lufs(own + other, RATE))

    def test_nothing_is_claimed_of_nobody(self) -> None:
        silent = np.zeros_like(tone(60.0, -20.0))
        found = self.chart(tone(60.0, -20.0), ("Bells", silent))
        self.assertEqual(found.sentence, "Nothing sounds beside it here.")
        self.assertEqual(self.chart(silent, ("Bells", tone(90.0, -20.0))).sentence, "It is silent here.")

    def test_every_lens_shows_company(self) -> None:
        taps = (Port("amp.out"),)
        for view in (WaveView(taps=taps), SpectrumView(taps=taps), SweepView(taps=taps), LevelView(taps=taps)):
            for which in ("others", "together"):
                behind = Behind(legend="company", company=which)
                (shown,) = charts(Recipe(view=view, patch=HORN, phrase=phrase(part()), behind=behind))
                roles = {trace.role for panel in shown.panels for trace in panel.traces}
                rasters = [panel for panel in shown.panels if panel.raster]
                self.assertTrue("compared" in roles or len(rasters) == 2, view.kind)
        alone = charts(Recipe(view=WaveView(taps=taps), patch=HORN, phrase=phrase(), behind=behind))
        self.assertEqual({one.role for panel in alone[0].panels for one in panel.traces}, {"this"})

    def test_figures_of_a_real_company(self) -> None:
        """A low horn beside the bells that ship: the share below 500 Hz against one that NumPy adds up."""
        bells = next(one for one in accompaniments() if one.id == "bells")
        played = phrase(bells, beats=8)
        behind = Behind(legend="company", company="others")
        (shown,) = charts(Recipe(view=SpectrumView(taps=(Port("amp.out"),)), patch=HORN, phrase=played, behind=behind))
        mix = mix_of(HORN, played, rendered)
        end = round(played.seconds * 0.5 * RATE)
        share = energy_below(mix.own[:, :end], 500.0) / energy_below(mix.together[:, :end], 500.0)
        record("Company", "horn’s part of the energy below 500 Hz beside the bells, by NumPy", "—", f"{share:.3f}")
        self.assertGreater(share, 0.95)
        self.assertIn("nearly all of the energy", shown.sentence)


def energy_below(channels: Floats, hertz: float) -> float:
    """Return the energy of channels below a frequency, by one transform of all of it."""
    squares = np.abs(np.fft.rfft(channels, axis=1)) ** 2
    return float(np.sum(squares[:, np.fft.rfftfreq(channels.shape[1], 1 / RATE) < hertz]))


class ShippedTest(unittest.TestCase):
    def test_they_sound_well_and_nothing_is_found_wrong(self) -> None:
        for one in accompaniments():
            played = Phrase(**one.phrase.model_dump())
            done = render(one.patch, played, taps=["out.left", "out.right"])
            sound = np.stack([done.taps["out.left"], done.taps["out.right"]])
            self.assertTrue(-34.0 < loudness_lufs(sound, RATE) < -20.0, one.name)
            self.assertLess(float(np.max(np.abs(sound))), 0.5, one.name)
            self.assertEqual([each.code for each in checkup(one.patch, played, done, {}).findings], [], one.name)

    def test_each_is_where_its_name_says(self) -> None:
        def middle(identity: str) -> float:
            one = next(each for each in accompaniments() if each.id == identity)
            power = band_powers(heard(one.patch, Phrase(**one.phrase.model_dump())), RATE)
            return float(np.exp(np.sum(power * np.log(CENTRES_HZ)) / np.sum(power)))

        self.assertLess(middle("hull"), 120.0)
        self.assertTrue(100.0 < middle("reeds") < 400.0)
        self.assertGreater(middle("bells"), 600.0)
        self.assertGreater(middle("rain"), 2_000.0)


if __name__ == "__main__":
    unittest.main()
