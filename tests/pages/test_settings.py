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


if __name__ == "__main__":
    unittest.main()
