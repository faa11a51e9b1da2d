"""The map: tidy at every moment, whatever is built, and going back gives what was there."""

import json
import random
import unittest

from selenium.webdriver.common.keys import Keys

from inner_tone.core.patch.edit import edited
from inner_tone.core.patch.moves import RemoveModules
from tests.support.bench import BenchTest
from tests.support.edits import harbour, patch_of
from tests.support.patches import Line, module, patch, phrase


class MapTest(BenchTest):
    def test_every_step_of_the_demo_is_tidy(self) -> None:
        for place in range(1, 6):
            self.open_step(place)
            self.assertEqual(self.crossings(3), [], f"step {place}")

    def test_large_patches_are_tidy(self) -> None:
        voice = [
            module("player", "player"),
            module("glide", "slew"),
            module("saw", "oscillator"),
            module("pulse", "oscillator", wave="square"),
            module("wind", "noise"),
            module("mix", "mixer"),
            module("filter", "filter"),
            module("amp", "amplifier"),
            module("pan", "pan"),
            module("vibrato", "lfo"),
            module("slow", "lfo", rate=0.2),
            module("loud", "envelope"),
            module("bright", "envelope"),
            module("out", "output"),
        ]
        lines: list[Line] = [
            ("player.pitch", "glide.in"),
            ("glide.out", "saw.pitch"),
            ("glide.out", "pulse.pitch"),
            ("vibrato.out", "saw.pitch", 0.3, "player.wheel"),
            ("vibrato.out", "pulse.pitch", 0.3, "player.wheel"),
            ("slow.out", "vibrato.rate", 1),
            ("slow.out", "pulse.width", 0.3),
            ("slow.out", "pan.position", 0.6),
            ("saw.out", "mix.in1"),
            ("pulse.out", "mix.in2"),
            ("wind.out", "mix.in3", 0.2),
            ("mix.out", "filter.in"),
            ("filter.out", "amp.in"),
            ("amp.out", "pan.in"),
            ("pan.left", "out.left"),
            ("pan.right", "out.right"),
            ("player.gate", "loud.gate"),
            ("player.gate", "bright.gate"),
            ("loud.out", "amp.level"),
            ("bright.out", "filter.cutoff", 36),
            ("pulse.out", "saw.phase", 0.5),
            ("filter.band", "filter.in", 0.1),
        ]
        self.begin(patch(voice, lines))
        self.assertEqual(self.crossings(14), [])

    def test_whatever_is_built_is_tidy_at_15_and_40_modules(self) -> None:
        for count, seed in ((15, 2), (40, 3)):
            self.begin(patch_of(count, seed), phrase=phrase(beats=0.1))
            closed = sum(len(one["modules"]) - 1 for one in self.patch()["sections"] if not one["open"])
            self.assertEqual(self.crossings(count - closed), [], f"{count} modules, seed {seed}")
        self.begin(harbour(), phrase=phrase(beats=0.1))
        self.assertEqual(self.crossings(40), [])


# one edit by its key, on a card that is chosen first; done when it can be taken back, or when all
# that is worked out is done and nothing came of it
EDIT = """
  const [place, key, ctrlKey, shiftKey, fragment, done] = arguments;
  const cards = [...document.querySelectorAll('[data-card]')];
  if (cards.length) cards[place % cards.length].dispatchEvent(new MouseEvent('click', {bubbles: true}));
  if (fragment) localStorage.setItem('inner-tone/copied', fragment);
  const steps = () => Number(document.querySelector('[data-steps]').dataset.steps);
  const before = steps();
  const start = performance.now();
  const look = () => {
    const changed = steps() !== before;
    const idle = performance.now() - start > 400 && document.querySelector('[data-behind=false]');
    if (changed || idle) done([steps(), document.querySelectorAll('[data-card]').length]);
    else requestAnimationFrame(look);
  };
  requestAnimationFrame(() => {
    document.body.dispatchEvent(new KeyboardEvent('keydown', {key, ctrlKey, shiftKey, bubbles: true}));
    look();
  });
"""
NONE, CONTROL, SHIFT = (False, False), (True, False), (False, True)
KEYS = (("d", NONE), ("D", SHIFT), ("o", NONE), ("G", SHIFT), ("Delete", NONE), ("Delete", NONE), ("Delete", SHIFT))


class RandomEditsTest(BenchTest):
    """Forty edits by somebody who tries everything."""

    EDITS = 40
    MOST = 24

    def steps(self) -> int:
        """Return how many changes can be taken back."""
        return int(str(self.button("Undo").get_attribute("data-steps")))

    def edit(self, dice: random.Random, cards: int) -> tuple[int, int]:
        """Make a random edit; returns how many there have been, and how many cards there are."""
        key, held = dice.choice(KEYS)
        text = None
        if cards < 4 or (cards < self.MOST and dice.random() < 0.35):
            key, held = "v", CONTROL
            text = json.dumps(patch_of(dice.randrange(3, 7), dice.randrange(1000)).to_json())
        elif key.lower() == "d" and cards >= self.MOST:
            key, held = "Delete", NONE
        steps, count = self.driver.execute_async_script(EDIT, dice.randrange(1000), key, *held, text)
        return int(steps), int(count)

    def test_all_edits_are_undone_and_redone_to_the_same_patch(self) -> None:
        # without an output nothing goes on to sound, so that no time is spent on listening
        start = edited(patch_of(6, 1), [RemoveModules(modules=("output",))]).patch
        self.begin(start, phrase=phrase(beats=0.1))
        first = self.patch()
        dice = random.Random(7)
        steps, cards, looked_at, largest = 0, len(start.modules), 0, 0
        while steps < self.EDITS:
            steps, cards = self.edit(dice, cards)
            largest = max(largest, cards)
            if steps >= looked_at + 20:
                looked_at = steps
                self.assertEqual(self.crossings(1), [], f"after {looked_at} edits")
        self.assertGreaterEqual(largest, 20)
        last = self.patch()
        self.assertNotEqual(last, first)
        self.press(Keys.CONTROL, "z" * steps)
        self.wait(lambda: self.steps() == 0, "all undone", 90)
        self.assertEqual(self.patch(), first)
        self.press(Keys.CONTROL, "y" * steps)
        self.wait(lambda: self.steps() == steps, "all redone", 90)
        self.assertEqual(self.patch(), last)


if __name__ == "__main__":
    unittest.main()
