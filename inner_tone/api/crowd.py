"""How many requests of one sign-in are under way: what is more is refused before anything of it is read."""

from collections import Counter
from http.cookies import CookieError, SimpleCookie

from starlette.types import ASGIApp, Receive, Scope, Send

from inner_tone.api.access import COOKIE
from inner_tone.api.problems import busy
from inner_tone.work.errand import BusyError

MOST_UNDER_WAY = 32  # requests; a browser asks for six at a time


class Crowd:
    """Lets in no more of one sign-in at once than a person needs: the many of one must not delay the few of another."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app
        self.under_way: Counter[str] = Counter()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let a request in, or refuse it."""
        token = token_of(scope) if scope["type"] == "http" else ""
        if not token:
            await self.app(scope, receive, send)
        elif self.under_way[token] >= MOST_UNDER_WAY:
            error = BusyError(f"You have asked for {MOST_UNDER_WAY} things at once. Wait until some of them are done.")
            await busy(error)(scope, receive, send)
        else:
            self.under_way[token] += 1
            try:
                await self.app(scope, receive, send)
            finally:
                self.under_way[token] -= 1
                if not self.under_way[token]:
                    del self.under_way[token]


def token_of(scope: Scope) -> str:
    """Return the token of the sign-in that a request shows, if it shows one."""
    try:
        shown = b"; ".join(value for name, value in scope["headers"] if name == b"cookie")
        cookies = SimpleCookie(shown.decode("latin-1"))
    except CookieError:
        return ""
    return cookies[COOKIE].value if COOKIE in cookies else ""
