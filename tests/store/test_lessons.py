"""Lessons and steps in the database: nothing is lost, nothing is overwritten."""

import random
import threading
import unittest
import uuid
from datetime import timedelta

from sqlalchemy import delete, text, update
from sqlalchemy.exc import DBAPIError

from inner_tone.core.lesson.arranging import OrderError
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.sequence import SequenceError
from inner_tone.core.lesson.step import LessonError, StepContent
from inner_tone.core.patch.edit import edited
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import RenameModule, SetValue
from inner_tone.demo import foghorn
from inner_tone.store import lessons, operations, renders, written
from inner_tone.store.errors import ConflictError, NotFoundError
from inner_tone.store.models import Step, StoredRender, now
from tests.support.patches import settled
from tests.support.store import StoreTest, put


class LessonStoreTest(StoreTest):
    def setUp(self) -> None:
        with self.sessions.begin() as session:
            self.lesson = lessons.create_lesson(session, self.owner.id, foghorn.LESSON)

    def titles(self) -> list[str]:
        with self.sessions.begin() as session:
            steps = written.steps_of(session, self.lesson.id)
            self.assertEqual([step.position for step in steps], list(range(len(steps))))
            return [written.content_of(step).title for step in steps]

    def step(self, place: int) -> Step:
        with self.sessions.begin() as session:
            return written.steps_of(session, self.lesson.id)[place]

    def history(self, step_id: uuid.UUID) -> list[tuple[str, int]]:
        with self.sessions.begin() as session:
            return [(row.action, row.version) for row in written.history_of(session, step_id)][::-1]


class StepTest(LessonStoreTest):
    def test_content_comes_back_as_it_went(self) -> None:
        with self.sessions.begin() as session:
            kept = [written.content_of(step) for step in written.steps_of(session, self.lesson.id)]
        self.assertEqual(kept, list(foghorn.STEPS))

    def test_change_is_kept_with_its_history(self) -> None:
        step = self.step(2)
        for version, title in ((1, "Once"), (2, "Twice")):
            with self.sessions.begin() as session:
                content = foghorn.STEPS[2].model_copy(update={"title": title})
                put(session, step.id, version, content)
        self.assertEqual(self.titles()[2], "Twice")
        self.assertEqual(self.history(step.id), [("created", 1), ("changed", 2), ("changed", 3)])

    def test_change_of_the_same_in_an_old_version_is_asked_and_overwrites_nothing(self) -> None:
        step = self.step(0)
        with self.sessions.begin() as session:
            put(session, step.id, 1, foghorn.STEPS[0].model_copy(update={"title": "Theirs"}))
        with self.assertRaises(ConflictError) as caught, self.sessions.begin() as session:
            put(session, step.id, 1, foghorn.STEPS[0].model_copy(update={"title": "Mine"}))
        self.assertEqual(caught.exception.current, 2)
        self.assertEqual(self.titles()[0], "Theirs")
        self.assertEqual(len(self.history(step.id)), 2)

    def test_of_many_who_change_at_once_one_wins(self) -> None:
        step = self.step(1)
        outcomes: list[str] = []
        start = threading.Barrier(8)

        def change(name: str) -> None:
            start.wait()
            try:
                with self.sessions.begin() as session:
                    content = foghorn.STEPS[1].model_copy(update={"title": name})
                    put(session, step.id, 1, content)
                outcomes.append(name)
            except ConflictError:
                outcomes.append("refused")

        threads = [threading.Thread(target=change, args=(f"writer {n}",)) for n in range(8)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(outcomes.count("refused"), 7)
        self.assertEqual([self.titles()[1]], [name for name in outcomes if name != "refused"])

    def test_added_step_stands_behind_the_one_named(self) -> None:
        with self.sessions.begin() as session:
            added = lessons.add_step(session, self.lesson.id, self.step(1).id)
            content = written.content_of(added)
        self.assertEqual(self.titles()[2], "New step")
        self.assertEqual(content.patch, foghorn.STEPS[1].patch)
        self.assertEqual(len(self.titles()), 6)

    def test_many_who_add_at_once_all_find_a_place(self) -> None:
        def add() -> None:
            with self.sessions.begin() as session:
                lessons.add_step(session, self.lesson.id, None)

        threads = [threading.Thread(target=add) for _ in range(6)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(len(self.titles()), 11)

    def test_first_step_of_an_empty_lesson(self) -> None:
        with self.sessions.begin() as session:
            empty = lessons.create_lesson(session, self.owner.id, LessonDocument(title="Empty"))
            added = lessons.add_step(session, empty.id, None)
            self.assertEqual([one.type for one in written.content_of(added).patch.modules], ["player", "output"])

    def test_duplicate_stands_behind_the_original(self) -> None:
        with self.sessions.begin() as session:
            lessons.duplicate_step(session, self.step(0).id)
        self.assertEqual(self.titles()[:2], [foghorn.STEPS[0].title, f"{foghorn.STEPS[0].title} (copy)"])

    def test_deleted_step_comes_back_where_it_was(self) -> None:
        before = self.titles()
        step = self.step(2)
        with self.sessions.begin() as session:
            lessons.delete_step(session, step.id)
        self.assertEqual(self.titles(), before[:2] + before[3:])
        with self.assertRaises(NotFoundError), self.sessions.begin() as session:
            put(session, step.id, 2, StepContent())
        with self.sessions.begin() as session:
            lessons.restore_step(session, step.id)
        self.assertEqual(self.titles(), before)
        self.assertEqual([action for action, _ in self.history(step.id)], ["created", "deleted", "restored"])

    def test_order(self) -> None:
        before = self.titles()
        with self.sessions.begin() as session:
            ids = [step.id for step in written.steps_of(session, self.lesson.id)]
            wanted = [*ids[:3], ids[4], ids[3]]
            lessons.order_steps(session, self.lesson.id, 1, wanted)
        self.assertEqual(self.titles(), [*before[:3], before[4], before[3]])
        with self.assertRaises(ConflictError), self.sessions.begin() as session:
            lessons.order_steps(session, self.lesson.id, 1, wanted)


class SequenceTest(LessonStoreTest):
    """Steps as changes: brought forward, cut in two, joined, put into another order."""

    def patches(self) -> list[Patch]:
        with self.sessions.begin() as session:
            return [written.content_of(step).patch for step in written.steps_of(session, self.lesson.id)]

    def content(self, place: int) -> StepContent:
        with self.sessions.begin() as session:
            return written.content_of(written.steps_of(session, self.lesson.id)[place])

    def with_setting(self, place: int, module: str, setting: str, value: float) -> None:
        """Change one setting in the patch of a step."""
        step, old = self.step(place), self.content(place)
        patch = edited(old.patch, [SetValue(module=module, setting=setting, value=value)]).patch
        with self.sessions.begin() as session:
            put(session, step.id, step.version, old.model_copy(update={"patch": patch}))

    def carry(self, place: int) -> list[tuple[uuid.UUID, int]]:
        with self.sessions.begin() as session:
            return [(step.id, step.version) for step in lessons.carry(session, self.step(place).id)]

    def test_change_waits_until_it_is_carried_forward(self) -> None:
        before = self.patches()
        self.with_setting(1, "reed", "octave", -1)
        self.assertEqual(self.content(1).built_on, before[1])
        self.assertEqual(self.patches()[2:], before[2:])
        states = self.carry(1)
        self.assertEqual(len(states), 4)
        self.assertIsNone(self.content(1).built_on)
        for patch in self.patches()[1:]:
            self.assertEqual(patch.by_id["reed"].settings["octave"], -1)
        self.assertEqual([settled(one)[2] for one in self.patches()], [settled(one)[2] for one in before])

    def test_change_that_is_undone_leaves_nothing_to_carry(self) -> None:
        self.with_setting(1, "reed", "octave", -1)
        self.with_setting(1, "reed", "octave", -2)
        self.assertIsNone(self.content(1).built_on)
        self.with_setting(4, "bell", "cutoff", 800)
        self.assertIsNone(self.content(4).built_on, "nothing comes after the last step")

    def undo(self) -> str:
        with self.sessions.begin() as session:
            found = operations.latest(session, self.lesson.id)
            lessons.undo(session, self.lesson.id)
            return found.words if found else ""

    def test_carrying_is_taken_back_as_one_or_not_at_all(self) -> None:
        before = self.patches()
        self.with_setting(1, "reed", "octave", -1)
        self.carry(1)
        self.assertEqual(self.undo(), "The change of step 2 brought into the later steps")
        self.assertEqual(self.patches()[2:], before[2:])
        self.assertEqual(self.content(1).built_on, before[1], "the change itself is still there, and waits again")
        self.carry(1)
        self.with_setting(3, "breath", "attack", 1.0)
        with self.assertRaisesRegex(LessonError, "Step 4 has been changed since"):
            self.undo()
        self.assertEqual(self.patches()[2].by_id["reed"].settings["octave"], -1)

    def test_place_changed_in_both_is_to_be_decided_in_the_later_step(self) -> None:
        self.with_setting(4, "breath", "attack", 0.5)
        self.with_setting(3, "breath", "attack", 0.1)
        self.carry(3)
        (decision,) = self.content(4).decisions
        told = (decision.words, decision.early, decision.late)
        self.assertEqual(told, ("the attack of Breath", "100 ms", "500 ms"))
        self.assertEqual(self.content(4).patch.by_id["breath"].settings["attack"], 0.5)
        won = edited(self.content(4).patch, decision.edits).patch
        self.assertEqual(won.by_id["breath"].settings["attack"], 0.1)

    def test_order_makes_each_change_again(self) -> None:
        with self.sessions.begin() as session:
            ids = [step.id for step in written.steps_of(session, self.lesson.id)]
            lessons.order_steps(session, self.lesson.id, 1, [ids[0], ids[1], ids[2], ids[4], ids[3]])
        self.assertEqual(self.titles()[3:], ["A filter that gives it distance", "An envelope that gives it breath"])
        self.assertNotIn("breath", self.patches()[3].by_id)
        self.assertEqual(settled(self.patches()[4]), settled(foghorn.DISTANT))

    def test_name_follows_in_all_steps_that_share_the_module_and_back_again(self) -> None:
        def name(label: str) -> None:
            with self.sessions.begin() as session:
                step = lessons.step_with(session, self.step(2).id)
                content = written.content_of(step)
                patch = edited(content.patch, [RenameModule(module="reed", label=label)]).patch
                put(session, step.id, step.version, content.model_copy(update={"patch": patch}))

        before = self.patches()
        with self.sessions.begin() as session:
            last = lessons.step_with(session, self.step(4).id)
            content = written.content_of(last)
            put(session, last.id, last.version, content.model_copy(update={"listen": "At {the octave of Reed}."}))
        name("Pipe")
        self.assertEqual({patch.by_id["reed"].title for patch in self.patches()}, {"Pipe"})
        with self.sessions.begin() as session:
            steps = [written.content_of(step) for step in written.steps_of(session, self.lesson.id)]
        self.assertEqual(steps[4].listen, "At {the octave of Pipe}.")
        self.assertEqual([one.built_on for one in steps], [None] * 5, "no step waits for the name")
        name("Reed")
        self.assertEqual(self.patches(), before)

    def test_title_that_the_program_has_made_follows_the_step_until_somebody_writes_one(self) -> None:
        with self.sessions.begin() as session:
            first = lessons.add_step(session, self.lesson.id, None)
            step_id, content = first.id, written.content_of(first)

        def change(version: int, **parts: object) -> StepContent:
            with self.sessions.begin() as session:
                step = lessons.step_with(session, step_id)
                made = written.content_of(step).model_copy(update=parts)
                return written.content_of(put(session, step_id, version, made))

        def turned(setting: str, value: float) -> Patch:
            return edited(content.patch, [SetValue(module="bell", setting=setting, value=value)]).patch

        self.assertEqual(change(1, patch=turned("resonance", 0.5)).title, "New step")
        with self.sessions.begin() as session:
            lessons.add_step(session, self.lesson.id, None, finishing=True)
        self.assertEqual(self.titles()[5], "Bell mouth’s resonance: 0.5")
        self.assertEqual(change(3, patch=turned("cutoff", 900)).title, "Bell mouth’s cutoff: 900 Hz")
        self.assertEqual(change(4, title="Nearer", title_made=False).title, "Nearer")
        self.assertEqual(change(5, patch=turned("cutoff", 1200)).title, "Nearer")

    def order(self, *places: int) -> None:
        with self.sessions.begin() as session:
            ids = [step.id for step in written.steps_of(session, self.lesson.id)]
            version = lessons.lesson(session, self.lesson.id).version
            lessons.order_steps(session, self.lesson.id, version, [ids[place] for place in places])

    def test_order_that_cannot_work_is_refused_and_names_what_is_missing(self) -> None:
        before = self.patches()
        with self.assertRaisesRegex(OrderError, "Step 3 .*Loudness, which would come in only later"):
            self.order(0, 2, 1, 3, 4)
        self.assertEqual(self.patches(), before)

    def test_every_operation_is_undone_as_one_to_the_bit(self) -> None:
        step = self.step(4)

        def split() -> None:
            with self.sessions.begin() as session:
                lessons.split_step(session, step.id, self.step(4).version, 1)

        def join() -> None:
            with self.sessions.begin() as session:
                lessons.join_step(session, step.id, self.step(4).version)

        def delete() -> None:
            with self.sessions.begin() as session:
                lessons.delete_step(session, self.step(2).id)

        def add() -> None:
            with self.sessions.begin() as session:
                lessons.add_step(session, self.lesson.id, self.step(1).id)

        def double() -> None:
            with self.sessions.begin() as session:
                lessons.duplicate_step(session, self.step(3).id)

        def take() -> None:
            with self.sessions.begin() as session:
                lessons.take_step(session, self.lesson.id, None, foghorn.STEPS[0])

        for act in (split, join, delete, add, double, take, lambda: self.order(0, 1, 2, 4, 3)):
            before = self.contents()
            act()
            self.assertNotEqual(self.contents(), before)
            self.undo()
            self.assertEqual(self.contents(), before)
        with self.assertRaisesRegex(LessonError, "Nothing has been done"):
            self.undo()

    def contents(self) -> list[StepContent]:
        with self.sessions.begin() as session:
            steps = written.steps_of(session, self.lesson.id)
            self.assertEqual([step.position for step in steps], list(range(len(steps))))
            return [written.content_of(step) for step in steps]

    def test_moves_that_cancel_out_give_the_same_to_the_bit(self) -> None:
        """Also where two steps set the same thing, so that one order forgets what the other has said."""
        self.with_setting(4, "breath", "attack", 0.5)
        self.with_setting(3, "breath", "attack", 0.1)
        with self.sessions.begin() as session:
            lessons.duplicate_step(session, self.step(4).id)
        self.with_setting(5, "breath", "attack", 0.1)
        before = self.contents()
        dice = random.Random(4)
        for _ in range(25):
            orders, count = [], dice.randint(1, 4)
            for _ in range(count):
                order = [0, 1, 2, *dice.sample([3, 4, 5], 3)]
                try:
                    self.order(*order)
                except OrderError:
                    continue
                orders.append(order)
            for order in reversed(orders):
                self.order(*[order.index(place) for place in range(6)])
            self.assertEqual(self.contents(), before)

    def test_what_another_order_would_change_is_told_before(self) -> None:
        def told() -> list[str]:
            with self.sessions.begin() as session:
                ids = [step.id for step in written.steps_of(session, self.lesson.id)]
                return lessons.effects_of_order(session, self.lesson.id, [ids[place] for place in (0, 1, 2, 4, 3)])

        self.assertEqual(told(), [], "these two need nothing of each other")
        self.with_setting(3, "reed", "octave", -3)
        self.with_setting(4, "reed", "octave", -1)
        self.assertEqual(told(), ["The lesson would end otherwise: Set Reed’s octave to −3 octaves."])
        self.assertEqual(self.patches()[4].by_id["reed"].settings["octave"], -1, "nothing is done")

    def test_last_step_waits_for_nothing_to_be_carried_on(self) -> None:
        self.with_setting(3, "reed", "octave", -3)
        self.assertIsNotNone(self.content(3).built_on)
        self.order(0, 1, 2, 4, 3)
        self.assertIsNone(self.content(4).built_on)
        self.undo()
        self.assertIsNotNone(self.content(3).built_on)

    def test_undo_after_somebody_has_added_a_step(self) -> None:
        self.order(0, 1, 2, 4, 3)
        with self.sessions.begin() as session:
            lessons.add_step(session, self.lesson.id, None)
        self.assertEqual(self.undo(), "Step 6 added")
        self.assertEqual(self.undo(), "Steps 4 and 5 changed places")
        self.assertEqual(self.contents(), list(foghorn.STEPS))

    def test_another_order_is_said_by_what_has_gone_where(self) -> None:
        for order, words in (
            ((0, 3, 1, 2, 4), "Step 4 moved to place 2"),
            ((1, 2, 3, 4, 0), "Step 1 moved to place 5"),
            ((0, 2, 1, 3, 4), "Steps 2 and 3 changed places"),
            ((4, 3, 2, 1, 0), "The steps put into another order"),
        ):
            self.assertEqual(lessons.moved_words(order), words)

    def test_split_and_join(self) -> None:
        before = self.titles()
        step = self.step(4)
        with self.sessions.begin() as session:
            lessons.split_step(session, step.id, step.version, 1)
        self.assertEqual(self.titles()[4:], ["Bell mouth behind Reed", before[4]])
        self.assertEqual(self.patches()[4].by_id["bell"].settings, {})
        with self.sessions.begin() as session:
            joined = lessons.join_step(session, step.id, step.version)
        self.assertEqual(len(self.titles()), 5)
        self.assertEqual(self.patches()[4], foghorn.DISTANT)
        self.assertEqual(written.content_of(joined).why, foghorn.STEPS[4].why)
        with self.assertRaises(LessonError), self.sessions.begin() as session:
            lessons.join_step(session, self.step(0).id, 1)
        for count in (0, 9):
            with self.assertRaises(SequenceError), self.sessions.begin() as session:
                lessons.split_step(session, step.id, joined.version, count)


class LessonTest(LessonStoreTest):
    def test_shelf_shows_the_latest_change_first(self) -> None:
        with self.sessions.begin() as session:
            other = lessons.create_lesson(session, self.owner.id, LessonDocument(title="Bell"))
        with self.sessions.begin() as session:
            put(session, self.step(0).id, 1, foghorn.STEPS[0].model_copy(update={"why": "Anew."}))
        with self.sessions.begin() as session:
            rows = [(row.id, steps) for row, steps, _ in lessons.lessons_for(session, self.owner)]
        self.assertEqual(rows[:2], [(self.lesson.id, 5), (other.id, 0)])

    def test_title_and_summary(self) -> None:
        with self.sessions.begin() as session:
            lessons.describe_lesson(session, self.lesson.id, 1, LessonDocument(title="Horn", target_first=True))
        with self.assertRaises(ConflictError), self.sessions.begin() as session:
            lessons.describe_lesson(session, self.lesson.id, 1, LessonDocument(title="Old"))
        with self.sessions.begin() as session:
            self.assertEqual(lessons.lesson(session, self.lesson.id).title, "Horn")

    def test_deleted_lesson_comes_back_with_its_steps(self) -> None:
        with self.sessions.begin() as session:
            lessons.delete_lesson(session, self.lesson.id)
        with self.assertRaises(NotFoundError), self.sessions.begin() as session:
            lessons.lesson(session, self.lesson.id)
        with self.sessions.begin() as session:
            lessons.restore_lesson(session, self.lesson.id)
        self.assertEqual(len(self.titles()), 5)


class HistoryTest(LessonStoreTest):
    def test_history_refuses_every_change(self) -> None:
        for statement in (
            "UPDATE step_history SET action = 'changed'",
            "DELETE FROM step_history",
            "TRUNCATE step_history",
        ):
            with self.assertRaisesRegex(DBAPIError, "only ever added to"), self.engine.begin() as connection:
                connection.execute(text(statement))


class RenderTest(LessonStoreTest):
    def test_sound_of_a_saved_step_is_kept(self) -> None:
        key = self.step(4).render_key
        with self.sessions.begin() as session:
            self.assertTrue(renders.belongs_to_step(session, key))
            self.assertFalse(renders.belongs_to_step(session, "none"))
            renders.keep(session, key, b"wave", 9)
            renders.keep(session, key, b"again", 9)
            self.assertEqual(renders.wav_of(session, key), b"wave")
            self.assertIsNone(renders.wav_of(session, "none"))

    def test_after_an_upgrade_keys_follow_the_engine_and_old_sounds_are_cleared(self) -> None:
        step = self.step(4)
        right = step.render_key
        long_ago = now() - timedelta(days=1)
        with self.sessions.begin() as session:
            session.execute(delete(StoredRender))
            for key in ("old", "just used", right):
                renders.keep(session, key, b"wave", 9)
            session.execute(update(StoredRender).where(StoredRender.key != "just used").values(used_at=long_ago))
            session.execute(update(Step).values(engine="before", render_key="otherwise"))
        with self.sessions.begin() as session:
            self.assertFalse(renders.belongs_to_step(session, right))
            while renders.follow_engine(session, 3):
                pass
            self.assertTrue(renders.belongs_to_step(session, right))
            self.assertEqual(renders.follow_engine(session, 3), 0)
            self.assertEqual(renders.clear_old(session), 1)
            kept = [renders.is_kept(session, key) for key in ("old", "just used", right)]
            self.assertEqual(kept, [False, True, True])

    def test_oldest_sounds_give_way(self) -> None:
        with self.sessions.begin() as session:
            for number in range(25):
                renders.keep(session, f"key {number}", b"wave", 20)
        with self.sessions.begin() as session:
            self.assertIsNone(renders.wav_of(session, "key 0"))
            self.assertIsNotNone(renders.wav_of(session, "key 24"))


if __name__ == "__main__":
    unittest.main()
