"""A line to the application by which somebody plays live, without a browser."""

import json
import time
from collections.abc import Callable
from types import TracebackType
from typing import Any, Self

import numpy as np
from numpy.typing import NDArray
from websockets.exceptions import ConnectionClosed
from websockets.sync.client import ClientConnection, connect
from websockets.typing import Origin

from inner_tone.api.access import COOKIE, page_token
from inner_tone.api.accounts import DemoAccount
from inner_tone.core.patch.model import Patch
from inner_tone.live.frames import FIRST, WANT, FrameKind
from tests.support.application import Place

PATIENCE_S = 60.0


class Line:
    """Somebody's line; `words` are all that was told so far, `sound` all that was heard, shape (n, 2)."""

    def __init__(self, application: Place, who: DemoAccount, session: str | None = None) -> None:
        token = application.client(who).cookies[COOKIE]
        self.words: list[dict[str, Any]] = []
        self.parts: list[tuple[int, NDArray[np.float32]]] = []
        self.socket: ClientConnection = connect(
            application.address.replace("http", "ws") + "/api/live",
            origin=Origin(application.address),
            additional_headers={"Cookie": f"{COOKIE}={token}"},
            max_size=1 << 24,
        )
        self.tell(kind="hello", token=page_token(token), session=session)

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.socket.close()

    def tell(self, **words: Any) -> None:
        self.socket.send(json.dumps(words))

    def open(self, patch: Patch) -> None:
        """Begin to play a patch."""
        self.until(lambda one: one["kind"] == "welcome")
        self.tell(kind="open", patch=patch.model_dump(mode="json", by_alias=True))
        self.until(lambda one: one["kind"] == "ready")

    @property
    def key(self) -> str:
        """What the session is known by."""
        return str(next(one["session"] for one in self.words if one["kind"] == "welcome"))

    def until(self, look: Callable[[dict[str, Any]], bool], seconds: float = PATIENCE_S) -> dict[str, Any]:
        """Return the first thing that is told and wanted, from now on or before."""
        seen, end = 0, time.monotonic() + seconds
        while True:
            for one in self.words[seen:]:
                if look(one):
                    return one
            seen = len(self.words)
            if time.monotonic() > end:
                raise AssertionError(f"It was not told. Told was: {self.words[-5:]}")
            self.take(1.0)

    def take(self, seconds: float) -> bool:
        """Take what comes next; tells whether anything did. Raises ConnectionClosed."""
        try:
            data = self.socket.recv(timeout=seconds)
        except TimeoutError:
            return False
        if isinstance(data, str):
            self.words.append(json.loads(data))
            if self.words[-1]["kind"] == "pictures":
                self.tell(kind="drawn")
        elif data[0] == FrameKind.SOUND:
            first = FIRST.unpack_from(data, 1)[0]
            self.parts.append((first, np.frombuffer(data, dtype="<f4", offset=1 + FIRST.size).reshape(-1, 2)))
        return True

    @property
    def heard(self) -> int:
        """The sample behind the last that was heard."""
        return self.parts[-1][0] + len(self.parts[-1][1]) if self.parts else 0

    def pull(self, count: int) -> NDArray[np.float32]:
        """Return the next samples, shape (n, 2)."""
        begin = len(self.parts)
        wanted = self.heard + count
        end = time.monotonic() + PATIENCE_S
        while self.heard < wanted:
            self.socket.send(bytes([FrameKind.WANTED]) + WANT.pack(wanted))
            before = self.heard
            while self.heard == before:
                assert time.monotonic() < end, "no sound comes"
                self.take(1.0)
        return np.concatenate([part for _, part in self.parts[begin:]])

    def over(self) -> dict[str, Any]:
        """Return why it is over."""
        try:
            return self.until(lambda one: one["kind"] == "over")
        except ConnectionClosed:
            raise AssertionError("The line was closed without a word.") from None
