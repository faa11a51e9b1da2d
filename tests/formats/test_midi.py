"""MIDI files: what is written is read back the same, by us, by mido and by midicsv; what is none gets a sentence."""

import io
import itertools
import random
import subprocess
import unittest
from collections.abc import Callable

import mido

from inner_tone.core.errors import InnerToneError
from inner_tone.core.phrase import LEAST_TEMPO, Gesture, Note, Phrase
from inner_tone.formats.midi import MOST_BYTES, midi_bytes, read_midi

TICKS = 960


def random_phrase(dice: random.Random) -> Phrase:
    beats = float(dice.randint(2, 16))
    starts = sorted(dice.sample(range(int(beats) * TICKS - 10), 8))
    notes = tuple(
        Note(
            start=start / TICKS,
            length=dice.randint(1, 5) * 2 / TICKS,
            pitch=40 + n,
            velocity=round(dice.randint(1, 127) / 127, 4),
        )
        for n, start in enumerate(starts)
    )
    gesture = Gesture(control="wheel", points=((0.0, 0.0), (1.0, 1.0), (2.0, 0.25)))
    return Phrase(
        title="Tide", tempo=dice.choice([60.0, 96.0, 120.0, 125.0]), beats=beats, notes=notes, gestures=(gesture,)
    )


class RoundTripTest(unittest.TestCase):
    def test_what_is_written_is_read_back(self) -> None:
        for seed in range(40):
            with self.subTest(seed):
                phrase = random_phrase(random.Random(seed))
                found = read_midi(midi_bytes(phrase)).phrase
                assert found is not None
                self.assertEqual(found.notes, phrase.notes)
                self.assertEqual((found.title, found.beats), (phrase.title, phrase.beats))
                self.assertAlmostEqual(found.tempo, phrase.tempo, places=2)
                for beat in (0.0, 0.5, 1.0, 1.5, 2.0):
                    self.assertAlmostEqual(at(found.gestures[0], beat), at(phrase.gestures[0], beat), delta=0.02)

    def test_mido_and_midicsv_see_the_same(self) -> None:
        phrase = random_phrase(random.Random(3))
        data = midi_bytes(phrase)
        now, seen = 0, []
        for message in mido.MidiFile(file=io.BytesIO(data)).tracks[0]:
            now += message.time
            if message.type == "note_on":
                seen.append((now, message.note, message.velocity))
        wanted = [(round(one.start * TICKS), round(one.pitch), round(127 * one.velocity)) for one in phrase.notes]
        self.assertEqual(sorted(seen), sorted(wanted))
        told = subprocess.run(["midicsv", "-", "-"], input=data, capture_output=True, check=True).stdout.decode(
            "latin-1"
        )
        rows = [row.split(", ") for row in told.splitlines()]
        listed = [(int(row[1]), int(row[4]), int(row[5])) for row in rows if row[2] == "Note_on_c"]
        self.assertEqual(sorted(listed), sorted(wanted))
        self.assertEqual([row[3] for row in rows if row[2] == "Tempo"], [str(round(60e6 / phrase.tempo))])

    def test_levers_and_the_bend_find_their_way_back(self) -> None:
        gestures = (
            Gesture(control="lever:fog", points=((0.0, 0.2), (2.0, 0.9))),
            Gesture(control="bend", points=((0.0, -1.0), (1.0, 1.0))),
        )
        phrase = Phrase(beats=4.0, notes=(Note(start=0, length=1, pitch=60),), gestures=gestures)
        found = read_midi(midi_bytes(phrase)).phrase
        assert found is not None
        by_name = {one.control: one for one in found.gestures}
        self.assertEqual(set(by_name), {"lever:fog", "bend"})
        self.assertAlmostEqual(at(by_name["lever:fog"], 2.0), 0.9, delta=0.01)
        self.assertAlmostEqual(at(by_name["bend"], 0.0), -1.0, delta=0.001)
        self.assertAlmostEqual(at(by_name["bend"], 1.0), 1.0, delta=0.001)


def at(gesture: Gesture, beat: float) -> float:
    """Return where a movement stands at a beat."""
    points = gesture.points
    for (begin, value), (end, goal) in itertools.pairwise(points):
        if begin <= beat <= end and end > begin:
            return value + (goal - value) * (beat - begin) / (end - begin)
    return points[-1][1] if beat >= points[-1][0] else points[0][1]


def file_of(*tracks: list[mido.Message | mido.MetaMessage], kind: int = 1) -> bytes:
    file = mido.MidiFile(type=kind, ticks_per_beat=480)
    for messages in tracks:
        file.tracks.append(mido.MidiTrack(messages))
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


NOTE = [mido.Message("note_on", note=60, velocity=80), mido.Message("note_off", note=60, time=480)]


class OthersTest(unittest.TestCase):
    def test_of_several_tracks_one_is_chosen(self) -> None:
        named = [mido.MetaMessage("track_name", name="Bass"), *NOTE]
        data = file_of([mido.MetaMessage("set_tempo", tempo=500_000)], named, NOTE * 3)
        found = read_midi(data)
        self.assertIsNone(found.phrase)
        self.assertEqual(
            [(one.number, one.name, one.notes) for one in found.tracks], [(1, "Bass", 1), (2, "Track 3", 3)]
        )
        chosen = read_midi(data, 2).phrase
        assert chosen is not None
        self.assertEqual((len(chosen.notes), chosen.tempo), (3, 120.0))

    def test_what_is_too_long_is_taken_in_part_and_said(self) -> None:
        late = [mido.Message("note_on", note=62, velocity=9, time=480 * 100_000), mido.Message("note_off", note=62)]
        found = read_midi(file_of([*NOTE, *late]))
        assert found.phrase is not None
        self.assertEqual(len(found.phrase.notes), 1)
        self.assertIn("180 seconds, are taken", found.said[0])

    def test_notes_that_are_never_let_go_end_with_the_track(self) -> None:
        found = read_midi(
            file_of([mido.Message("note_on", note=60, velocity=80), mido.MetaMessage("end_of_track", time=960)])
        )
        assert found.phrase is not None
        self.assertEqual(found.phrase.notes[0].length, 2.0)

    def test_tempo_of_nothing_and_tempos_out_of_reach(self) -> None:
        for tempo, kept in ((0, 120.0), (16_777_215, LEAST_TEMPO)):
            found = read_midi(file_of([mido.MetaMessage("set_tempo", tempo=tempo), *NOTE]))
            assert found.phrase is not None
            self.assertEqual(found.phrase.tempo, kept)
            self.assertTrue(found.said)

    def test_files_that_are_none_get_a_sentence(self) -> None:
        good = file_of(NOTE)
        wrongs: dict[str, tuple[Callable[[], bytes], str]] = {
            "empty": (lambda: b"", "no MIDI file"),
            "another kind": (lambda: b"RIFF" + bytes(60), "no MIDI file"),
            "cut off": (lambda: good[:-3], "ends before"),
            "a header alone": (lambda: good[:14], "ends before"),
            "giant": (lambda: good + bytes(MOST_BYTES), "bytes"),
            "film frames": (lambda: good[:12] + b"\xe7\x28" + good[14:], "film frames"),
            "no division": (lambda: good[:12] + b"\0\0" + good[14:], "film frames"),
            "several pieces": (lambda: file_of(NOTE, kind=2), "type 2"),
            "a million events": (lambda: file_of(NOTE * 500_000), "bytes"),
            "very many events": (lambda: file_of([mido.Message("pitchwheel", pitch=1)] * 250_000), "events"),
            "nothing to play": (lambda: file_of([mido.Message("control_change", control=1, value=3)]), "no notes"),
            "a chunk of four gigabytes": (lambda: good[:18] + b"\xff\xff\xff\xff" + good[22:], "ends before"),
        }
        for name, (made, words) in wrongs.items():
            with self.subTest(name), self.assertRaises(InnerToneError) as raised:
                read_midi(made())
            self.assertIn(words, str(raised.exception), name)

    def test_noise_in_the_place_of_events_never_does_worse(self) -> None:
        dice = random.Random(5)
        good = bytearray(file_of(NOTE * 30))
        for _ in range(300):
            data = bytearray(good)
            for _ in range(dice.randint(1, 12)):
                data[dice.randrange(14, len(data))] = dice.randrange(256)
            try:
                read_midi(bytes(data))
            except InnerToneError as error:
                self.assertTrue(str(error).endswith("."))


if __name__ == "__main__":
    unittest.main()
