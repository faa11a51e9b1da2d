"""The doors: addresses that mean nothing, bodies without an end, HEAD, and what browsers are told with every answer.

The policies are those of OWASP's list of secure headers: scripts, styles and pictures come from here alone, nobody may
put these pages into a frame, and no address is told to others.
"""

from collections.abc import Sequence

from sqlalchemy.exc import OperationalError
from starlette.datastructures import Headers, MutableHeaders
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from inner_tone.api.access import whose
from inner_tone.api.crowd import token_of
from inner_tone.api.problems import problem
from inner_tone.store.errors import NotSignedInError

FOR_WATCHERS = ("/health", "/ready", "/metrics")  # who watches over many nodes asks them by their addresses
LONGEST_ADDRESS = 4_000
LARGEST_FILE = 80 * 1024 * 1024  # bytes; a route may allow less
LARGEST_JSON = 24 * 1024 * 1024
LARGEST_OF_ANYBODY = 16 * 1024
OPEN_TO_ANYBODY = "/api/account"  # what is sent there is a few words

POLICY = "; ".join(
    (
        "default-src 'self'",
        "script-src 'self'",
        "worker-src 'self'",
        "style-src 'self'",
        "img-src 'self' data: blob:",
        "media-src 'self' blob:",
        "connect-src 'self' ws: wss:",
        "object-src 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
    )
)
TOLD = {
    "content-security-policy": POLICY,
    "x-content-type-options": "nosniff",
    "referrer-policy": "same-origin",
    "cross-origin-opener-policy": "same-origin",
    "permissions-policy": "camera=(), geolocation=(), microphone=(self), midi=(self)",
}
SECURE = {"strict-transport-security": "max-age=31536000"}


class Doors:
    """What every request passes on its way in, and every answer on its way out."""

    def __init__(self, app: ASGIApp, hosts: Sequence[str]) -> None:
        self.app, self.hosts = app, hosts

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let a request through, or refuse it."""
        if scope["type"] == "websocket" and not self.knows(scope):
            await send({"type": "websocket.close", "code": 1008})
            return
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        bare = scope["method"] == "HEAD"
        told = {**TOLD, **(SECURE if scope.get("scheme") == "https" else {})}
        private = scope["path"].startswith("/api/")

        async def answer(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in told.items():
                    headers.setdefault(name, value)
                if private:
                    headers.setdefault("cache-control", "no-store")
            if bare and message["type"] == "http.response.body":
                message = {**message, "body": b""}
            await send(message)

        if refused := wrong_address(scope):
            await problem("No such address", 400, refused)(scope, receive, answer)
            return
        if not self.knows(scope) and scope["path"] not in FOR_WATCHERS:
            words = "The application is not reached by this name. Its operator can add it."
            await problem("No such host", 421, words)(scope, receive, answer)
            return
        inner = {**scope, "method": "GET"} if bare else scope
        await self.app(inner, within(scope, receive), answer)
        scope["route"] = inner.get("route")

    def knows(self, scope: Scope) -> bool:
        """Tell whether a request is for a name of ours: pages of others may give us any name (DNS rebinding)."""
        host = Headers(scope=scope).get("host", "").casefold()
        name = host.rpartition(":")[0] if not host.endswith("]") and ":" in host else host
        return any(fits(name, one) for one in self.hosts)


async def is_somebody(scope: Scope) -> bool:
    """Tell whether whoever asks has signed in."""
    try:
        await whose(scope["app"], token_of(scope))
    except NotSignedInError:
        return False
    except OperationalError as error:  # else it would be told as a body that cannot be read
        raise HTTPException(503, "The database cannot be reached just now. Nothing was changed; try again.") from error
    return True


def fits(name: str, known: str) -> bool:
    """Tell whether a host's name is one that is known, or below it where that begins with a star."""
    return known == "*" or name == known.casefold() or (known.startswith("*.") and name.endswith(known[1:].casefold()))


def wrong_address(scope: Scope) -> str:
    """Return why an address means nothing, or nothing."""
    raw = scope.get("raw_path", b"") + scope.get("query_string", b"")
    if len(raw) > LONGEST_ADDRESS:
        return f"The address has {len(raw)} characters; none has more than {LONGEST_ADDRESS}."
    if "\0" in scope["path"] or b"%00" in raw:
        return "The address has a character in it that is none."
    return ""


def within(scope: Scope, receive: Receive) -> Receive:
    """Return what receives a body, and raises HTTPException when it goes on beyond what is read.

    Of somebody who has not signed in no more is read than a sign-in takes.
    """
    kind = Headers(scope=scope).get("content-type", "").partition(";")[0].strip().casefold()
    most = LARGEST_JSON if not kind or kind.endswith("json") else LARGEST_FILE
    size, known = 0, False

    async def bounded() -> Message:
        nonlocal size, known
        message = await receive()
        size += len(message.get("body", b""))
        if size > most:
            raise HTTPException(413, "What was sent is larger than anything that is kept here.")
        if size > LARGEST_OF_ANYBODY and not known:
            known = not scope["path"].startswith(OPEN_TO_ANYBODY) and await is_somebody(scope)
            if not known:
                raise HTTPException(413, "What was sent is larger than anything that is read before a sign-in.")
        return message

    return bounded
