"""The frames between a page, the server and the processes that play: a kind, and what belongs to it.

A page has one session, so its frames are a byte for the kind and the content. Between processes the length of the whole
and the number of the session stand before them. `docs/live.md` tells each kind.
"""

import asyncio
import struct
from enum import IntEnum
from typing import NamedTuple

LONGEST = 1 << 22  # bytes
HEAD = struct.Struct(">IIB")  # length of what follows the length, session, kind
WANT = struct.Struct(">Q")  # the sample before which everything is wanted
FIRST = struct.Struct(">Q")  # the sample that a stretch of sound begins with
KEY = struct.Struct(">64s")  # of an own sound
SHARE = struct.Struct(">d")  # how much of the time a process plays
NUMBER = struct.Struct(">I")  # a session


class FrameKind(IntEnum):
    """What a frame is."""

    OPEN = 1
    SAY = 2
    WANTED = 3
    LOOK = 4
    FREEZE = 5
    CLOSE = 6
    DRAWN = 7
    BRING = 8
    SOUND = 16
    TOLD = 17
    PICTURES = 18
    ENDED = 19
    LOAD = 20
    BROUGHT = 21


class Frame(NamedTuple):
    """A frame of a session."""

    session: int
    kind: FrameKind
    content: bytes


def written(frame: Frame) -> bytes:
    """Return a frame as it goes from process to process."""
    return HEAD.pack(HEAD.size - 4 + len(frame.content), frame.session, frame.kind) + frame.content


async def read_frame(reader: asyncio.StreamReader) -> Frame | None:
    """Return the next frame, or nothing where the other side has ended."""
    try:
        length, session, kind = HEAD.unpack(await reader.readexactly(HEAD.size))
        content = await reader.readexactly(length - (HEAD.size - 4))
    except (asyncio.IncompleteReadError, ConnectionError):
        return None
    return Frame(session, FrameKind(kind), content)
