"""Which passwords are too easily guessed, by the list and the estimate of zxcvbn (Wheeler, USENIX Security 2016)."""

from zxcvbn import zxcvbn

from inner_tone.core.errors import InnerToneError

LEAST = 10
MOST_LOOKED_AT = 72  # characters; its time grows with their square
LEAST_GUESSES = 1e6  # that somebody who tries the likely ones first needs at least


class EasyPasswordError(InnerToneError):
    """A password that is among the first that somebody would try."""


def refuse_easy(password: str, *about: str) -> None:
    """Raise EasyPasswordError for a password that is short, common, or made from what is known about its owner."""
    if len(password) < LEAST:
        raise EasyPasswordError(f"The password has {len(password)} characters. It needs at least {LEAST}.")
    found = zxcvbn(password[:MOST_LOOKED_AT], user_inputs=[one for one in about if one])
    if found["guesses"] < LEAST_GUESSES:
        why = found["feedback"]["warning"] or "It would be among the first that somebody tries."
        raise EasyPasswordError(f"This password is easily guessed. {why} Three or four words of your own are better.")
