"""What the page sends of a changed setting: the core makes of it the very patch that is shown."""

import random
import unittest

from inner_tone.core.patch.edit import made
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import SetValue
from tests.support.edits import patch_of
from tests.support.pages import in_pages

CASES = 400
Change = tuple[str, str, float]


def changes_to(patch: Patch, dice: random.Random) -> list[Change]:
    """Return some settings of some modules, each to another value, the same one more than once now and then."""
    rulers = [(one.id, name, ruler) for one in patch.modules for name, ruler in one.declaration.rulers.items()]
    chosen = [dice.choice(rulers) for _ in range(dice.randrange(1, 6))]
    return [(module, name, round(dice.uniform(ruler.low, ruler.high), 4)) for module, name, ruler in chosen]


class SettingsTest(unittest.TestCase):
    def test_what_is_sent_makes_what_is_shown(self) -> None:
        dice = random.Random(12)
        patches = [patch_of(dice.randrange(4, 20), seed) for seed in range(CASES)]
        cases = [(patch.to_json(), changes_to(patch, dice)) for patch in patches]
        for patch, (_, changes), seen in zip(patches, cases, in_pages("setTo", cases), strict=True):
            edits = [SetValue.model_validate(one) for one in seen["sent"]]
            self.assertEqual(made(patch, edits).patch, Patch.model_validate(seen["after"]))
            self.assertLessEqual(len(edits), len({change[:2] for change in changes}), "each setting at most once")
            self.assertIsNone(seen["more"], "a change of wiring is no setting")

    def test_what_was_made_of_the_same_is_told_apart_by_what_was_set(self) -> None:
        dice, whole = random.Random(13), 0
        cases = []
        for seed in range(CASES):
            patch = patch_of(dice.randrange(4, 20), seed)
            one, other = changes_to(patch, dice), changes_to(patch, dice)
            again = [change for change in (*one, *other) if dice.random() < 0.9]
            shared = [(module, name, -value) for module, name, value in again]
            cases.append((patch.to_json(), shared, one, other))
        for (_, _, one, other), seen in zip(cases, in_pages("setApart", cases), strict=True):
            known, shown = (Patch.model_validate(seen[name]) for name in ("known", "shown"))
            there = {(module.id, name) for module in shown.modules for name in module.settings}
            if seen["sent"] is None:
                whole += 1
                self.assertFalse({change[:2] for change in (*one, *other)} <= there, "it was never set before")
                continue
            edits = [SetValue.model_validate(one) for one in seen["sent"]]
            self.assertEqual(made(known, edits).patch, shown)
            self.assertLessEqual({(edit.module, edit.setting) for edit in edits}, {c[:2] for c in (*one, *other)})
        self.assertLess(whole, CASES // 2)

    def test_settings_alone_are_sent_while_the_server_still_answers(self) -> None:
        dice = random.Random(14)
        cases = []
        for seed in range(40):
            patch = patch_of(dice.randrange(4, 20), seed)
            cases.append((patch.to_json(), changes_to(patch, dice)))
        for (start, changes), sent in zip(cases, in_pages("setOneByOne", cases), strict=True):
            there = Patch.model_validate(start)
            self.assertEqual(len(sent), len(changes))
            for one in sent:
                self.assertIsNotNone(one["settings"], "the whole patch was sent")
                there = made(there, [SetValue.model_validate(edit) for edit in one["settings"]]).patch
                self.assertEqual(there, Patch.model_validate(one["patch"]))


if __name__ == "__main__":
    unittest.main()
