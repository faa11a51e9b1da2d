"""Everything is killed in turn, while somebody writes and somebody waits for a sound; nothing acknowledged is lost.

`python -m tests.kills [COUNT]` prints what became of so many kills: of the application, of the processes that work,
and of PostgreSQL. https://www.postgresql.org/docs/15/wal-reliability.html is what it holds the database to.
"""

import os
import random
import signal
import sys
import tempfile
import threading
import time
import uuid
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import httpx

from inner_tone.api.access import COOKIE
from inner_tone.demo.foghorn import BLASTS, DISTANT
from inner_tone.demo.seed import MAREN, seed
from inner_tone.store.database import connect, migrate, sessions
from inner_tone.store.server import (
    USUAL,
    Server,
    free_port,
    initialise,
    password_of,
    start,
    stop,
    wait_until_ready,
)
from tests.support.application import Application, client_of, client_with, is_ready
from tests.support.patience import wait_for
from tests.support.processes import family

MANY = 200
WRITING_SECONDS = 0.6  # before each kill, give or take as much
SEED = 17
TARGETS = ("application", "work", "database")


@dataclass
class Writer:
    """Somebody who writes on, whatever happens, and remembers what was acknowledged."""

    address: str
    token: str
    step: str
    lesson: str
    written: int = 0
    acknowledged: int = -1
    lost: list[str] = field(default_factory=list)
    failures: Counter[str] = field(default_factory=Counter)
    stopped: threading.Event = field(default_factory=threading.Event)

    def write_on(self) -> None:
        """Write one text after the other; each is sent until it is acknowledged, as the page does."""
        with client_with(self.address, self.token) as client:
            while not self.stopped.is_set():
                self.send(client, self.written)
                self.written += 1

    def send(self, client: httpx.Client, number: int) -> None:
        """Send a text until it is acknowledged."""
        request = str(uuid.uuid4())
        while not self.stopped.is_set():
            try:
                step = self.stands(client)
                if int(step["content"]["why"].removeprefix("Wave ")) < self.acknowledged:
                    self.lost.append(f"{step['content']['why']} stands, {self.acknowledged} was acknowledged")
                body = {"version": step["version"], "content": {"why": f"Wave {number}"}, "request": request}
                answer = client.put(f"/api/steps/{self.step}", json=body)
                if answer.status_code == 200:
                    self.acknowledged = number
                    return
                self.failures[f"{answer.status_code}"] += 1
            except (httpx.HTTPError, KeyError) as error:
                self.failures[type(error).__name__] += 1
            time.sleep(0.02)

    def stands(self, client: httpx.Client) -> Any:
        """Return the step as it stands."""
        return client.get(f"/api/lessons/{self.lesson}").json()["steps"][0]

    def listen_on(self) -> None:
        """Ask for one sound after the other; each is another one."""
        phrase = BLASTS.model_dump(mode="json")
        number = 0
        with client_with(self.address, self.token) as client:
            while not self.stopped.is_set():
                number += 1
                patch = DISTANT.to_json()
                for module in patch["modules"]:
                    if module["id"] == "bell":
                        module["settings"] = {**module.get("settings", {}), "cutoff": 300.0 + number}
                try:
                    answer = client.post("/api/renders", json={"patch": patch, "phrase": phrase})
                    self.failures["no sound"] += answer.status_code == 500
                except httpx.HTTPError:
                    time.sleep(0.02)


@dataclass
class Outcome:
    """What became of some kills: how long it took to be ready again, what was lost, and how often it was killed."""

    ready: dict[str, list[float]]
    lost: list[str]
    written: int
    failures: Counter[str]


class Place:
    """An application on a database server of its own, which can be killed as well."""

    def __init__(self, folder: Path) -> None:
        folder.mkdir()
        self.folder, self.data = folder, folder / "data"
        initialise(folder, self.data, password_of(folder))
        self.server = Server(folder, free_port(), password_of(folder))
        self.begin()
        engine = connect(self.server.create_database("inner_tone"))
        migrate(engine)
        seed(sessions(engine))
        engine.dispose()
        self.application = Application(database=self.server.url("inner_tone"))

    def begin(self) -> None:
        """Start the database."""
        self.process = start(self.folder, self.data, self.server.port, USUAL)
        wait_until_ready(self.server, self.process)

    def kill(self, target: str) -> None:
        """Kill something, and start it again where nobody else does."""
        process = self.application.process
        assert process is not None
        if target == "application":
            self.application.kill()
            self.application.start()
        elif target == "work":
            for one in family(process)[1:]:
                os.kill(one, signal.SIGKILL)
        else:
            for one in family(self.process.pid):
                os.kill(one, signal.SIGKILL)
            self.process.wait(20)
            self.begin()

    def stop(self) -> None:
        """End everything."""
        self.application.stop()
        stop(self.data, self.process)


def killed(count: int) -> Outcome:
    """Return what becomes of so many kills."""
    dice = random.Random(SEED)
    with tempfile.TemporaryDirectory() as name:
        os.chmod(name, 0o755)
        place = Place(Path(name) / "postgresql")
        try:
            token = client_of(place.application.address, MAREN).cookies[COOKIE]
            with client_with(place.application.address, token) as client:
                lesson = client.post("/api/lessons", json={"title": "Waves", "template": "tone"}).json()
                step = lesson["steps"][0]
                begun = {"version": step["version"], "content": {"why": "Wave -1"}}
                client.put(f"/api/steps/{step['id']}", json=begun).raise_for_status()
            writer = Writer(place.application.address, token, step["id"], lesson["id"])
            threads = [threading.Thread(target=one) for one in (writer.write_on, writer.listen_on)]
            for one in threads:
                one.start()
            ready: dict[str, list[float]] = {target: [] for target in TARGETS}
            for number in range(count):
                time.sleep(WRITING_SECONDS * dice.uniform(0.5, 1.5))
                target = TARGETS[number % len(TARGETS)]
                start = time.monotonic()
                place.kill(target)
                wait_for(lambda: is_ready(place.application.address), 60, "an application that is ready")
                ready[target].append(time.monotonic() - start)
            time.sleep(1.0)
            writer.stopped.set()
            for one in threads:
                one.join(130)
            with client_with(place.application.address, token) as client:
                stands = writer.stands(client)["content"]["why"]
            if stands not in (f"Wave {writer.acknowledged}", f"Wave {writer.acknowledged + 1}"):
                writer.lost.append(f"{stands} stands at the end, {writer.acknowledged} was acknowledged")
            return Outcome(ready, writer.lost, writer.acknowledged + 1, writer.failures)
        finally:
            place.stop()


def main() -> int:
    """Kill, and say what became of it; returns 0 if nothing was lost."""
    outcome = killed(int(sys.argv[1]) if len(sys.argv) > 1 else MANY)
    for target, times in outcome.ready.items():
        if times:
            print(
                f"{target}: {len(times)} kills, ready again in {sorted(times)[len(times) // 2]:.2f} s, "
                f"at most {max(times):.2f} s"
            )
    print(f"acknowledged edits: {outcome.written}; lost: {len(outcome.lost)}; failed tries: {dict(outcome.failures)}")
    for one in outcome.lost:
        print(one)
    return 1 if outcome.lost or outcome.failures["no sound"] else 0


if __name__ == "__main__":
    sys.exit(main())
