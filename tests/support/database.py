"""One database server for a run of the tests, started when it is first needed and stopped at the end."""

import atexit
import itertools
import os
from contextlib import ExitStack
from functools import lru_cache
from pathlib import Path

from sqlalchemy import Engine

from inner_tone.store.database import connect, migrate
from inner_tone.store.server import Server, running

FOLDER = Path(__file__).resolve().parents[2] / "var" / "test" / os.environ.get("TESTS", "all") / "postgresql"
_numbers = itertools.count()


@lru_cache(maxsize=1)
def server() -> Server:
    stack = ExitStack()
    started = stack.enter_context(running(FOLDER))
    atexit.register(stack.close)
    return started


def fresh_url() -> str:
    """Return the address of a database that is new and empty."""
    return server().create_database(f"test_{next(_numbers)}", fresh=True)


def fresh_engine() -> Engine:
    """Return an engine for a new database that has been migrated."""
    engine = connect(fresh_url())
    migrate(engine)
    return engine
