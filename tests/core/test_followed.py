"""Instructions are complete: whoever follows their words alone comes to the patch of the step."""

import os
import random
import unittest
from collections.abc import Sequence

from inner_tone.core.message import words
from inner_tone.core.patch.difference import difference
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.instructions import Instruction, moved_by, value_text
from inner_tone.core.patch.model import Connection, Patch
from inner_tone.core.patch.moves import ChangeLine, Edit, Ends, RenameModule, SetValue
from tests.support.edits import patch_of, random_edits, tried
from tests.support.follower import Follower

CHANGES = int(os.environ.get("RANDOM_CHANGES", "300"))
DEPTHS = (0.5, 1.0, -2.0, 12.0, 40.0, 0.0)


def named(patch: Patch) -> Patch:
    """Return a patch in which no two modules are called the same, and no section like another."""
    seen: set[str] = set()
    for module in patch.modules:
        if module.title in seen:
            patch = tried(patch, [RenameModule(module=module.id, label=f"{module.title} of {module.id}")])
        seen.add(patch.by_id[module.id].title)
    labels = [one.label for one in patch.sections]
    return patch if len(set(labels)) == len(labels) else patch.model_copy(update={"sections": ()})


def changed(patch: Patch, dice: random.Random) -> Patch:
    """Return a patch after some moves of any kind, lines of odd depths and switches among them."""
    for _ in range(dice.randrange(1, 6)):
        edits: list[Edit] = random_edits(patch, dice, 24)
        if patch.connections and dice.random() < 0.4:
            line = Ends.of(dice.choice(patch.connections))
            edits = [ChangeLine(line=line, depth=dice.choice(DEPTHS), off=dice.random() < 0.3)]
        elif dice.random() < 0.3:
            module = dice.choice(patch.modules)
            rulers = [name for name in module.declaration.rulers if name in module.all_settings]
            if rulers:
                ruler = module.declaration.rulers[name := dice.choice(rulers)]
                low, high = max(ruler.low, -1e3), min(ruler.high, 1e4)
                edits = [SetValue(module=module.id, setting=name, value=round(dice.uniform(low, high), 2))]
        patch = tried(patch, edits)
    return named(patch)


def shown(patch: Patch) -> dict[str, object]:
    """Return a patch as it can be read: names, values as they are written, lines from name to name."""
    graph = Graph(patch)

    def port(at: object) -> str:
        name = str(at)
        return f"{patch.by_id[name.partition('.')[0]].title}.{name.partition('.')[2]}"

    def line(one: Connection) -> tuple[object, ...]:
        scale = port(one.scaled_by) if one.scaled_by else ""
        return words(moved_by(graph.input(one.target), one.depth)), scale, bool(one.off)

    return {
        "modules": {
            one.title: (one.type, {name: value_text(one, name, value) for name, value in one.all_settings.items()})
            for one in patch.modules
        },
        "lines": {(port(one.source), port(one.target)): line(one) for one in patch.connections},
        "sections": {one.label: sorted(patch.by_id[name].title for name in one.modules) for one in patch.sections},
        "voices": patch.voices,
    }


class FollowedTest(unittest.TestCase):
    maxDiff = None

    def assert_followed(self, before: Patch, after: Patch, said: Sequence[Instruction], voice: str) -> None:
        reader = Follower(before, voice)
        for one in said:
            reader.follow(one)
        self.assertEqual(shown(reader.patch), shown(after), "\n".join(one.text for one in said))

    def test_what_is_said_is_all_that_is_to_be_done(self) -> None:
        for seed in range(CHANGES):
            dice = random.Random(seed)
            before = named(patch_of(4 + seed % 12, seed))
            after = changed(before, dice)
            said = difference(before, after)
            for voice in ("plain", "brief"):
                with self.subTest(seed=seed, voice=voice):
                    self.assert_followed(before, after, said, voice)


if __name__ == "__main__":
    unittest.main()
