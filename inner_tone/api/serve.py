"""Runs the application."""

import socket
import sys
from collections.abc import Callable, Sequence

import uvicorn

from inner_tone.api.accounts import DemoAccount
from inner_tone.api.app import create_app
from inner_tone.api.logs import write_logs
from inner_tone.api.settings import Settings
from inner_tone.store.database import connect, migrate, sessions
from inner_tone.work.template import Template

LARGEST_MESSAGE = 1 << 20  # bytes, of a WebSocket
GRACE_SECONDS = 6  # for what is under way when it is told to stop
KEEP_SECONDS = 75  # of an idle connection: longer than proxies and clients keep their end, so none ends under a request
TURN_SECONDS = 0.0005  # after which a thread gives way; Python's 5 ms would let each short answer wait for long ones


def listening_socket(host: str, port: int) -> socket.socket:
    """Return a socket that listens on an address; port 0 takes a free one. Raises OSError."""
    # named as TCP, so that asyncio sends small answers at once instead of waiting for the last to be acknowledged
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    listener = socket.socket(family, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    listener.bind((host, port))
    listener.listen(1024)  # a whole school opens the page at once
    return listener


def address(listener: socket.socket) -> str:
    """Return where the application answers."""
    host, port = listener.getsockname()[:2]
    return f"http://[{host}]:{port}/" if ":" in host else f"http://{host}:{port}/"


def serve(
    settings: Settings,
    ready: Callable[[str], None] | None = None,
    demo: Sequence[DemoAccount] = (),
    *,
    plays_at_once: bool = True,
) -> None:
    """Serve until told to stop; `ready` is given the address once requests are taken.

    `demo` are accounts that are offered to everybody. The processes that play are started `at once`, or when somebody
    plays first. Told to stop, it takes no more requests, and has those that run end within ten seconds.
    """
    write_logs(settings.log)
    template = Template()
    template.start()  # before there are threads and connections
    sys.setswitchinterval(TURN_SECONDS)
    engine = connect(settings.database)
    migrate(engine)
    app = create_app(sessions(engine), settings, demo, template)
    app.state.plays_at_once = plays_at_once
    listener = listening_socket(settings.address, settings.port)
    (ready or announce)(address(listener))
    config = uvicorn.Config(
        app,
        log_config=None,
        log_level="warning",
        timeout_graceful_shutdown=GRACE_SECONDS,
        timeout_keep_alive=KEEP_SECONDS,
        ws_max_size=LARGEST_MESSAGE,
        server_header=False,
        proxy_headers=bool(settings.trusted_proxies),
        forwarded_allow_ips=list(settings.trusted_proxies),
    )
    uvicorn.Server(config).run(sockets=[listener])
    engine.dispose()


def announce(where: str) -> None:
    """Print the address."""
    print(f"Inner Tone answers at {where}", flush=True)
