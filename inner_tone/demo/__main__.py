"""`bin/demo`: a database server of its own, the demo lessons, and the application, until it is told to stop."""

import argparse
import signal
import sys
import threading
from pathlib import Path
from types import FrameType

from inner_tone.api.serve import serve
from inner_tone.api.settings import settings_from
from inner_tone.core.errors import InnerToneError
from inner_tone.demo.enrol import enrol
from inner_tone.demo.seed import ACCOUNTS, seed
from inner_tone.store.database import connect, migrate, sessions
from inner_tone.store.server import running

DATABASE = "inner_tone"


def main() -> int:
    """Run the demo; returns the exit status."""
    parser = argparse.ArgumentParser(prog="bin/demo", description="Start Inner Tone with the demo lessons.")
    parser.add_argument("--port", type=int, default=0, help="the port to answer on (default: a free one)")
    parser.add_argument("--data", type=Path, default=Path("var/demo"), help=argparse.SUPPRESS)
    wishes = parser.parse_args()
    for name in (signal.SIGTERM, signal.SIGHUP):
        signal.signal(name, leave)
    try:
        with running((wishes.data / "postgresql").resolve()) as server:
            show(server.create_database(DATABASE), wishes.port)
    except KeyboardInterrupt:
        return 0
    except (InnerToneError, OSError) as error:
        print(f"bin/demo: {error}", file=sys.stderr)
        return 1
    return 0


def leave(_signal: int, _frame: FrameType | None) -> None:
    """End as Ctrl-C does, so that everything is stopped in order."""
    raise KeyboardInterrupt


def show(url: str, port: int) -> None:
    """Serve the demo on a database, and put the course in meanwhile."""
    prepare(url)
    ending = threading.Event()
    follower = threading.Thread(target=follow_up, args=(url, ending))

    def answering(where: str) -> None:
        follower.start()  # not before: others can be forked from a process only as long as it has no threads
        ready(where)

    try:
        serve(settings_from(database=url, port=port), answering, ACCOUNTS)
    finally:
        ending.set()
        if follower.is_alive():
            follower.join()


def prepare(url: str) -> None:
    """Bring the database up to date and put the demo lessons into a new one."""
    engine = connect(url)
    migrate(engine)
    seed(sessions(engine))
    engine.dispose()


def follow_up(url: str, ending: threading.Event) -> None:
    """Put the course in while the application begins to answer, which nobody need wait for."""
    engine = connect(url)
    enrol(sessions(engine), ending.is_set)
    engine.dispose()


def ready(where: str) -> None:
    """Say where the application is, who can sign in, and how to stop it."""
    print(f"Inner Tone answers at {where}")
    for one in ACCOUNTS:
        print(f"Sign in as {one.sign_in} with the password “{one.password}”: {one.name}, {one.role}.")
    print("Stop it with Ctrl-C.", flush=True)


if __name__ == "__main__":
    sys.exit(main())
