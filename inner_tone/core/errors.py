"""What can be wrong with a document or a wish, said so that a person can mend it."""

from collections.abc import Sequence
from dataclasses import dataclass
from difflib import get_close_matches
from typing import Any

MOST_NAMED = 12
MOST_TOLD = 20  # of the things that are wrong with one document
LONGEST_QUOTED = 60  # characters of what somebody has written


@dataclass(frozen=True)
class Problem:
    """One thing that is wrong: where in the document, what, and what to do about it."""

    path: str
    message: str
    remedy: str = ""

    def __str__(self) -> str:
        """Return the problem as one sentence for a person."""
        place = f"{self.path}: " if self.path else ""
        remedy = f" {self.remedy}" if self.remedy else ""
        return f"{place}{self.message}{remedy}"


class InnerToneError(Exception):
    """Any error that is the user's to mend; its text is a sentence for them."""

    def __reduce__(self) -> tuple[Any, ...]:
        """Let it be the same in another process, whatever it was made from."""
        return again, (type(self), self.args, self.__dict__)


def again(kind: type[InnerToneError], args: tuple[Any, ...], known: dict[str, Any]) -> InnerToneError:
    """Return an error as it was, with its text and what it knows."""
    error = kind.__new__(kind, *args)
    error.__dict__.update(known)
    return error


class DocumentError(InnerToneError):
    """A patch, a phrase or a lesson that cannot be read; `problems` names the first places, and there are `more`."""

    def __init__(self, problems: Sequence[Problem], more: int = 0) -> None:
        self.problems = tuple(problems[:MOST_TOLD])
        self.more = more + len(problems) - len(self.problems)
        super().__init__(" ".join([*map(str, self.problems), *([f"And {self.more:,} more."] if self.more else [])]))


class TapError(InnerToneError):
    """A tap that the patch does not have."""


class RenderStoppedError(InnerToneError):
    """A render that was given up before it was done."""

    def __init__(self) -> None:
        super().__init__("The render was stopped.")


def quoted(text: str, most: int = LONGEST_QUOTED) -> str:
    """Return what somebody has written, or its beginning."""
    return text if len(text) <= most else f"{text[: most - 1]}…"


def did_you_mean(word: str, known: Sequence[str]) -> str:
    """Return a remedy that names the nearest known word, or all of them."""
    word = word[:LONGEST_QUOTED]  # nothing that is known is longer
    close = get_close_matches(word, known, n=1)
    if close:
        return f"Did you mean “{close[0]}”?"
    if not known:
        return ""
    more = " and others" if len(known) > MOST_NAMED else ""
    return "Possible: " + ", ".join(known[:MOST_NAMED]) + f"{more}."
