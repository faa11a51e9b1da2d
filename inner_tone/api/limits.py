"""How often somebody may try: counted within a moving window, in the memory of this process."""

import time
from collections.abc import Sequence

from limits import RateLimitItem, RateLimitItemPerHour, RateLimitItemPerMinute, storage, strategies

from inner_tone.core.errors import InnerToneError

Limits = Sequence[tuple[RateLimitItem, str]]

WRONG_FOR_ONE = RateLimitItemPerMinute(8, 15)  # wrong passwords for one name in a quarter of an hour
WRONG_FROM_ONE = RateLimitItemPerMinute(60, 15)  # and from one address, behind which may be a whole class
MADE_FROM_ONE = RateLimitItemPerHour(60)


class TooManyError(InnerToneError):
    """Too many tries in too short a time."""

    def __init__(self, seconds: int) -> None:
        self.seconds = seconds
        super().__init__(f"There were too many tries. Try again in {max(1, round(seconds / 60))} min.")


class Limiter:
    """Counts tries within a moving window, in the memory of this process."""

    def __init__(self) -> None:
        self._windows = strategies.MovingWindowRateLimiter(storage.MemoryStorage())

    def refuse_if_over(self, limits: Limits) -> None:
        """Raise TooManyError if one of some limits has been reached."""
        for limit, whose in limits:
            if not self._windows.test(limit, whose):
                reset = self._windows.get_window_stats(limit, whose).reset_time
                raise TooManyError(max(1, round(reset - time.time())))

    def count(self, limits: Limits) -> None:
        """Count a try towards some limits."""
        for limit, whose in limits:
            self._windows.hit(limit, whose)
