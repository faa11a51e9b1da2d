"""What a process that works is sent, and what it sends back."""

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from inner_tone.core.analysis.sound import Sound
from inner_tone.core.cost import MOST_SECONDS, cost_of, refuse_if_dear
from inner_tone.core.engine.render import Watch, unwatched
from inner_tone.core.errors import InnerToneError
from inner_tone.core.patch.model import Patch
from inner_tone.core.phrase import Phrase
from inner_tone.work.studio import Studio, Take, passes

FEW = 4  # pieces that fit between others
LONG_SECONDS = 5.0  # of one core: what takes longer waits in a line of its own


class LongError(InnerToneError):
    """Work that would take longer than fits between others: it is to be sent again, as such."""


class WorkEndedError(InnerToneError):
    """Work whose process has ended before it was done."""


class BusyError(InnerToneError):
    """Somebody waits for more than anybody may at once."""


@dataclass
class Workplace:
    """Where an errand is done: what its process remembers, who watches, and what has been spent of its budget.

    `long` says that it may take its time; `most` is its budget, in seconds of one core.
    """

    studio: Studio
    watch: Watch = unwatched
    long: bool = False
    most: float = MOST_SECONDS
    spent: float = 0.0  # seconds of one core, at most

    def charge(self, patch: Patch, phrase: Phrase, taps: Collection[str] = (), times: int = 1) -> None:
        """Note what is about to be rendered; raises TooDearError, and LongError if that does not fit between others.

        Of a search, which ends as soon as it has found something, the first of its `times` counts towards what is
        refused; all of them make it long.
        """
        cost = cost_of(patch, phrase, taps)
        self.spent += cost.seconds
        refuse_if_dear(replace(cost, seconds=self.spent), self.most)
        self.spent += (times - 1) * cost.seconds
        if self.spent > LONG_SECONDS and not self.long:
            raise LongError("This takes its time.")

    def begin_anew(self, steps: int) -> None:
        """Begin the budget anew for the next of several pieces; raises LongError if they are many."""
        self.spent = 0.0
        if steps > FEW and not self.long:
            raise LongError("This takes its time.")

    def take(self, patch: Patch, phrase: Phrase, taps: Collection[str] = ()) -> Take:
        """Return the render of a patch playing a phrase, with at least the given taps.

        Raises TapError, TooDearError, LongError and what the watch raises.
        """
        if self.studio.lacks(patch, phrase, taps):
            for group in passes(patch, phrase, taps):
                self.charge(patch, phrase, group)
        return self.studio.take(patch, phrase, taps, self.watch)

    def sounds(self, patch: Patch, phrase: Phrase, taps: Collection[str]) -> dict[str, Sound]:
        """Return the sounds of some taps, as they are remembered or rendered."""
        take = self.take(patch, phrase, taps)
        return {tap: take.sounds[tap] for tap in taps}


@dataclass(frozen=True)
class Errand:
    """Something to be done in another process: a function that is given its place first, and what else it is given."""

    work: Callable[..., Any]
    given: tuple[Any, ...]
    named: dict[str, Any] = field(default_factory=dict)
    sounds: Mapping[str, bytes] = field(default_factory=dict)  # own sounds that it plays, by their keys, as FLAC
    patient: bool = False  # whether all that somebody waits for comes first
    long: bool = False
    most: float = MOST_SECONDS

    @property
    def kind(self) -> str:
        """By what work of its kind is known."""
        return self.work.__name__


@dataclass(frozen=True)
class Done:
    """What an errand has come to: what was found, or the error that was raised."""

    found: Any = None
    error: BaseException | None = None


@dataclass(frozen=True)
class Cutting:
    """How much of an errand is done, 0 to 1."""

    part: float


@dataclass(frozen=True)
class Stop:
    """Word that nobody waits any longer."""
