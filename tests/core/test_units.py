"""Numbers as people read them."""

import unittest

from inner_tone.core.units import midi_of, note_name, signed, trimmed, with_unit


class UnitTest(unittest.TestCase):
    def test_numbers_have_a_few_significant_places(self) -> None:
        table = {0.0: "0", 1.0: "1", 0.2: "0.2", 1234.5: "1,234", 0.00123456: "0.00123", -3.25: "−3.25", 420.0: "420"}
        for value, text in table.items():
            self.assertEqual(trimmed(value), text)

    def test_units(self) -> None:
        table = [
            (0.35, "s", "350 ms"),
            (1.5, "s", "1.5 s"),
            (0.0, "s", "0 ms"),
            (1046.5, "Hz", "1,046 Hz"),
            (1.0, "st", "1 semitone"),
            (-2.0, "oct", "−2 octaves"),
            (7.0, "cent", "7 cents"),
            (-6.0, "dB", "−6 dB"),
            (0.5, "", "0.5"),
        ]
        for value, unit, text in table:
            self.assertEqual(with_unit(value, unit), text)

    def test_movements_have_a_sign(self) -> None:
        self.assertEqual(signed(24.0, "st"), "+24 semitones")
        self.assertEqual(signed(-0.5, ""), "−0.5")

    def test_notes(self) -> None:
        self.assertEqual(note_name(60), "C4")
        self.assertEqual(note_name(68.9), "A4")
        self.assertEqual(note_name(21), "A0")
        self.assertAlmostEqual(midi_of(261.6255653), 60.0, places=6)


if __name__ == "__main__":
    unittest.main()
