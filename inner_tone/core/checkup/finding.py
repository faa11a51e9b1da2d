"""A finding: what the checkup has to say about one place of a patch."""

from dataclasses import dataclass
from typing import Literal

from inner_tone.core.message import Message
from inner_tone.core.patch.moves import Edit
from inner_tone.core.phrase import Phrase

Code = Literal[
    "no-sound",
    "too-quiet",
    "drone",
    "goes-nowhere",
    "unheard",
    "unmoving",
    "stands-still",
    "masked-gate",
    "lone-factor",
    "too-far",
    "one-sided",
    "pitch-not-followed",
    "out-of-tune",
    "out-of-hearing",
    "clipping",
    "dc-offset",
    "click",
    "cut-short",
    "release-mismatch",
    "sounds-unplayed",
    "runaway",
    "aliasing",
]


@dataclass(frozen=True)
class Remedy:
    """What to do about a finding, in words; with edits of the patch, or another phrase, where one move mends it.

    `action` says what that move does, where the words name other ways too.
    """

    words: Message
    edits: tuple[Edit, ...] = ()
    action: Message | None = None
    phrase: Phrase | None = None


@dataclass(frozen=True)
class Finding:
    """Something that is probably not meant: its place, what was measured, why it matters, and what to do.

    `module` is empty where the patch as a whole is meant, `port` where it is no single port.
    """

    code: Code
    module: str
    port: str
    message: Message
    measured: Message
    why: Message
    remedy: Remedy
