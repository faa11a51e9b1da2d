"""Wiring: what is the same however it is built, and what remains to be done where it is not."""

import random
import unittest
from collections import Counter
from typing import Any

import numpy as np

from inner_tone.core.engine.render import render
from inner_tone.core.lesson.wording import followed
from inner_tone.core.modules import CATALOGUE
from inner_tone.core.patch.difference import difference
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.match import match
from inner_tone.core.patch.model import Connection, Module, Patch
from inner_tone.core.patch.moves import SetValue
from inner_tone.core.patch.plain import plain, written
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.validate import checked_patch, read_patch
from inner_tone.core.phrase import Note, Phrase
from tests.support import alike
from tests.support.alike import changed, renamed, rewritten
from tests.support.voices import random_voice
from tests.support.woven import line_of, rewoven, sums_of, with_lines, woven

PHRASE = Phrase(tempo=240, beats=2, notes=(Note(start=0, length=1, pitch=50),))
COUNT = 40  # five hundred of each are tried by benchmarks.follow
WOVEN = 120  # a thousand are tried by benchmarks.follow
SEED = 20


def patch_of(modules: list[tuple[str, str, dict[str, Any]]], *lines: tuple[Any, ...]) -> Patch:
    """Return a patch from its modules and its lines: from, to, and a depth if it is another than 1."""
    found = tuple(Module.model_validate({"id": name, "type": kind, "settings": each}) for name, kind, each in modules)
    return checked_patch(Patch(modules=found, connections=joined(*lines)))


def joined(*lines: tuple[Any, ...]) -> tuple[Connection, ...]:
    """Return lines, each from, to, and a depth if it is another than 1, as connections."""
    return tuple(
        Connection.model_validate({"from": source, "to": target, "depth": rest[0] if rest else 1.0})
        for source, target, *rest in lines
    )


REED = ("reed", "oscillator", {"wave": "saw"})
BELL = ("bell", "filter", {"cutoff": 700})
Part = tuple[str, str, dict[str, Any]]
PLAYER: Part = ("player", "player", {})
OUT: Part = ("out", "output", {})
TARGET = patch_of(
    [PLAYER, REED, BELL, OUT],
    ("player.pitch", "reed.pitch"),
    ("reed.out", "bell.in"),
    ("bell.out", "out.left"),
    ("bell.out", "out.right"),
)
LINES = [(line.source, line.target) for line in TARGET.connections]


class PlainTest(unittest.TestCase):
    def test_settings_written_one_way_sound_the_same(self) -> None:
        """Whatever `written` takes as one sounds as one: an octave as twelve semitones, stages that are left out."""
        dice = random.Random(SEED)
        for kind in ("oscillator", "envelope", "lfo", "delay", "lever"):
            for _ in range(6):
                module, other = self.pair(kind, dice)
                sounds = [render(self.heard(one), PHRASE).left for one in (module, other)]
                np.testing.assert_allclose(sounds[0], sounds[1], atol=2e-4, err_msg=f"{module} {other}")

    def pair(self, kind: str, dice: random.Random) -> tuple[Module, Module]:
        """Return two modules whose settings, by chance, are the same when they are written one way."""
        declared = CATALOGUE[kind]
        choices = {name: dice.choice(one.options) for name, one in declared.choices.items()}
        module = Module(id="it", type=kind, settings=choices)
        goal = written(module, dict(module.all_settings))
        settings = dict(module.all_settings)
        for name, ruler in declared.rulers.items():
            tried = settings | {name: round(dice.uniform(ruler.low, ruler.high), 2)}
            if name not in ("seed", "default") and written(module, tried) == goal:
                settings = tried
        if kind == "oscillator":
            settings |= {"octave": 1, "semitone": -12}
        self.assertEqual(written(module, settings), goal)
        return module, module.model_copy(update={"settings": settings})

    def heard(self, module: Module) -> Patch:
        """Return a patch in which a module is heard, or steers what is."""
        lines: list[tuple[Any, ...]] = [("player.pitch", "reed.pitch"), ("reed.out", "amp.in"), ("amp.out", "out.left")]
        modules = [PLAYER, REED, OUT, ("amp", "amplifier", {"level": 0.5})]
        base = patch_of(modules, *lines)
        if module.type == "envelope":
            lines += [("player.gate", "it.gate"), ("it.out", "amp.level")]
        elif module.type in ("oscillator", "delay"):
            lines += [("player.pitch", "it.pitch")] if module.type == "oscillator" else [("reed.out", "it.in")]
            lines += [("it.out" if module.type == "oscillator" else "it.left", "out.left", 0.3)]
        else:
            lines += [("it.out", "amp.level", 0.1)]
        whole = base.model_copy(update={"modules": (*base.modules, module)})
        return whole.model_copy(update={"connections": joined(*lines)})

    def test_what_is_worked_into_lines_sounds_the_same(self) -> None:
        """Every rewriting that is taken as the same sounds the same: but for noise that begins elsewhere."""
        dice = random.Random(SEED)
        for rewriting in alike.REWRITINGS:
            if rewriting is alike.other_seed:
                continue
            for _ in range(4):
                patch = random_voice(dice, 8)
                other = rewriting(patch, dice)
                sounds = [render(one, PHRASE).left for one in (patch, other)]
                peak = float(np.max(np.abs(sounds[0]))) or 1.0
                count = min(map(len, sounds))
                np.testing.assert_allclose(
                    sounds[0][:count], sounds[1][:count], atol=1e-3 * peak, err_msg=rewriting.__name__
                )

    def test_scale_is_a_depth_and_its_offset_a_base(self) -> None:
        through = patch_of(
            [PLAYER, REED, BELL, OUT, ("lfo", "lfo", {}), ("scale", "scale", {"gain": 6, "offset": 12})],
            *LINES,
            ("lfo.out", "scale.in"),
            ("scale.out", "bell.cutoff"),
        )
        direct = patch_of(
            [PLAYER, REED, ("bell", "filter", {"cutoff": 1400}), OUT, ("lfo", "lfo", {})],
            *LINES,
            ("lfo.out", "bell.cutoff", 6.0),
        )
        self.assertTrue(match(through, direct).same)
        self.assertEqual(plain(through).dissolved, {"scale"})

    def test_amplifier_at_zero_is_something(self) -> None:
        shut = made_in(TARGET, ("amp", "amplifier", {}), "bell.out", "amp")
        self.assertFalse(match(TARGET, shut).same)
        self.assertFalse(match(shut, TARGET).same)


def made_in(patch: Patch, module: tuple[str, str, dict[str, Any]], source: str, name: str) -> Patch:
    """Return a patch with a module behind an output."""
    new = Module(id=module[0], type=module[1], settings=module[2])
    lines = [
        line.model_copy(update={"source": Port.of(name, "out")}) if line.source == source else line
        for line in patch.connections
    ]
    into = Connection(source=Port(source), target=Port.of(name, "in"))
    return patch.model_copy(update={"modules": (*patch.modules, new), "connections": (*lines, into)})


class MatchTest(unittest.TestCase):
    def test_rewritten_patches_are_the_same(self) -> None:
        dice = random.Random(SEED)
        for number in range(COUNT):
            patch = random_voice(dice, dice.randint(5, 40))
            other = rewritten(patch, dice)
            found = match(other.patch, patch)
            self.assertTrue(found.same, (number, [one.text for one in found.remaining]))

    def test_real_changes_are_found_and_what_remains_leads_to_the_target(self) -> None:
        dice = random.Random(SEED + 1)
        for number in range(COUNT):
            patch = random_voice(dice, dice.randint(5, 30))
            change = changed(patch, dice)
            mine = rewritten(change.patch, dice).patch
            found = match(mine, patch)
            self.assertFalse(found.same, (number, change.kind, change.module, change.setting))
            done = followed(mine, found.remaining)
            self.assertTrue(match(done, patch).same, (number, change.kind, [one.text for one in found.remaining]))

    def test_nothing_remains_exactly_when_what_is_computed_is_the_same(self) -> None:
        """Whatever lines run between the same modules: what remains is nothing, or leads to the target."""
        dice = random.Random(SEED)
        kinds: Counter[bool] = Counter()
        for number in range(WOVEN):
            target = woven(dice)
            patch = target
            for _ in range(dice.randint(1, 4)):
                patch = rewoven(patch, dice)
            truth = sums_of(patch) == sums_of(target)
            kinds[truth] += 1
            mine = renamed(patch, dice).patch
            found = match(mine, target)
            said = [one.text for one in found.remaining]
            self.assertEqual((found.same, not said), (truth, truth), (number, said))
            self.assertTrue(match(followed(mine, found.remaining), target).same, (number, said))
        self.assertGreater(min(kinds.values()), WOVEN // 20, "cases of both kinds")

    def test_line_scaled_by_another_is_not_the_two_lines_that_it_takes_after(self) -> None:
        """What opens the amplifier, and what trembles in the same measure: the second alone is not both."""
        target = woven(random.Random(SEED))
        rest = [line for line in target.connections if line.target != "loud.level"]
        both = with_lines(
            target,
            [*rest, line_of("push.out", "loud.level"), line_of("depth.out", "loud.level", 0.6, "push.out")],
        )
        mine = with_lines(target, [*rest, line_of("push.out", "loud.level", 0.6, "depth.out")])
        found = match(mine, both)
        self.assertFalse(found.same)
        self.assertTrue(found.remaining)
        self.assertTrue(match(followed(mine, found.remaining), both).same)
        shown = found.shown(difference(with_lines(target, rest), both))
        self.assertFalse(all(shown))

    def test_what_differs_by_less_than_counts_is_the_same_and_nothing_remains(self) -> None:
        cutoffs = (700.0, 700.004, 700.2)
        patches = [made(TARGET, [set_value("bell", "cutoff", cutoff)]).patch for cutoff in cutoffs]
        for mine, truth in zip(patches, (True, True, False), strict=True):
            found = match(mine, patches[0])
            self.assertEqual((found.same, not found.remaining), (truth, truth), mine.by_id["bell"].settings)

    def test_remaining_is_said_in_own_names(self) -> None:
        mine = read_patch(
            {
                "format": "inner-tone/patch",
                "version": 1,
                "modules": [
                    {"id": "p", "type": "player"},
                    {"id": "a", "type": "oscillator", "label": "Kazoo", "settings": {"wave": "square"}},
                    {"id": "b", "type": "filter", "label": "Tube", "settings": {"cutoff": 900}},
                    {"id": "o", "type": "output"},
                ],
                "connections": [
                    {"from": "p.pitch", "to": "a.pitch"},
                    {"from": "a.out", "to": "b.in"},
                    {"from": "b.out", "to": "o.left"},
                    {"from": "b.out", "to": "o.right"},
                ],
            }
        )
        found = match(mine, TARGET)
        self.assertEqual(found.names, {"player": "p", "reed": "a", "bell": "b", "out": "o"})
        self.assertEqual(
            {one.text for one in found.remaining},
            {"Swap the wave of Kazoo from square to saw.", "Set Tube’s cutoff to 700 Hz."},
        )

    def test_octaves_are_told_as_the_step_sets_them(self) -> None:
        low = made(TARGET, [set_value("reed", "octave", -2)]).patch
        half = made(TARGET, [set_value("reed", "semitone", -12)]).patch
        down = made(TARGET, [set_value("reed", "semitone", -24)]).patch
        self.assertTrue(match(down, low).same)
        self.assertIn("octave", match(half, low).remaining[0].text)

    def test_own_mixer_stays_and_only_what_differs_is_said(self) -> None:
        two = made_two()
        mine = patch_of(
            [PLAYER, REED, ("fifth", "oscillator", {"semitone": 7}), BELL, OUT, ("sum", "mixer", {"level2": 0.5})],
            ("player.pitch", "reed.pitch"),
            ("player.pitch", "fifth.pitch"),
            ("reed.out", "sum.in1"),
            ("fifth.out", "sum.in2"),
            ("sum.out", "bell.in"),
            ("bell.out", "out.left"),
            ("bell.out", "out.right"),
        )
        self.assertTrue(match(mine, two).same)
        found = match(made(mine, [set_value("bell", "cutoff", 300)]).patch, two)
        self.assertEqual([one.text for one in found.remaining], ["Set Filter’s cutoff to 700 Hz."])

    def test_instructions_are_ticked_in_any_order_and_under_any_names(self) -> None:
        start = patch_of([PLAYER, OUT])
        said = difference(start, TARGET)
        self.assertEqual(match(start, TARGET, start).shown(said), [False] * len(said))
        half = patch_of(
            [("player", "player", {}), ("xyz", "oscillator", {"wave": "saw"}), ("out", "output", {})],
            ("player.pitch", "xyz.pitch"),
        )
        shown = match(half, TARGET, start).shown(said)
        texts = [one.text for one, done in zip(said, shown, strict=True) if done]
        self.assertTrue(any("Add an Oscillator" in text for text in texts), texts)
        self.assertTrue(any("follow the pitch" in text for text in texts), texts)
        self.assertFalse(all(shown))
        self.assertEqual(
            match(rewritten(TARGET, random.Random(1)).patch, TARGET, start).shown(said), [True] * len(said)
        )

    def test_step_that_changes_no_sound_is_done_by_how_it_is_built(self) -> None:
        loose = patch_of([PLAYER, REED, BELL, OUT, ("spare", "lfo", {})], *LINES)
        self.assertTrue(match(TARGET, loose).same, "nothing depends on it")
        self.assertFalse(match(TARGET, loose, TARGET).same, "but the step is about it")
        self.assertTrue(match(loose, loose, TARGET).same)

    def test_step_that_takes_out_what_nothing_depends_on_is_done_once_it_is_gone(self) -> None:
        loose = patch_of([PLAYER, REED, BELL, OUT, ("spare", "lfo", {})], *LINES)
        self.assertEqual([one.text for one in match(loose, TARGET, loose).remaining], ["Remove LFO."])
        self.assertTrue(match(TARGET, TARGET, loose).same)

    def test_wrong_turn_is_told_to_be_taken_back(self) -> None:
        wrong = made_in(TARGET, ("echo", "comb", {}), "bell.out", "echo")
        texts = [one.text for one in match(wrong, TARGET).remaining]
        self.assertIn("Remove Comb.", texts)
        self.assertTrue(match(followed(wrong, match(wrong, TARGET).remaining), TARGET).same)


def made_two() -> Patch:
    """Return the target with a second oscillator that adds up at the filter."""
    return patch_of(
        [PLAYER, REED, ("fifth", "oscillator", {"semitone": 7}), BELL, OUT],
        ("player.pitch", "reed.pitch"),
        ("player.pitch", "fifth.pitch"),
        ("reed.out", "bell.in"),
        ("fifth.out", "bell.in", 0.5),
        ("bell.out", "out.left"),
        ("bell.out", "out.right"),
    )


def set_value(module: str, setting: str, value: float) -> SetValue:
    """Return the edit that sets a value."""
    return SetValue(module=module, setting=setting, value=value)


if __name__ == "__main__":
    unittest.main()
