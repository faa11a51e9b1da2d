"""The map's layout, of hundreds of patches near and from afar: tidy, and the same whatever the settings are."""

import itertools
import random
import unittest
from typing import Any

from inner_tone.api.catalogue import list_module_types
from inner_tone.core.errors import InnerToneError
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.model import Connection, Module, Patch
from inner_tone.core.patch.moves import RenameModule, SetValue
from inner_tone.core.patch.port import Port
from tests.support.edits import harbour, patch_of, random_edits
from tests.support.pages import in_pages

TYPES = [one.model_dump(mode="json", by_alias=True) for one in list_module_types()]
PIXEL = 1.0
EDITS = 300
MOST = 24
LETTER = 8.0  # pixels: as wide as the widest

Box = tuple[float, float, float, float]
Drawing = dict[str, Any]


def maps_of(patches: list[Patch]) -> list[dict[str, Any]]:
    """Return the layout key and both drawings of each patch."""
    return in_pages("mapOf", [[patch.to_json(), TYPES] for patch in patches])


def boxes(drawing: Drawing) -> dict[str, Box]:
    """Return the left, right, upper and lower edge of every card, by its id."""
    size = drawing["card"]
    return {
        one["id"]: (one["x"], one["x"] + size["width"], one["y"], one["y"] + size["height"]) for one in drawing["cards"]
    }


def overlap(one: Box, other: Box) -> bool:
    """Tell whether two boxes share more than a pixel's edge."""
    across = one[0] + PIXEL < other[1] and other[0] + PIXEL < one[1]
    return across and one[2] + PIXEL < other[3] and other[2] + PIXEL < one[3]


def untidy(drawing: Drawing) -> list[str]:
    """Return what lies on each other: cards, cards and stretches of lines, or what is not inside the drawing."""
    cards = boxes(drawing)
    found = [f"{one} overlaps {two}" for one in cards for two in cards if one < two and overlap(cards[one], cards[two])]
    for line in drawing["lines"]:
        points = [(point["x"], point["y"]) for point in line["points"]]
        for (x0, y0), (x1, y1) in itertools.pairwise(points):
            if x0 != x1 and y0 != y1:
                found.append(f"{line['key']} runs aslant")
            stretch = (min(x0, x1) - PIXEL, max(x0, x1) + PIXEL, min(y0, y1) - PIXEL, max(y0, y1) + PIXEL)
            found += [f"{line['key']} through {name}" for name, box in cards.items() if overlap(stretch, shrunk(box))]
    found += misplaced(drawing, cards)
    right, bottom = (
        max((box[1] for box in cards.values()), default=0),
        max((box[3] for box in cards.values()), default=0),
    )
    if right > drawing["width"] or bottom > drawing["height"]:
        found.append("cards outside of the drawing")
    return found


def misplaced(drawing: Drawing, cards: dict[str, Box]) -> list[str]:
    """Return the texts beside lines that lie on a card or on each other, or leave the drawing; letters as wide ones."""
    texts = [(one["text"], label_box(one)) for one in drawing["labels"]]
    found = [f"“{text}” on {name}" for text, box in texts for name, card in cards.items() if overlap(box, card)]
    found += [f"“{one}” on “{two}”" for (one, a), (two, b) in itertools.combinations(texts, 2) if overlap(a, b)]
    width, height = drawing["width"], drawing["height"]
    return (
        found
        + [f"“{text}” leaves" for text, box in texts if not (box[0] >= 0 and box[1] <= width)]
        + [f"“{text}” leaves" for text, box in texts if not (box[2] >= 0 and box[3] <= height)]
    )


def label_box(label: dict[str, Any]) -> Box:
    """Return the edges of a text beside a line; its y is that of the line on which it is written."""
    return label["x"], label["x"] + LETTER * len(label["text"]), label["y"] - 9.0, label["y"] + 3.0


def shrunk(box: Box) -> Box:
    """Return the inside of a card: lines end at its edge."""
    return box[0] + 2 * PIXEL, box[1] - 2 * PIXEL, box[2] + 2 * PIXEL, box[3] - 2 * PIXEL


def edited_at_random(seed: int) -> list[Patch]:
    """Return what hundreds of random edits have made of a patch, one after the other."""
    dice = random.Random(seed)
    patch = patch_of(6, seed)
    found: list[Patch] = []
    while len(found) < EDITS:
        try:
            patch = made(patch, random_edits(patch, dice, MOST)).patch
        except InnerToneError:
            continue
        found.append(patch)
    return found


class TidyTest(unittest.TestCase):
    def assert_tidy(self, patches: list[Patch]) -> None:
        """Check that all cards are there and nothing lies on anything, near and from afar."""
        for patch, seen in zip(patches, maps_of(patches), strict=True):
            closed = sum(len(one.modules) - 1 for one in patch.sections if not one.open)
            for drawing in seen["drawings"]:
                self.assertEqual(untidy(drawing), [], patch.to_json())
                self.assertEqual(len(drawing["cards"]), len(patch.modules) - closed)

    def test_patches_of_every_size(self) -> None:
        self.assert_tidy([patch_of(count, seed) for count in (2, 5, 9, 15, 24, 40) for seed in range(25)])
        self.assert_tidy([harbour()])

    def test_all_that_random_edits_make(self) -> None:
        patches = edited_at_random(7)
        self.assertGreaterEqual(max(len(patch.modules) for patch in patches), 20)
        self.assert_tidy(patches)


class RoomTest(unittest.TestCase):
    def test_twenty_four_modules_have_pictures_where_the_lenses_are_folded_down(self) -> None:
        """The map's room at 1280 × 800, beside text and rulers."""
        folded = {"width": 632, "height": 646}
        for count in (16, 20, 24, 28):
            (found,) = in_pages("mapOf", [[harbour(count).to_json(), TYPES, folded]])
            self.assertEqual(found["drawings"][0]["detail"], "pictures", count)


class HabitTest(unittest.TestCase):
    """Cards stay where they are as far as they can."""

    def test_what_is_added_to_steer_moves_few_others(self) -> None:
        kept = found = 0
        for count in range(8, 38, 3):
            patch = harbour(count)
            sound = next(one.id for one in patch.modules if one.type == "filter")
            lines = (*patch.connections, Connection(source=Port("drift.out"), target=Port(f"{sound}.cutoff"), depth=5))
            drift = Module(id="drift", type="lfo", label="Drift")
            more = patch.model_copy(update={"modules": (*patch.modules, drift), "connections": lines})
            (before, after) = in_pages("mapAfter", [[[patch.to_json(), more.to_json()], TYPES]])[0]
            self.assertIn("drift", after)
            kept += sum(before[one] == after[one] for one in before)
            found += len(before)
        self.assertGreater(kept / found, 0.75)

    def test_a_name_moves_nothing(self) -> None:
        for count in (8, 16, 24, 40):
            patch = harbour(count)
            renamed = made(patch, [RenameModule(module=patch.modules[-1].id, label="Bell")]).patch
            (before, after) = in_pages("mapAfter", [[[patch.to_json(), renamed.to_json()], TYPES]])[0]
            self.assertEqual(before, after)


class SettingsTest(unittest.TestCase):
    def test_settings_move_nothing_and_wiring_and_names_do(self) -> None:
        patches = [patch_of(count, seed) for count in (5, 15, 40) for seed in range(10)]
        changed, renamed, unplugged = [], [], []
        for patch in patches:
            module = next(one for one in patch.modules if one.declaration.rulers)
            name, ruler = next(iter(module.declaration.rulers.items()))
            value = ruler.high if module.all_settings[name] != ruler.high else ruler.low
            changed.append(made(patch, [SetValue(module=module.id, setting=name, value=value)]).patch)
            other = module.model_copy(update={"label": "Long Harbour Wall"})
            modules = tuple(other if one is module else one for one in patch.modules)
            renamed.append(patch.model_copy(update={"modules": modules}))
            unplugged.append(patch.model_copy(update={"connections": patch.connections[1:]}))
        groups = [maps_of(one) for one in (patches, changed, renamed, unplugged)]
        for before, settings, names in zip(*groups[:3], strict=True):
            self.assertEqual(before, settings)
            self.assertNotEqual(before["key"], names["key"])
        wired = [
            (one["key"], other["key"])
            for one, other, patch in zip(groups[0], groups[3], patches, strict=True)
            if patch.connections
        ]
        self.assertGreater(len(wired), 20)
        self.assertTrue(all(one != other for one, other in wired))


if __name__ == "__main__":
    unittest.main()
