"""Runs the application on loopback."""

import socket
import sys
from collections.abc import Callable, Sequence

import uvicorn

from inner_tone.api.accounts import DemoAccount
from inner_tone.api.app import create_app
from inner_tone.store.database import connect, migrate, sessions
from inner_tone.work.template import Template, load

LARGEST_MESSAGE = 1 << 20  # bytes, of a WebSocket
TURN_SECONDS = 0.0005  # after which a thread gives way; Python's 5 ms would let each short answer wait for long ones


def listening_socket(port: int) -> socket.socket:
    """Return a socket that listens on loopback; port 0 takes a free one. Raises OSError."""
    # named as TCP, so that asyncio sends small answers at once instead of waiting for the last to be acknowledged
    listener = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    listener.bind(("127.0.0.1", port))
    listener.listen(1024)  # a whole school opens the page at once
    return listener


def address(listener: socket.socket) -> str:
    """Return where the application answers."""
    return f"http://127.0.0.1:{listener.getsockname()[1]}/"


def serve(
    database: str,
    port: int,
    ready: Callable[[str], None] | None = None,
    demo: Sequence[DemoAccount] = (),
    *,
    plays_at_once: bool = True,
    workers: int | None = None,
) -> None:
    """Serve until told to stop; `ready` is given the address once requests are taken.

    `demo` are accounts that are offered to everybody. The processes that play are started `at once`, or when somebody
    plays first. `workers` is how many processes work: two at least, by itself as many as there
    are processors.
    """
    load()
    template = Template()
    template.start()  # before there are threads and connections
    sys.setswitchinterval(TURN_SECONDS)
    engine = connect(database)
    migrate(engine)
    app = create_app(sessions(engine), demo, template, workers)
    app.state.plays_at_once = plays_at_once
    listener = listening_socket(port)
    (ready or announce)(address(listener))
    config = uvicorn.Config(app, log_level="warning", timeout_graceful_shutdown=3, ws_max_size=LARGEST_MESSAGE)
    uvicorn.Server(config).run(sockets=[listener])
    engine.dispose()


def announce(where: str) -> None:
    """Print the address."""
    print(f"Inner Tone answers at {where}", flush=True)
