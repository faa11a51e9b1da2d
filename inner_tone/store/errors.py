"""What can be wrong with a wish about something that is kept."""

from inner_tone.core.errors import InnerToneError


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


class ConflictError(InnerToneError):
    """Somebody else has changed it meanwhile; `current` is the version that stands now."""

    def __init__(self, what: str, current: int) -> None:
        self.current = current
        super().__init__(f"This {what} has been changed elsewhere meanwhile. Nothing was overwritten.")
