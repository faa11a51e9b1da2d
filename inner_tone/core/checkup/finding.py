"""A finding: what the checkup has to say about one place of a patch."""

from dataclasses import dataclass
from typing import Literal

from inner_tone.core.patch.moves import Edit

Code = Literal[
    "no-sound",
    "drone",
    "goes-nowhere",
    "unmoving",
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
    """What to do about a finding, in words; with edits where one move mends it.

    `action` says what the edits do, where the words name other ways too.
    """

    words: str
    edits: tuple[Edit, ...] = ()
    action: str = ""


@dataclass(frozen=True)
class Finding:
    """Something that is probably not meant: its place, what was measured, why it matters, and what to do.

    `module` is empty where the patch as a whole is meant, `port` where it is no single port.
    """

    code: Code
    module: str
    port: str
    message: str
    measured: str
    why: str
    remedy: Remedy
