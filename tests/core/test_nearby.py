"""Doing a step at one's own bench: what is ticked, when it is near, when it is done, and what helps on."""

import random
import unittest
from functools import lru_cache

import numpy as np

from inner_tone.core.analysis.compare import Target
from inner_tone.core.lesson.aim import Aim
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.nearby import Nearness, Task, answer, nearness
from inner_tone.core.lesson.step import begins_with, told
from inner_tone.core.lesson.wording import followed
from inner_tone.core.nearness import target_for
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.match import match
from inner_tone.core.patch.model import Module, Patch
from inner_tone.core.patch.moves import AddModule, Edit, RemoveModules, SetValue
from inner_tone.core.phrase import Phrase
from inner_tone.demo import bell, fog, foghorn
from inner_tone.demo.course.build import course
from tests.support.alike import renamed, rewritten

SEED = 4
LESSONS = (foghorn.LESSON, bell.LESSON, fog.LESSON.model_copy(update={"start": foghorn.DISTANT}))


def task_at(document: LessonDocument, place: int) -> Task:
    step = document.steps[place]
    start = document.steps[place - 1].patch if place else begins_with(document.start, step.patch)
    return Task(start, step.patch, step.phrase, told(document.steps, document.start)[place].instructions, step.aim)


def near(task: Task, mine: Patch) -> Nearness:
    return nearness(task, mine, sound_of(task.goal.model_dump_json(), task.phrase.model_dump_json()))


@lru_cache
def sound_of(patch: str, phrase: str) -> Target:
    return target_for(Patch.model_validate_json(patch), Phrase.model_validate_json(phrase))


def told_types(patch: Patch) -> set[str]:
    return {module.type for module in patch.modules}


def set_value(module: str, setting: str, value: float | str) -> Edit:
    return SetValue(module=module, setting=setting, value=value)


class DemoTest(unittest.TestCase):
    """Every step of every lesson of the demo can be done as it says, and in another way."""

    def test_following_the_instructions_leads_to_done(self) -> None:
        for document in LESSONS:
            for place in range(len(document.steps)):
                with self.subTest(lesson=document.title, step=place + 1):
                    task = task_at(document, place)
                    begun = near(task, task.start)
                    if task.said and any(one.kind not in ("play", "rename") for one in task.said):
                        self.assertFalse(begun.done, "nothing is done yet")
                        self.assertFalse(all(begun.shown))
                    mine = task.start
                    for number, one in enumerate(task.said, 1):
                        mine = made(mine, one.edits).patch
                        ticked = match(mine, task.goal, task.start).shown(task.said)
                        self.assertTrue(ticked[number - 1], f"{one.text} is done, and must be ticked")
                    found = near(task, mine)
                    self.assertTrue(found.done, str(answer(found)))
                    self.assertEqual((found.hints, all(found.shown)), ((), True))

    def test_levers_under_other_names_are_moved_as_those_of_the_step(self) -> None:
        """In the lesson about levers all that is built sounds as it should, whatever the levers are called."""
        dice = random.Random(SEED)
        document = course()["2-08-levers"].document
        moving = [place for place, step in enumerate(document.steps) if step.phrase.gestures]
        self.assertGreater(len(moving), 4)
        for place in moving:
            with self.subTest(step=place + 1):
                task = task_at(document, place)
                found = near(task, renamed(task.goal, dice).patch)
                self.assertTrue(found.sound.same, str(answer(found)))
                self.assertTrue(found.done, str(answer(found)))

    def test_building_it_otherwise_leads_to_done_too(self) -> None:
        dice = random.Random(SEED)
        for document in LESSONS:
            for place in range(len(document.steps)):
                with self.subTest(lesson=document.title, step=place + 1):
                    task = task_at(document, place)
                    found = near(task, rewritten(task.goal, dice).patch)
                    self.assertTrue(found.done, str(answer(found)))
                    self.assertTrue(all(found.shown), found.shown)


class NearTest(unittest.TestCase):
    def setUp(self) -> None:
        self.document = next(one for one in LESSONS if len(one.steps) >= 5)
        self.place = next(
            place
            for place, step in enumerate(self.document.steps)
            if any(module.type == "filter" for module in step.patch.modules)
        )
        self.task = task_at(self.document, self.place)

    def test_hints_lead_step_by_step_to_done(self) -> None:
        mine = self.task.start
        for _ in range(40):
            found = near(self.task, mine)
            if found.done:
                break
            first = found.hints[0]
            self.assertNotEqual(first.where, first.what, "a hint first says only where to look")
            mine = made(mine, first.edits).patch
        self.assertTrue(found.done, str(answer(found)))

    def test_all_hints_at_once_lead_to_the_same(self) -> None:
        found = near(self.task, self.task.start)
        self.assertTrue(near(self.task, followed(self.task.start, found.match.remaining)).done)

    def test_nothing_done_is_said_so(self) -> None:
        found = near(self.task, self.task.start)
        self.assertTrue(found.untouched)
        self.assertFalse(found.near)
        self.assertIn("Nothing is done yet", str(answer(found)))

    def test_a_little_off_is_near_and_says_in_what(self) -> None:
        bell = next(module for module in self.task.goal.modules if module.type == "filter")
        mine = made(self.task.goal, [set_value(bell.id, "cutoff", bell.number("cutoff") * 1.5)]).patch
        found = near(self.task, mine)
        self.assertFalse(found.done)
        self.assertIn(f"the cutoff of {bell.title}", str(found.hints[0].where))
        self.assertNotIn(
            str(round(bell.number("cutoff"))), str(found.hints[0].where), "the value is not given away at once"
        )
        self.assertTrue(found.clauses)

    def test_wrong_turn_is_asked_about_before_it_is_named(self) -> None:
        spare = made(self.task.goal, [AddModule(module=Module(id="spare", type="lfo"))]).patch
        line = self.task.goal.connections[-1].model_copy(
            update={"source": type(self.task.goal.connections[0].source)("spare.out")}
        )
        wrong = spare.model_copy(update={"connections": (*spare.connections[:-1], line)})
        found = near(self.task, wrong)
        self.assertFalse(found.done)
        self.assertTrue(any(word in str(one.where) for word in ("needed?", "belong", "waits") for one in found.hints))

    def test_aim_says_what_counts(self) -> None:
        bell = next(module for module in self.task.goal.modules if module.type == "filter")
        a_bit = made(self.task.goal, [set_value(bell.id, "cutoff", bell.number("cutoff") * 1.001)]).patch
        off = made(self.task.goal, [set_value(bell.id, "cutoff", bell.number("cutoff") * 1.2)]).patch

        def done(aim: Aim, mine: Patch) -> bool:
            task = Task(self.task.start, self.task.goal, self.task.phrase, self.task.said, aim)
            return near(task, mine).done

        self.assertTrue(done(Aim(by="sound"), a_bit), "it sounds the same")
        self.assertFalse(done(Aim(by="wiring"), a_bit), "but it is set otherwise")
        self.assertFalse(done(Aim(by="both"), a_bit))
        self.assertFalse(done(Aim(by="sound"), off))
        self.assertTrue(done(Aim(by="sound", tolerance=8), off), "the educator takes it as the same")
        self.assertTrue(done(Aim(by="free"), off), "one is free")
        self.assertFalse(done(Aim(by="free"), self.task.start), "but something must have been tried")

    def test_silence_alone_shows_nothing(self) -> None:
        """A step that leads to silence is done by how it is built: another silence is not it."""
        place = next(n for n, step in enumerate(foghorn.LESSON.steps) if "amplifier" in told_types(step.patch))
        task = task_at(foghorn.LESSON, place)
        self.assertFalse(np.any(sound_of(task.goal.model_dump_json(), task.phrase.model_dump_json()).signal))
        comb = Module(id="comb", type="comb")
        mute = made(task.goal, [AddModule(module=comb)]).patch
        out = mute.connections[-1].target
        line = mute.connections[-1].model_copy(update={"source": type(out)("comb.out"), "target": out})
        self.assertFalse(near(task, mute.model_copy(update={"connections": (*mute.connections, line)})).done)
        self.assertTrue(near(task, task.goal).done)

    def test_silence_is_said(self) -> None:
        out = next(module for module in self.task.goal.modules if module.type == "output")
        before = [line.source.module for line in self.task.goal.connections if line.target.module == out.id]
        mute = made(self.task.goal, [RemoveModules(modules=(before[0],), bridge=False)]).patch
        self.assertIn("nothing is heard", str(answer(near(self.task, mute))))


if __name__ == "__main__":
    unittest.main()
