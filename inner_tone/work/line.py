"""Whole messages over a line between two processes: eight bytes that say how long it is, then the message."""

from asyncio import IncompleteReadError, StreamReader
from socket import socket

LENGTH = 8


def framed(data: bytes) -> bytes:
    """Return a message as it goes over the line."""
    return len(data).to_bytes(LENGTH) + data


def send(line: socket, data: bytes) -> None:
    """Send a whole message."""
    line.sendall(framed(data))


def received(line: socket) -> bytes | None:
    """Return the next whole message, or nothing where the other side has ended."""
    head = exactly(line, LENGTH)
    return exactly(line, int.from_bytes(head)) if head else None


def exactly(line: socket, count: int) -> bytes | None:
    """Return so many bytes, or nothing where the other side has ended."""
    parts, left = [], count
    while left:
        try:
            part = line.recv(min(left, 1 << 20))
        except OSError:
            return None
        if not part:
            return None
        parts.append(part)
        left -= len(part)
    return b"".join(parts)


async def read(reader: StreamReader) -> bytes | None:
    """Return the next whole message, or nothing where the other side has ended."""
    try:
        return await reader.readexactly(int.from_bytes(await reader.readexactly(LENGTH)))
    except (IncompleteReadError, ConnectionError):
        return None
