"""Numbers, units and rulers in the pages, against the core where both speak of the same."""

import random
import re
import unittest
from dataclasses import asdict
from typing import Any

from inner_tone.api.catalogue import list_module_types
from inner_tone.core.lens.moment import strikes_of
from inner_tone.core.modules import CATALOGUE
from inner_tone.core.modules.declaration import Ruler
from inner_tone.core.phrase import Note, Phrase
from inner_tone.core.phrase import fitted as core_fitted
from inner_tone.core.units import UNITS, note_name, trimmed, with_unit
from tests.support.pages import in_pages

CASES = 4_000


def numbers(seed: int) -> list[float]:
    """Return numbers of all sizes and signs, round ones and odd ones."""
    dice = random.Random(seed)
    sizes = [10 ** dice.uniform(-4, 5) * dice.choice([1, -1]) for _ in range(CASES)]
    return [*sizes, *[round(one, 2) for one in sizes], 0.0, 1.0, -1.0, 0.5, 999.95, 1000.0]


def rulers() -> list[Ruler]:
    """Return every ruler of every type of module."""
    found = [ruler for kind in CATALOGUE.values() for ruler in kind.rulers.values()]
    return list(dict.fromkeys(found))


TRADE = {
    "ADSR": "envelope",
    "VCO": "oscillator",
    "VCF": "filter",
    "VCA": "amplifier",
    "LFO": "lfo",
    "fm": "oscillator",
    "frequency modulation": "oscillator",
    "pulse width": "oscillator",
    "feedback": "delay",
    "ring modulation": "arithmetic",
    "key follow": "filter",
    "sync": "oscillator",
    "panning": "pan",
    "limiter": "compressor",
    "gate": "player",
    "low pass": "filter",
    "low-pass": "filter",
    "lowpass": "filter",
    "Sample and Hold": "hold",
    "portamento": "slew",
}


class FindingTest(unittest.TestCase):
    def test_modules_are_found_by_the_words_of_the_trade_however_they_are_spelt(self) -> None:
        types = [one.model_dump(mode="json", by_alias=True) for one in list_module_types()]
        found = in_pages("foundBy", [[word, types] for word in TRADE])
        for (word, wanted), names in zip(TRADE.items(), found, strict=True):
            self.assertIn(wanted, names[:3], f"{word}: {names}")


WISHED = {
    "square": ("oscillator", "wave", "square"),
    "a sine wave": ("oscillator", "wave", "sine"),
    "pink noise": ("noise", "colour", "pink"),
    "high pass": ("filter", "mode", "highpass"),
    "high-pass filter": ("filter", "mode", "highpass"),
    "notch": ("filter", "mode", "notch"),
    "triangle": ("lfo", "wave", "triangle"),
    "stepped random": ("lfo", "wave", "stepped"),
    "fold": ("shaper", "curve", "fold"),
    "minor pentatonic": ("quantise", "scale", "minor-pentatonic"),
    "decibel amplifier": ("amplifier", "response", "decibel"),
}


class WishesTest(unittest.TestCase):
    types: list[dict[str, Any]]

    @classmethod
    def setUpClass(cls) -> None:
        cls.types = [one.model_dump(mode="json", by_alias=True) for one in list_module_types()]

    def test_what_is_asked_for_is_set(self) -> None:
        found = in_pages("wishedBy", [[words, self.types] for words in WISHED])
        for (words, wanted), wishes in zip(WISHED.items(), found, strict=True):
            self.assertIn(list(wanted), wishes, words)

    def test_every_option_that_is_a_word_is_found_by_its_name_and_nothing_else_is_set(self) -> None:
        cases = [
            (kind["name"], choice["name"], option, f"{word} {kind['title']}")
            for kind in self.types
            for choice in kind["choices"]
            for option, word in zip(choice["options"], choice["words"] or choice["options"], strict=True)
            if re.fullmatch(r"[a-z]{4,}", str(option)) and re.fullmatch(r"[a-z-]{4,}", str(word))
        ]
        self.assertGreater(len(cases), 25)
        for (kind, choice, option, words), wishes in zip(
            cases, in_pages("wishedBy", [[words, self.types] for *_, words in cases]), strict=True
        ):
            mine = [one for one in wishes if one[0] == kind]
            self.assertEqual(len(mine), 1, words)
            if choice == mine[0][1]:
                self.assertEqual(mine[0][2], option, words)
        for words in ("filter", "make it wobble", "louder", "a player", "vca"):
            self.assertEqual(in_pages("wishedBy", [[words, self.types]])[0], [], words)


class StrikesTest(unittest.TestCase):
    def test_pointed_at_is_the_note_that_the_core_counts(self) -> None:
        dice = random.Random(4)
        cases, wanted = [], []
        for _ in range(600):
            starts = [dice.choice([0, 1, 2, 2.5, 3, 5.25, 7]) for _ in range(dice.randrange(1, 7))]
            notes = tuple(Note(start=start, length=1, pitch=60 + n) for n, start in enumerate(starts))
            phrase, time = Phrase(tempo=dice.choice([60, 96, 133]), notes=notes), dice.uniform(0, 8)
            begun = sum(one.begin_s <= time for one in strikes_of(phrase))
            cases.append([phrase.model_dump(mode="json"), time])
            wanted.append(max(1, begun))
        self.assertEqual(in_pages("strikeAt", cases), wanted)


TYPED = [
    ("67 %", "%", {}, 67.0),
    ("67", "%", {}, 67.0),
    ("50 %", "", {}, 0.5),
    ("1/8", "", {}, 0.125),
    ("-1/12", "oct", {}, -1 / 12),
    ("−1/12", "oct", {}, -1 / 12),
    ("3/4 s", "s", {}, 0.75),
    ("8 s", "Hz", {}, 0.125),
    ("250 ms", "Hz", {}, 4.0),
    ("440 Hz", "s", {}, 1 / 440),
    ("2k", "", {}, 2000.0),
    ("2k", "Hz", {}, 2000.0),
    ("× 0.5", "", {}, 0.5),
    ("+24 st", "st", {}, 24.0),
    ("2 oct", "st", {}, 24.0),
    ("440 Hz", "st", {"pitch": True}, 9.0),
    ("A4", "st", {"pitch": True}, 9.0),
    ("C4 +20 cents", "st", {"pitch": True}, 0.2),
    ("3:2", "", {}, 1.5),
    ("20", "s", {"shown": "ms"}, 0.02),
    ("1/2", "s", {"shown": "ms"}, 0.0005),
    ("440 Hz", "st", {}, None),
    ("A4", "st", {}, None),
    ("1/0", "", {}, None),
    ("0 Hz", "s", {}, None),
    ("5 parsecs", "s", {}, None),
    ("", "Hz", {}, None),
]


class TypedTest(unittest.TestCase):
    def test_usual_forms_are_read_and_others_are_not(self) -> None:
        found = in_pages("parsed", [[text, unit, reading] for text, unit, reading, _ in TYPED])
        for (text, unit, _, wanted), value in zip(TYPED, found, strict=True):
            with self.subTest(text, unit=unit):
                if wanted is None:
                    self.assertIsNone(value)
                else:
                    self.assertIsNotNone(value)
                    self.assertAlmostEqual(value, wanted, places=6)

    def test_every_tick_of_every_ruler_can_be_typed(self) -> None:
        values = (0.02, 0.5, 1, 20, 100, 2000, 20_000)
        cases = [(at, one.unit) for one in rulers() if one.unit != "note" for at in values if one.low <= at <= one.high]
        shown = in_pages("tickText", cases)
        typed = in_pages("parsed", [[text, unit, {}] for text, (_, unit) in zip(shown, cases, strict=True)])
        for (value, unit), text, back in zip(cases, shown, typed, strict=True):
            self.assertIsNotNone(back, (text, unit))
            self.assertAlmostEqual(back, value, delta=0.006 * value, msg=f"{text} in {unit}")


class NumbersTest(unittest.TestCase):
    def test_numbers_have_the_same_places_as_in_sentences(self) -> None:
        values = numbers(1)
        for value, text in zip(values, in_pages("trimmed", [[value, 3] for value in values]), strict=True):
            self.assertIn(text, close_texts(value, trimmed), value)

    def test_units_are_the_same_as_in_sentences(self) -> None:
        cases = [(value, unit) for unit in UNITS if unit != "note" for value in numbers(2)[::17]]
        for (value, unit), text in zip(cases, in_pages("withUnit", cases), strict=True):
            self.assertIn(text, close_texts(value, lambda one, unit=unit: with_unit(one, unit)), (value, unit))

    def test_what_is_shown_can_be_typed(self) -> None:
        cases = [(value, unit) for unit in UNITS if unit != "note" for value in numbers(3)[::17]]
        shown = in_pages("withUnit", cases)
        typed = in_pages("parsed", [(text, unit) for text, (_, unit) in zip(shown, cases, strict=True)])
        for (value, unit), text, back in zip(cases, shown, typed, strict=True):
            self.assertIsNotNone(back, (text, unit))
            self.assertAlmostEqual(back / value if value else back + 1, 1.0, delta=0.006, msg=f"{text} in {unit}")

    def test_notes_have_the_same_names(self) -> None:
        notes = list(range(128))
        self.assertEqual(in_pages("noteText", [[note] for note in notes]), [note_name(note) for note in notes])
        typed = in_pages("parsed", [[note_name(note), "note"] for note in notes])
        self.assertEqual(typed, notes)


def close_texts(value: float, text: object) -> set[str]:
    """Return how a number is written, and one a rounding error beside it: halves fall either way."""
    assert callable(text)
    return {text(value), text(value * (1 + 1e-12)), text(value * (1 - 1e-12))}


class RulersTest(unittest.TestCase):
    def test_every_ruler_goes_from_end_to_end_and_back(self) -> None:
        every = rulers()
        self.assertGreater(len(every), 20)
        spread = [
            [r.low + (r.high - r.low) * (n / 40) ** (3 if r.travel == "log" else 1) for n in range(41)] for r in every
        ]
        cases = [[asdict(r), values] for r, values in zip(every, spread, strict=True)]
        for ruler, values, seen in zip(every, spread, in_pages("travelled", cases), strict=True):
            with self.subTest(ruler=ruler):
                self.assertAlmostEqual(seen["places"][0], 0.0)
                self.assertAlmostEqual(seen["places"][-1], 1.0)
                self.assertEqual(seen["places"], sorted(seen["places"]))
                for value, back in zip(values, seen["back"], strict=True):
                    self.assertAlmostEqual(value, back, delta=1e-9 * max(1.0, abs(ruler.high - ruler.low)))
                self.assertTrue(all(ruler.low <= tick <= ruler.high for tick in seen["ticks"]), seen["ticks"])
                for value, settled in zip(values, seen["settled"], strict=True):
                    self.assertTrue(ruler.low <= settled <= ruler.high)
                    coarse = 0.006 * abs(value) if ruler.travel == "log" else 0.0
                    self.assertLessEqual(abs(settled - value), max(0.501 * ruler.step, coarse))


class NotesTest(unittest.TestCase):
    def test_a_note_that_is_moved_away_is_put_where_the_core_puts_it(self) -> None:
        dice = random.Random(6)
        cases = []
        for _ in range(CASES):
            length, start = dice.choice([0.25, 1, 3, 0.1]), round(dice.uniform(-3, 12), 2)
            note = {"start": start, "length": length, "pitch": dice.uniform(-20, 150), "velocity": 0.7}
            cases.append((note, dice.choice([1, 4, 7.5])))
        for (note, beats), seen in zip(cases, in_pages("fitted", cases), strict=True):
            self.assertEqual(seen, core_fitted(Note.model_construct(None, **note), beats).model_dump(), (note, beats))


if __name__ == "__main__":
    unittest.main()
