"""How often somebody may try: counted within a moving window, by all who serve the same database together."""

import time
from collections.abc import Sequence

from limits import RateLimitItem, RateLimitItemPerHour, RateLimitItemPerMinute, storage, strategies
from sqlalchemy.exc import SQLAlchemyError

from inner_tone.core.errors import InnerToneError
from inner_tone.store import tries
from inner_tone.store.database import Sessions

Limits = Sequence[tuple[RateLimitItem, str]]

WRONG_FOR_ONE = RateLimitItemPerMinute(8, 15)  # wrong passwords for one name in a quarter of an hour
WRONG_FROM_ONE = RateLimitItemPerMinute(60, 15)  # and from one address, behind which may be a whole class
MADE_FROM_ONE = RateLimitItemPerHour(60)


class TooManyError(InnerToneError):
    """Too many tries in too short a time."""

    def __init__(self, seconds: int) -> None:
        self.seconds = seconds
        super().__init__(f"There were too many tries. Try again in {max(1, round(seconds / 60))} min.")


class Tries(storage.Storage, storage.MovingWindowSupport):
    """Where tries are counted: in the database, so that it is the same whoever serves the next one."""

    STORAGE_SCHEME = None

    def __init__(self, sessions: Sessions) -> None:
        super().__init__()
        self._sessions = sessions

    @property
    def base_exceptions(self) -> type[Exception]:
        """What goes wrong where it is counted."""
        return SQLAlchemyError

    def acquire_entry(self, key: str, limit: int, expiry: int, amount: int = 1) -> bool:
        """Count a try if there is room for it; tell whether there was."""
        with self._sessions.begin() as session:
            return tries.begin(session, key, limit, expiry)

    def get_moving_window(self, key: str, limit: int, expiry: int) -> tuple[float, int]:
        """Return when the first try that still counts was, and how many do."""
        with self._sessions.begin() as session:
            found = tries.within(session, key, expiry)
        return (found[0] if found else time.time()), len(found)

    def forgive(self, key: str) -> None:
        """Take the latest try back: it was none."""
        with self._sessions.begin() as session:
            tries.forgive(session, key)

    def clear(self, key: str) -> None:
        """Forget all tries."""
        with self._sessions.begin() as session:
            tries.clear(session, key)

    def check(self) -> bool:
        """Tell that it is there; whether the database is shows when it is asked."""
        return True

    def incr(self, key: str, expiry: int, amount: int = 1) -> int:
        """Refuse: tries are counted within a moving window alone."""
        raise NotImplementedError

    def get(self, key: str) -> int:
        """Refuse, as above."""
        raise NotImplementedError

    def get_expiry(self, key: str) -> float:
        """Refuse, as above."""
        raise NotImplementedError

    def reset(self) -> int | None:
        """Refuse, as above."""
        raise NotImplementedError


class Limiter:
    """Counts tries within a moving window."""

    def __init__(self, counted: Tries) -> None:
        self._counted = counted
        self._windows = strategies.MovingWindowRateLimiter(counted)

    def begin(self, limits: Limits) -> None:
        """Count a try towards some limits, before it is known how it ends; raises TooManyError if one is reached."""
        begun: list[tuple[RateLimitItem, str]] = []
        for limit, whose in limits:
            if not self._windows.hit(limit, whose):
                self.forgive(begun)
                raise self._too_many(limit, whose)
            begun.append((limit, whose))

    def refuse_if_over(self, limits: Limits) -> None:
        """Raise TooManyError if one of some limits has been reached; nothing is counted."""
        for limit, whose in limits:
            if not self._windows.test(limit, whose):
                raise self._too_many(limit, whose)

    def count(self, limits: Limits) -> None:
        """Count a try towards some limits, now that it is known how it has ended."""
        for limit, whose in limits:
            self._windows.hit(limit, whose)

    def _too_many(self, limit: RateLimitItem, whose: str) -> TooManyError:
        reset = self._windows.get_window_stats(limit, whose).reset_time
        return TooManyError(max(1, round(reset - time.time())))

    def forgive(self, limits: Limits) -> None:
        """Take a try back that was none, such as the right password."""
        for limit, whose in limits:
            self._counted.forgive(limit.key_for(whose))
