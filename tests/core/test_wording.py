"""The educator's own wording and order of instructions: the facts stay, whatever the words."""

import random
import unittest

from inner_tone.core.lesson.step import StepContent, told
from inner_tone.core.lesson.wording import FACT, Wording, can_be_done, facts_of, key_of, same_patch, telling, worded
from inner_tone.core.patch.difference import difference, opening
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.model import Patch
from inner_tone.demo import bell, fog, foghorn
from inner_tone.demo.foghorn import BARE, BLASTS, BREATHED, DISTANT, SWITCHED
from tests.support.edits import patch_of
from tests.support.moves import TABLE
from tests.support.patches import settled

SAID = difference(BREATHED, DISTANT)
SET = SAID[1]


def with_cutoff(hertz: float) -> Patch:
    """Return the distant horn with another cutoff."""
    bell = DISTANT.by_id["bell"]
    other = bell.model_copy(update={"settings": dict(bell.settings) | {"cutoff": hertz}})
    return DISTANT.model_copy(update={"modules": tuple(other if one.id == "bell" else one for one in DISTANT.modules)})


class WordingTest(unittest.TestCase):
    def facts(self) -> list[str]:
        return [one.text for one in facts_of(SET)]

    def test_facts_are_names_and_values_in_their_order(self) -> None:
        self.assertEqual(self.facts(), ["Bell mouth", "420 Hz", "0.2", "24 dB per octave"])

    def test_own_words_around_the_facts(self) -> None:
        own = worded(SET, "At {cutoff} the bell closes ({module}: {slope}, {resonance}).")
        assert own is not None
        self.assertEqual(own.text, "At 420 Hz the bell closes (Bell mouth: 24 dB per octave, 0.2).")
        self.assertEqual(own.edits, SET.edits)
        self.assertEqual([part.role for part in own.parts if part.text == "420 Hz"], ["value"])

    def test_no_value_can_be_left_out_and_none_invented(self) -> None:
        self.assertIsNone(worded(SET, "Close the bell to {cutoff}."))
        self.assertIsNone(worded(SET, "{cutoff} {resonance} {slope} and {depth}"))
        self.assertIsNotNone(
            worded(SET, "{cutoff} {resonance} {slope}"), "a name can be left out: it is known from the picture"
        )

    def test_value_in_the_words_follows_the_patch(self) -> None:
        wording = (Wording(key=key_of(SET), text="Close it to {cutoff}, {resonance}, {slope}."),)
        for hertz, shown in ((420.0, "420 Hz"), (1680.0, "1,680 Hz")):
            step = StepContent(patch=with_cutoff(hertz), phrase=BLASTS, wording=wording)
            telling = told([StepContent(patch=BREATHED), step])[1]
            self.assertIn(shown.replace(",", ""), telling.instructions[1].text.replace(",", "").replace(" ", " "))
            self.assertEqual(telling.unfitting, ())

    def test_facts_have_names_of_their_own_and_were_numbered_in_the_same_order(self) -> None:
        dice = random.Random(7)
        pairs = [(move.before, move.after) for move in TABLE]
        pairs += [(patch_of(5 + seed % 9, seed), patch_of(5 + seed % 9, dice.randrange(999))) for seed in range(60)]
        said = [one for before, after in pairs for one in difference(before, after)]
        said += [one for steps in (foghorn.STEPS, fog.STEPS, bell.STEPS) for step in told(steps) for one in step.plain]
        for one in said:
            names = [fact.fact for fact in facts_of(one)]
            self.assertEqual(len(set(names)), len(names), one.text)
            self.assertTrue(all(FACT.fullmatch(f"{{{name}}}") for name in names), names)
            if one.kind == "connect" and names not in (["target", "source"], ["source", "target", "depth"]):
                continue  # what stood where, a key alone does not tell: it may be marked as unfitting, and is kept
            if one.kind == "connect" and ("depth" in names) == key_of(one).endswith(".pitch"):
                continue
            old = Wording(key=key_of(one), text=" ".join(f"{{{place + 1}}}" for place in range(len(names))))
            self.assertEqual(old.text, " ".join(f"{{{name}}}" for name in names), one.text)
            told_so = worded(one, old.text)
            assert told_so is not None
            self.assertEqual(told_so.text, " ".join(fact.text for fact in facts_of(one)))
        self.assertGreater(len(said), 500)

    def test_braces_that_hold_no_fact_stay(self) -> None:
        own = worded(SET, "{{a {cutoff} {b c} } {resonance} {slope}")
        assert own is not None
        self.assertEqual(own.text, "{{a 420 Hz {b c} } 0.2 24 dB per octave")

    def test_wording_of_what_is_no_longer_done_is_marked_and_kept(self) -> None:
        wording = Wording(key=key_of(SET), text="Close it to {cutoff}, {resonance}, {slope}.")
        step = StepContent(patch=BREATHED, phrase=BLASTS, wording=(wording,))
        found = told([StepContent(patch=SWITCHED), step])[1]
        self.assertEqual(found.unfitting, (wording,))
        self.assertEqual(found.instructions, found.plain)

    def test_key_names_no_value(self) -> None:
        other = difference(BREATHED, with_cutoff(800.0))[1]
        self.assertEqual(key_of(other), key_of(SET))
        self.assertNotEqual(other.text, SET.text)


class OrderTest(unittest.TestCase):
    def test_other_order_that_leads_to_the_same_patch(self) -> None:
        said = difference(opening(BARE), BARE)
        keys = [key_of(one) for one in said]
        wanted = [keys[0], *keys[:0:-1]]
        found = telling(opening(BARE), said, wanted, ())
        self.assertTrue(found.order_holds)
        self.assertEqual([key_of(one) for one in found.instructions], wanted)
        patch = made(opening(BARE), [edit for one in found.plain for edit in one.edits]).patch
        self.assertEqual(settled(patch), settled(BARE.model_copy(update={"title": ""})))

    def test_order_that_cannot_be_done_is_told_and_not_followed(self) -> None:
        said = difference(opening(BARE), BARE)
        wanted = [key_of(one) for one in reversed(said)]  # connecting what is not there yet
        found = telling(opening(BARE), said, wanted, ())
        self.assertFalse(found.order_holds)
        self.assertEqual(found.instructions, tuple(said))

    def test_module_has_to_be_there_before_it_is_connected(self) -> None:
        said = difference(opening(BARE), BARE)
        keys = [key_of(one) for one in said]
        self.assertFalse(telling(opening(BARE), said, [keys[2], keys[0], keys[1], *keys[3:]], ()).order_holds)

    def test_what_the_order_does_not_know_comes_behind_its_predecessor(self) -> None:
        said = difference(opening(BARE), BARE)
        keys = [key_of(one) for one in said]
        found = telling(opening(BARE), said, [keys[0], keys[-1]], ())
        self.assertEqual(sorted(key_of(one) for one in found.instructions), sorted(keys))
        self.assertEqual(key_of(found.instructions[0]), keys[0])

    def test_shuffled_instructions_either_rebuild_the_target_or_are_refused(self) -> None:
        chance = random.Random(6)
        held = 0
        for round_number in range(60):
            before, after = patch_of(5, round_number), patch_of(7, round_number + 1)
            said = difference(before, after)
            order = [key_of(one) for one in said]
            chance.shuffle(order)
            found = telling(before, said, order, ())
            if found.order_holds:
                held += 1
                rebuilt = made(before, [edit for one in found.plain for edit in one.edits]).patch
                self.assertTrue(can_be_done(before, said, found.plain))
                self.assertTrue(same_patch(rebuilt, made(before, [e for one in said for e in one.edits]).patch))
        self.assertGreater(held, 5)


if __name__ == "__main__":
    unittest.main()
