"""What can be wrong with a wish about something that is kept."""

from collections.abc import Sequence

from inner_tone.core.errors import InnerToneError
from inner_tone.core.lesson.together import Clash


class DatabaseError(InnerToneError):
    """The database does not answer, or its address cannot be read."""


class NotFoundError(InnerToneError):
    """There is no such thing, or none that this person may know of."""


class ForbiddenError(InnerToneError):
    """This person may see it, but not do that with it."""


class OldPageError(ForbiddenError):
    """The page that asks is from before the present sign-in."""


class NotSignedInError(InnerToneError):
    """Nobody is signed in, or the sign-in has ended."""

    def __init__(self, message: str = "Sign in first.") -> None:
        super().__init__(message)


class GoneError(NotFoundError):
    """It was there, and has been deleted; it can be restored."""


class ConflictError(InnerToneError):
    """Somebody else has changed it meanwhile; `current` is the version that stands now."""

    def __init__(self, what: str, current: int) -> None:
        self.current = current
        super().__init__(f"This {what} has been changed elsewhere meanwhile. Nothing was overwritten.")


class ClashError(ConflictError):
    """Somebody else has changed the very same in a step, and otherwise: it is to be decided what stands."""

    def __init__(self, current: int, clashes: Sequence[Clash]) -> None:
        self.clashes = clashes
        super().__init__("step", current)
