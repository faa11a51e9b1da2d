"""Two nodes on one database, asked in turn: what is true at one is true at the other."""

import asyncio
import threading
import time
import unittest
import uuid
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from statistics import median
from typing import Any

import httpx
from sqlalchemy import make_url, text

from benchmarks.patches import voice
from inner_tone.api.access import COOKIE
from inner_tone.core.engine.render import render, render_key
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import SetValue
from inner_tone.demo.foghorn import BLASTS, DISTANT
from inner_tone.demo.seed import JONAS, MAREN
from inner_tone.formats.audio import stereo, wav_bytes
from inner_tone.store.database import connect
from inner_tone.work.wire import Wire
from tests.support import plain
from tests.support.application import Application, client_with
from tests.support.patches import phrase
from tests.support.patience import wait_for

LONG_PATCH = voice(voices=16)  # takes seconds
LONG = phrase(*((0.0, 59.0, 40.0 + 3 * key) for key in range(16)), beats=60.0)
LENS = {"kind": "wave", "taps": ["out.out"]}


def wish(patch: Patch = DISTANT, phrase: Any = BLASTS, **more: Any) -> dict[str, Any]:
    return {"patch": patch.to_json(), "phrase": phrase.model_dump(mode="json"), **more}


def another(number: int) -> Patch:
    """Return a patch that nobody has rendered yet."""
    module = next(one for one in DISTANT.modules if "cutoff" in one.all_settings)
    return made(DISTANT, [SetValue(kind="set", module=module.id, setting="cutoff", value=300.0 + number)]).patch


class NodeTest(unittest.TestCase):
    one: Application
    two: Application
    clients: list[httpx.Client]

    @classmethod
    def setUpClass(cls) -> None:
        cls.one = Application()
        cls.addClassCleanup(cls.one.stop)
        cls.two = Application(database=cls.one.database)
        cls.addClassCleanup(cls.two.stop)
        token = cls.one.client(MAREN).cookies[COOKIE]
        cls.clients = [client_with(node.address, token) for node in (cls.one, cls.two)]
        for client in cls.clients:
            cls.addClassCleanup(client.close)

    def work_done(self, node: Application, kind: str) -> float:
        """Return how much work of a kind a node has done."""
        said = plain.get(f"{node.address}/metrics", timeout=30).text
        name = f'inner_tone_work_seconds_count{{end="done",kind="{kind}"}}'
        return sum(float(line.rpartition(" ")[2]) for line in said.splitlines() if line.startswith(name))

    def both_done(self, kind: str) -> float:
        return sum(self.work_done(node, kind) for node in (self.one, self.two))

    def ask(self, asked: dict[str, Any], number: int) -> httpx.Response:
        """Ask one of the nodes for a render."""
        return self.clients[number % 2].post("/api/renders", json=asked)

    def test_the_same_render_is_made_once_by_two_nodes(self) -> None:
        before = self.both_done("rendered")
        for number in range(6):
            ask = partial(self.ask, wish(another(number)))
            with ThreadPoolExecutor(6) as pool:
                answers = list(pool.map(ask, range(6)))
            self.assertEqual({one.status_code for one in answers}, {200}, answers[0].text)
            self.assertEqual(len({one.content for one in answers}), 1)
        self.assertEqual(self.both_done("rendered") - before, 6)

    def test_a_sound_comes_from_the_node_that_has_made_it(self) -> None:
        patch = another(100)
        key = self.clients[0].post("/api/renders", json=wish(patch)).json()["key"]
        before = self.work_done(self.two, "sound")
        heard = self.clients[1].get(f"/api/renders/{key}/sound")
        done = render(patch, BLASTS)
        self.assertEqual(heard.content, wav_bytes(stereo(done), done.rate))
        self.assertEqual(self.work_done(self.two, "sound"), before)
        self.assertEqual(self.clients[0].get(f"/api/renders/{key}/sound").content, heard.content)

    def test_a_sound_is_made_anew_where_its_node_is_gone(self) -> None:
        third = Application(database=self.one.database)
        self.addCleanup(third.stop)
        patch = another(200)
        with client_with(third.address, self.clients[0].cookies[COOKIE]) as client:
            key = client.post("/api/renders", json=wish(patch)).json()["key"]
        third.kill()
        self.assertEqual(key, render_key(patch, BLASTS))
        done = render(patch, BLASTS)
        heard = self.clients[0].get(f"/api/renders/{key}/sound")
        self.assertEqual(heard.content, wav_bytes(stereo(done), done.rate))

    def test_progress_is_told_and_a_wish_is_stopped_at_the_other_node(self) -> None:
        ticket = str(uuid.uuid4())
        answers: list[httpx.Response] = []
        asking = wish(LONG_PATCH, LONG, ticket=ticket)
        asked = threading.Thread(target=lambda: answers.append(self.clients[0].post("/api/renders", json=asking)))
        asked.start()
        seen: list[float] = []

        def told() -> bool:
            part = self.clients[1].get(f"/api/renders/progress/{ticket}").json()["part"]
            seen.extend([part] if part else [])
            return bool(seen)

        wait_for(told, 30, "word of how far it is")
        self.assertTrue(0 < seen[0] < 1)
        with self.two.client(JONAS) as other:
            self.assertIsNone(other.get(f"/api/renders/progress/{ticket}").json()["part"], "it is nobody else's")
            other.delete(f"/api/renders/progress/{ticket}")
        self.assertEqual(self.clients[1].delete(f"/api/renders/progress/{ticket}").status_code, 204)
        asked.join(20)
        self.assertEqual([(one.status_code, one.json()["title"]) for one in answers], [(409, "Stopped")])

    def test_who_signs_out_at_one_node_is_out_at_the_other(self) -> None:
        took = []
        for _ in range(10):
            with self.one.client(JONAS) as one, client_with(self.two.address, one.cookies[COOKIE]) as two:
                self.assertEqual(two.get("/api/practice").status_code, 200)
                self.assertEqual(one.delete("/api/account/session").status_code, 204)
                begun = time.monotonic()
                wait_for(lambda: two.get("/api/practice").status_code == 401, 5, "the end of the sign-in")
                took.append(time.monotonic() - begun)
        self.assertLess(median(took), 1.0, "long before it would be asked about anyway")

    def test_a_claim_of_a_dead_node_is_taken_over(self) -> None:
        third = Application(database=self.one.database)
        self.addCleanup(third.stop)
        token = self.clients[0].cookies[COOKIE]
        asked = wish(LONG_PATCH, LONG.model_copy(update={"beats": 58.0}))

        def ask() -> None:
            with client_with(third.address, token) as client, self.assertRaises(httpx.HTTPError):
                client.post("/api/renders", json=asked)

        dying = threading.Thread(target=ask)
        dying.start()
        before = self.work_done(self.one, "rendered")
        time.sleep(0.7)  # it works by now
        with ThreadPoolExecutor(1) as pool:
            waiting = pool.submit(self.clients[0].post, "/api/renders", json=asked)
            time.sleep(0.5)
            third.kill()
            dying.join(20)
            self.assertEqual(waiting.result(60).status_code, 200)
        self.assertEqual(self.work_done(self.one, "rendered") - before, 1)

    def test_who_gives_up_while_claiming_leaves_no_claim_behind(self) -> None:
        asyncio.run(self.given_up())

    async def given_up(self) -> None:
        database = make_url(self.one.database).set(drivername="postgresql").render_as_string(hide_password=False)
        one, other = Wire(database), Wire(database)
        self.assertTrue(await one.claim("warm"))
        for number in range(60):
            claiming = asyncio.ensure_future(one.claim(f"render {number}"))
            await asyncio.sleep(0.0001 * (number % 20))
            claiming.cancel()
            await asyncio.gather(claiming, return_exceptions=True)
            if claiming.cancelled():
                end = time.monotonic() + 10
                while not await other.claim(f"render {number}"):
                    self.assertLess(time.monotonic(), end, "The claim stays with who has given up.")
                    await asyncio.sleep(0.01)
        self.assertFalse(await other.claim("warm"), "what is claimed is claimed")
        for wire in (one, other):
            await wire.stop()

    def test_words_that_mean_nothing_are_let_pass(self) -> None:
        engine = connect(self.one.database)
        self.addCleanup(engine.dispose)
        with engine.begin() as connection:
            for word in ("", "[", "[]", "{}", '{"kind": "news"}', '{"kind": "answer", "number": []}', '{"kind": []}'):
                connection.execute(text("SELECT pg_notify('inner_tone', :word)"), {"word": word})
        self.test_who_signs_out_at_one_node_is_out_at_the_other()

    def test_nodes_go_on_when_the_wire_is_cut(self) -> None:
        engine = connect(self.one.database)
        self.addCleanup(engine.dispose)
        for number in range(3):
            with engine.begin() as connection:
                connection.execute(
                    text(
                        "SELECT pg_terminate_backend(pid) FROM pg_stat_activity "
                        "WHERE datname = current_database() AND pid <> pg_backend_pid()"
                    )
                )
            answers = [client.post("/api/renders", json=wish(another(400 + number))) for client in self.clients]
            self.assertEqual({one.status_code for one in answers}, {200}, [one.text[:300] for one in answers])


if __name__ == "__main__":
    unittest.main()
