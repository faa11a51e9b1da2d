"""Accounts, sign-ins, and the rights to lessons, as they are kept."""

import unittest
from datetime import timedelta
from hashlib import sha256
from unittest import mock

from sqlalchemy import func, select, update

from inner_tone.core.errors import InnerToneError
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.store import accounts, lessons, rights, sections
from inner_tone.store.errors import ForbiddenError, NotFoundError, NotSignedInError
from inner_tone.store.models import Account, SignIn, now
from inner_tone.store.rights import Right
from tests.support.nursery import USUAL
from tests.support.store import PASSWORD, StoreTest


class AccountTest(StoreTest):
    def test_password_is_kept_as_an_argon2id_hash_with_a_salt_of_its_own(self) -> None:
        with mock.patch.object(accounts, "hasher", USUAL):
            hashes = {self.account(name).password_hash for name in ("berta", "bertha")}
        self.assertEqual(len(hashes), 2, "the same password, two salts")
        for one in hashes:
            # the least that OWASP asks for Argon2id: 19 MiB of memory with two passes
            kind, version, costs = one.split("$")[1:4]
            self.assertEqual((kind, version), ("argon2id", "v=19"))
            memory, passes, _ = (int(cost.partition("=")[2]) for cost in costs.split(","))
            self.assertGreaterEqual(memory, 19 * 1024)
            self.assertGreaterEqual(passes, 2)
        self.assertFalse(USUAL.check_needs_rehash(accounts.NOBODYS), "an unknown name takes as long")

    def test_name_in_any_case_and_the_right_password(self) -> None:
        with self.sessions.begin() as session:
            self.assertEqual(accounts.account_with(session, "IMKE", PASSWORD).id, self.owner.id)
            for name, password in (("imke", PASSWORD + " "), ("nobody", PASSWORD), ("imke", "")):
                with self.assertRaises(NotSignedInError):
                    accounts.account_with(session, name, password)

    def test_sign_in_name_is_taken_once(self) -> None:
        with self.sessions.begin() as session:
            with self.assertRaisesRegex(accounts.TakenError, "taken"):
                accounts.create_account(session, "Imke", "Another", "learner", PASSWORD)
            self.assertEqual(session.scalar(select(func.count()).where(Account.sign_in == "imke")), 1)

    def test_account_without_a_password_lets_nobody_in(self) -> None:
        locked = self.account("locked")
        with self.sessions.begin() as session:
            session.execute(update(Account).where(Account.id == locked.id).values(password_hash=""))
        with self.sessions.begin() as session, self.assertRaises(NotSignedInError):
            accounts.account_with(session, "locked", "")


class SignInTest(StoreTest):
    def begin(self, who: Account, browser: str = "a browser") -> str:
        with self.sessions.begin() as session:
            return accounts.begin_sign_in(session, who, browser)

    def is_in(self, token: str) -> bool:
        with self.sessions.begin() as session:
            try:
                accounts.account_of(session, token)
            except NotSignedInError:
                return False
            return True

    def test_token_signs_in_and_is_not_kept(self) -> None:
        token = self.begin(self.owner)
        with self.sessions.begin() as session:
            self.assertEqual(accounts.account_of(session, token).id, self.owner.id)
            kept = session.scalars(select(SignIn.token_digest)).all()
        self.assertIn(sha256(token.encode()).hexdigest(), kept)
        self.assertNotIn(token, kept)
        self.assertFalse(self.is_in(token + "x"))

    def test_ends_here_or_everywhere(self) -> None:
        who = self.account("gesa")
        here, there, third = (self.begin(who) for _ in range(3))
        stranger = self.begin(self.owner)
        with self.sessions.begin() as session:
            accounts.end_sign_in(session, here)
        self.assertEqual([self.is_in(one) for one in (here, there, third)], [False, True, True])
        with self.sessions.begin() as session:
            accounts.end_all_sign_ins(session, who.id)
        self.assertEqual([self.is_in(one) for one in (there, third)], [False, False])
        self.assertTrue(self.is_in(stranger))

    def test_another_password_signs_out_all_but_the_browser_it_was_changed_in(self) -> None:
        who = self.account("henk")
        here, there = self.begin(who), self.begin(who)
        with self.sessions.begin() as session:
            accounts.change_password(session, who, "nine white boats", here)
        self.assertEqual([self.is_in(one) for one in (here, there)], [True, False])
        with self.sessions.begin() as session:
            self.assertEqual(accounts.account_with(session, "henk", "nine white boats").id, who.id)
            with self.assertRaises(NotSignedInError):
                accounts.account_with(session, "henk", PASSWORD)

    def test_runs_out_when_it_is_not_used(self) -> None:
        token, other = self.begin(self.owner), self.begin(self.owner)
        for one, age in ((token, accounts.LASTS + timedelta(hours=1)), (other, accounts.LASTS - timedelta(hours=1))):
            with self.sessions.begin() as session:
                row = update(SignIn).where(SignIn.token_digest == accounts.digest_of(one))
                session.execute(row.values(used_at=now() - age))
        self.assertEqual([self.is_in(one) for one in (token, other)], [False, True])
        with self.sessions.begin() as session:
            shown = accounts.sign_ins_of(session, self.owner.id)
            used = next(one for one in shown if one.token_digest == accounts.digest_of(other))
            self.assertLess(now() - used.used_at, timedelta(minutes=1), "its use was noted")
            self.assertNotIn(accounts.digest_of(token), [one.token_digest for one in shown])


class RightsTest(StoreTest):
    def setUp(self) -> None:
        with self.sessions.begin() as session:
            self.lesson = lessons.create_lesson(session, self.owner.id, LessonDocument(title="Bell"))

    def share(self, who: Account, *, may_write: bool) -> None:
        with self.sessions.begin() as session:
            rights.share(session, self.lesson.id, who, may_write=may_write)

    def right(self, who: Account) -> Right:
        with self.sessions.begin() as session:
            return rights.right_to(session, who, self.lesson.id)

    def test_owner_reader_writer_and_others(self) -> None:
        second = self.account("wiebke")
        self.assertEqual([self.right(self.owner), self.right(second)], [Right.OWN, Right.NONE])
        self.share(second, may_write=False)
        self.assertEqual(self.right(second), Right.READ)
        self.share(second, may_write=True)
        self.assertEqual(self.right(second), Right.WRITE)
        with self.sessions.begin() as session:
            self.assertEqual([one.account_id for one in rights.shares_of(session, self.lesson.id)], [second.id])
            rights.require(session, second, self.lesson.id, Right.WRITE)
            with self.assertRaises(ForbiddenError):
                rights.require(session, second, self.lesson.id, Right.OWN)
            rights.unshare(session, self.lesson.id, second.id)
            with self.assertRaises(NotFoundError):
                rights.require(session, second, self.lesson.id, Right.READ)

    def test_learner_has_no_right_even_if_a_share_names_them(self) -> None:
        learner = self.account("ole", "learner")
        self.share(learner, may_write=True)
        self.assertEqual(self.right(learner), Right.NONE)
        with self.sessions.begin() as session, self.assertRaises(NotFoundError):
            accounts.educator_called(session, "ole")

    def test_owner_needs_no_share(self) -> None:
        with self.assertRaises(InnerToneError):
            self.share(self.owner, may_write=False)

    def test_shelf_has_ones_own_lessons_and_those_that_are_shared(self) -> None:
        second, third = self.account("silke"), self.account("tjark")
        self.share(second, may_write=False)
        with self.sessions.begin() as session:
            for who, expected in ((self.owner, None), (second, False)):
                shown = {row.id: may_write for row, _, may_write in lessons.lessons_for(session, who)}
                self.assertEqual(shown[self.lesson.id], expected)
            self.assertEqual(lessons.lessons_for(session, third), [])

    def test_kept_sections_are_everybodys_own(self) -> None:
        second = self.account("frauke")
        with self.sessions.begin() as session:
            kept = sections.keep_section(session, self.owner.id, "Wobble", {})
            self.assertEqual(sections.sections_of(session, second.id), [])
            with self.assertRaises(NotFoundError):
                sections.forget_section(session, second.id, kept.id)
            sections.forget_section(session, self.owner.id, kept.id)


if __name__ == "__main__":
    unittest.main()
