"""One database server for all tests of a run, and databases that are copied: an empty one, and one with the demo."""

import fcntl
import itertools
import json
import os
from collections.abc import Callable
from functools import lru_cache
from pathlib import Path

from sqlalchemy import Engine

from inner_tone.demo.seed import seed
from inner_tone.store.database import connect, migrate, sessions
from inner_tone.store.server import Server, running
from tests.support.lasting import LASTING

FOLDERS = Path(__file__).resolve().parents[2] / "var" / "test"
SHARED = "TESTS_DATABASE_SERVER"  # where the one who runs many workers says which server they share
HASTY = {  # a test's data need not outlive the machine
    "max_connections": "300",
    "shared_buffers": "128MB",
    "fsync": "off",
    "synchronous_commit": "off",
    "full_page_writes": "off",
    "autovacuum": "off",
}
PREFIX = "test_"
EMPTY, DEMO = "template_empty", "template_demo"
WORLD = f"{PREFIX}world"  # the one that the applications share that most tests use
_numbers = itertools.count()


@lru_cache(maxsize=1)
def server() -> Server:
    """Return the server that the workers share, or one of our own, which is stopped at the end."""
    if shared := os.environ.get(SHARED):
        told = json.loads(shared)
        return Server(Path(told["folder"]), told["port"], told["password"])
    started = LASTING.enter_context(running(own_folder(), HASTY))
    prepare(started)
    return started


def own_folder() -> Path:
    """Return a folder for a server that no other run of tests uses until this one ends."""
    FOLDERS.mkdir(parents=True, exist_ok=True)
    for number in itertools.count():
        lock = (FOLDERS / f"lock-{number}").open("w")
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            lock.close()
            continue
        LASTING.callback(lock.close)
        return FOLDERS / f"postgresql-{number}"
    raise AssertionError("there is always another number")


def share(started: Server) -> dict[str, str]:
    """Return the environment in which workers use a server; what they copy is prepared."""
    prepare(started)
    told = {"folder": str(started.folder), "port": started.port, "password": started.password}
    return {SHARED: json.dumps(told)}


def prepare(started: Server) -> None:
    """Make the databases that are copied; what earlier runs have left is cleared away."""
    started.drop_databases(f"{PREFIX}%")
    fills: dict[str, Callable[[Engine], None]] = {EMPTY: migrate, DEMO: filled}
    for name, fill in fills.items():
        engine = connect(started.create_database(name, fresh=True))
        fill(engine)
        engine.dispose()
    started.create_database(WORLD, fresh=True, like=DEMO)


def world_url() -> str:
    """Return the address of the database with the demo that most tests share."""
    return server().url(WORLD)


def filled(engine: Engine) -> None:
    """Put the demo's lessons into a database."""
    migrate(engine)
    seed(sessions(engine))


def fresh_url(like: str = "template0") -> str:
    """Return the address of a new database: with nothing in it, or a copy of one that is prepared."""
    return server().create_database(f"{PREFIX}{os.getpid()}_{next(_numbers)}", fresh=True, like=like)


def fresh_engine() -> Engine:
    """Return an engine for a new database that has been migrated."""
    return connect(fresh_url(EMPTY))
