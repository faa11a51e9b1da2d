"""Two pages that change the same steps: nothing that was acknowledged, and nothing that was typed, is lost."""

import random
import unittest
import uuid
from dataclasses import dataclass, field
from typing import Any

from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.step import StepContent
from inner_tone.core.lesson.together import Side
from inner_tone.demo import foghorn
from inner_tone.store import lessons, presence, written
from inner_tone.store.errors import ClashError, GoneError
from inner_tone.store.lessons import Wish
from tests.support.store import StoreTest, put
from tests.support.tokens import changed_once, tokens_in

PAIRS = 200
NAMES = ("an", "bo")


@dataclass
class Page:
    """A page at a step, as `web/src/api/kept.ts` has it: what it shows, and what that was made from."""

    name: str
    shown: StepContent
    there: StepContent
    version: int
    bases: dict[str, Any] = field(default_factory=dict)

    def changed(self) -> dict[str, Any]:
        """Return the parts that are new."""
        names = StepContent.model_fields
        return {one: getattr(self.shown, one) for one in names if getattr(self.shown, one) != getattr(self.there, one)}

    def wish(self, choices: dict[str, Side]) -> Wish:
        """Return its wish, as it is at this moment."""
        part, bases = self.changed(), dict(self.bases)
        return Wish(
            self.version,
            lambda then: (made := then.model_copy(update=bases), made.model_copy(update=part)),
            choices,
            uuid.uuid4(),
        )

    def answered(self, sent: StepContent, content: StepContent, version: int) -> None:
        """Take over what is there; what was changed since goes out from what was sent."""
        new = {one for one in StepContent.model_fields if getattr(self.shown, one) != getattr(sent, one)}
        self.bases = {one: getattr(sent, one) for one in new if getattr(sent, one) != getattr(content, one)}
        self.shown = content.model_copy(update={one: getattr(self.shown, one) for one in new})
        self.there, self.version = content, version


def tokens(content: StepContent) -> set[str]:
    return set.union(*(tokens_in(content, name) for name in NAMES))


class TwoPagesTest(StoreTest):
    def begin(self) -> uuid.UUID:
        """Return a step of a new lesson, behind which another one stands."""
        document = LessonDocument(title="Two", steps=foghorn.STEPS[3:])
        with self.sessions.begin() as session:
            lesson = lessons.create_lesson(session, self.owner.id, document)
            return written.steps_of(session, lesson.id)[0].id

    def content(self, step_id: uuid.UUID) -> tuple[StepContent, int]:
        with self.sessions.begin() as session:
            step = lessons.step_with(session, step_id)
            return written.content_of(step), step.version

    def send(self, page: Page, step_id: uuid.UUID, dice: random.Random) -> int:
        """Send what is new, decide what is asked, and write on while the answer is under way; count the questions."""
        asked, said = 0, ""
        choices: dict[str, Side] = {}
        sent = page.shown
        while True:
            before, _ = self.content(step_id)
            try:
                with self.sessions.begin() as session:
                    _, step = lessons.change_step(session, step_id, page.wish(choices))
                    after, version = written.content_of(step), step.version
                break
            except ClashError as clash:
                asked += len(clash.clashes)
                for one in clash.clashes:
                    choices[one.key] = dice.choice(["theirs", "mine"])
                    said += f" {one.theirs} {one.mine}"
        base = page.there.model_copy(update=page.bases)
        decided = {word for word in (*tokens(before), *tokens(sent)) if word in said} if asked else set()
        unknown = tokens(before) - tokens(base)
        self.assertLessEqual(unknown - decided - removed_with(before, said), tokens(after))
        typed = tokens(sent) - tokens(base)
        self.assertLessEqual(typed - decided - removed_with(sent, said), tokens(after))
        if dice.random() < 0.4:
            page.shown = changed_once(page.shown, dice, page.name)
        page.answered(sent, after, version)
        return asked

    def test_nothing_is_lost_in_random_pairs(self) -> None:
        dice, asked, sendings = random.Random(29), 0, 0
        for _ in range(PAIRS):
            step_id = self.begin()
            content, version = self.content(step_id)
            pages = [Page(name, content, content, version) for name in NAMES]
            for _ in range(dice.randrange(4, 14)):
                page = dice.choice(pages)
                if dice.random() < 0.6:
                    page.shown = changed_once(page.shown, dice, page.name)
                elif page.changed():
                    sendings += 1
                    asked += self.send(page, step_id, dice)
            for page in pages:
                while page.changed():
                    asked += self.send(page, step_id, dice)
        self.assertGreater(sendings, PAIRS)
        self.assertGreater(asked, PAIRS // 10)
        self.assertLess(asked, sendings)

    def test_wish_that_comes_twice_is_done_once(self) -> None:
        step_id = self.begin()
        content, version = self.content(step_id)
        page = Page("an", content.model_copy(update={"why": "Mine."}), content, version)
        wish = page.wish({})
        with self.sessions.begin() as session:
            lessons.change_step(session, step_id, wish)
        with self.sessions.begin() as session:
            put(session, step_id, version + 1, content.model_copy(update={"why": "Theirs, who knew mine."}))
        with self.sessions.begin() as session:
            lessons.change_step(session, step_id, wish)
        self.assertEqual(self.content(step_id)[0].why, "Theirs, who knew mine.")

    def test_who_leaves_without_an_answer_goes_on_from_what_they_have_sent(self) -> None:
        step_id = self.begin()
        content, version = self.content(step_id)
        page = Page("an", content.model_copy(update={"why": "First."}), content, version)
        first = page.wish({})
        with self.sessions.begin() as session:
            lessons.change_step(session, step_id, first)  # the answer does not come
        last = content.model_copy(update={"why": "Second."})
        assert first.request is not None
        with self.sessions.begin() as session, self.assertRaises(ClashError):
            lessons.change_step(session, step_id, Wish(version, lambda then: (then, last)))
        with self.sessions.begin() as session:
            wish = Wish(version, lambda then: (then, last), own=frozenset({first.request}))
            lessons.change_step(session, step_id, wish)
        self.assertEqual(self.content(step_id)[0].why, "Second.")

    def test_deleted_step_is_gone_and_takes_the_change_when_it_is_back(self) -> None:
        step_id = self.begin()
        content, version = self.content(step_id)
        mine = content.model_copy(update={"why": "Mine."})
        with self.sessions.begin() as session:
            lessons.delete_step(session, step_id)
        with self.sessions.begin() as session, self.assertRaises(GoneError):
            put(session, step_id, version, mine)
        with self.sessions.begin() as session:
            lessons.restore_step(session, step_id)
            put(session, step_id, version, mine)
        self.assertEqual(self.content(step_id)[0].why, "Mine.")

    def test_who_is_here(self) -> None:
        step_id, other = self.begin(), self.account("imke2")
        windows = [uuid.uuid4(), uuid.uuid4()]
        with self.sessions.begin() as session:
            lesson = lessons.step_with(session, step_id).lesson_id
            presence.note_here(session, self.owner, lesson, windows[0], step_id)
            presence.note_here(session, other, lesson, windows[1], None)
            presence.note_here(session, other, lesson, windows[1], step_id)
        with self.sessions.begin() as session:
            (here,) = presence.others_here(session, lesson, windows[0])
            self.assertEqual((here.account.id, here.step_id), (other.id, step_id))
            presence.note_gone(session, self.owner, lesson, windows[1])  # not theirs to say
            self.assertEqual(len(presence.others_here(session, lesson, windows[0])), 1)
            presence.note_gone(session, other, lesson, windows[1])
            self.assertEqual(presence.others_here(session, lesson, windows[0]), [])


def removed_with(content: StepContent, said: str) -> set[str]:
    """Return the tokens of what a question says is not there on one side: a module goes with all that is in it."""
    if "not there" not in said:
        return set()
    return {word for module in content.patch.modules for word in module.title.split()}


if __name__ == "__main__":
    unittest.main()
