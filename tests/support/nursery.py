"""The application as tests run it: it tells where it answers, and ends with the process that has begun it."""

import os
import signal
import socket
import threading
from typing import Any

from argon2 import PasswordHasher

from inner_tone.api.serve import serve
from inner_tone.api.settings import settings_from
from inner_tone.store import accounts

# A fifth of a second of two processors for each account is right for people; the tests make hundreds. What it is by
# itself, `tests/store/test_accounts.py` asks.
USUAL = accounts.hasher
accounts.hasher = PasswordHasher(time_cost=1, memory_cost=64, parallelism=1)


def serve_and_tell(given: dict[str, Any], line: socket.socket) -> None:
    """Serve with some settings until told to stop; the address is sent once requests are taken."""

    def end_with_the_test() -> None:
        line.recv(1)  # nothing ever comes but the end
        os.kill(os.getpid(), signal.SIGTERM)

    def ready(address: str) -> None:
        line.sendall(address.encode())
        threading.Thread(target=end_with_the_test, daemon=True).start()

    serve(settings_from(**given), ready, plays_at_once=False)
