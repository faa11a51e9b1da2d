"""Files that are sent, as they are."""

from fastapi import Request

from inner_tone.core.errors import InnerToneError


async def received(request: Request, most: int, too_large: str) -> bytes:
    """Return the file that is sent; raises InnerToneError as soon as it has more bytes than are taken."""
    told = request.headers.get("content-length", "0")
    if told.isdigit() and int(told) > most:
        raise InnerToneError(too_large)
    parts, size = [], 0
    async for part in request.stream():  # what does not say how long it is must not fill the memory
        size += len(part)
        if size > most:
            raise InnerToneError(too_large)
        parts.append(part)
    return b"".join(parts)
