"""Two nodes behind nginx, as an operator runs them: nobody is tied to one, and one that dies is not missed."""

import asyncio
import json
import threading
import time
import unittest
from typing import Any

from websockets.asyncio.client import connect
from websockets.typing import Origin

from inner_tone.api.access import COOKIE, page_token
from inner_tone.core.engine.render import render
from inner_tone.demo.foghorn import BLASTS, DISTANT
from inner_tone.demo.seed import MAREN
from inner_tone.formats.audio import stereo, wav_bytes
from tests.support import plain
from tests.support.application import Application, client_of, client_with
from tests.support.proxy import PROGRAM, Proxy

TRUSTING: dict[str, Any] = {"trusted_proxies": "127.0.0.1", "hosts": "127.0.0.1"}


@unittest.skipUnless(PROGRAM.exists(), "nginx is not installed; bin/test installs it")
class ProxyTest(unittest.TestCase):
    def setUp(self) -> None:
        self.one = Application(**TRUSTING)
        self.addCleanup(self.one.stop)
        self.two = Application(database=self.one.database, **TRUSTING)
        self.addCleanup(self.two.stop)
        self.proxy = Proxy([self.one.address, self.two.address])
        self.addCleanup(self.proxy.stop)
        self.client = client_of(self.proxy.address, MAREN)
        self.addCleanup(self.client.close)

    def requests_of(self, node: Application) -> float:
        """Return how many requests a node has answered."""
        lines = plain.get(f"{node.address}/metrics", timeout=30).text.splitlines()
        return sum(float(one.rpartition(" ")[2]) for one in lines if one.startswith("inner_tone_requests_total"))

    def test_a_lesson_is_written_heard_and_played_at_whichever_node(self) -> None:
        lesson = self.client.post("/api/lessons", json={"title": "Gulls", "template": "tone"}).json()
        step, version = lesson["steps"][0], lesson["steps"][0]["version"]
        for number in range(40):
            body = {"version": version, "content": {"why": f"Gull {number}."}}
            answer = self.client.put(f"/api/steps/{step['id']}", json=body)
            self.assertEqual(answer.status_code, 200, answer.text)
            version = answer.json()["version"]
            self.assertEqual(self.read(lesson)["content"]["why"], f"Gull {number}.")
            wish = {"patch": DISTANT.to_json(), "phrase": BLASTS.model_dump(mode="json")}
            key = self.client.post("/api/renders", json=wish).json()["key"]
        done = render(DISTANT, BLASTS)
        self.assertEqual(self.client.get(f"/api/renders/{key}/sound").content, wav_bytes(stereo(done), done.rate))
        for node in (self.one, self.two):
            self.assertGreater(self.requests_of(node), 20, "both are asked")
        self.assertEqual(self.client.get("/metrics").status_code, 404)
        self.assertGreater(asyncio.run(self.heard()), 10_000)

    def read(self, lesson: Any) -> Any:
        return self.client.get(f"/api/lessons/{lesson['id']}").json()["steps"][0]

    async def heard(self) -> int:
        """Play through the proxy; returns the bytes of sound that came."""
        token = self.client.cookies[COOKIE]
        count = 0
        async with connect(
            self.proxy.address.replace("http", "ws") + "/api/live",
            origin=Origin(self.proxy.address),
            additional_headers={"Cookie": f"{COOKIE}={token}"},
            max_size=1 << 24,
        ) as line:
            await line.send(json.dumps({"kind": "hello", "token": page_token(token)}))
            await line.recv()
            await line.send(json.dumps({"kind": "open", "patch": DISTANT.to_json()}))
            await line.send(bytes([3]) + (4096).to_bytes(8, "big"))
            while count <= 10_000:
                data = await asyncio.wait_for(line.recv(), 30)
                count += len(data) if isinstance(data, bytes) else 0
            await line.send('{"kind":"close"}')
        return count

    def test_a_node_that_dies_takes_only_what_is_on_its_way(self) -> None:
        lesson = self.client.post("/api/lessons", json={"title": "Terns", "template": "tone"}).json()
        step = lesson["steps"][0]
        token = self.client.cookies[COOKIE]
        stop, failed, kept = threading.Event(), [], [0]

        def read_on() -> None:
            with client_with(self.proxy.address, token) as client:
                while not stop.is_set():
                    answer = client.get("/api/lessons")
                    if answer.status_code != 200:
                        failed.append((time.monotonic(), answer.status_code))

        readers = [threading.Thread(target=read_on) for _ in range(4)]
        for one in readers:
            one.start()
        version, died = step["version"], 0.0
        for number in range(60):
            if number == 30:
                self.one.kill()
                died = time.monotonic()
            body = {"version": version, "content": {"why": f"Tern {number}."}, "request": None}
            answer = self.client.put(f"/api/steps/{step['id']}", json=body)
            if answer.status_code == 200:
                version, kept[0] = answer.json()["version"], number
            else:  # whoever writes sends it again, and knows by the version whether it was kept
                self.assertIn(answer.status_code, (502, 504), answer.text)
                version = self.read(lesson)["version"]
        stop.set()
        for one in readers:
            one.join(20)
        self.assertEqual(kept[0], 59)
        self.assertEqual(self.read(lesson)["content"]["why"], "Tern 59.")
        self.assertFalse([one for one in failed if one[0] > died + 1.0], "what is asked later is answered")
        self.assertLessEqual(len(failed), len(readers) + 1, failed)


if __name__ == "__main__":
    unittest.main()
