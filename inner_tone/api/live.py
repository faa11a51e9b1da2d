"""Playing live: a WebSocket between a page and a session. `docs/live.md` tells what goes over it."""

import asyncio
import hmac
import json
import re
import time
from typing import Any
from urllib.parse import urlsplit

from fastapi import APIRouter, WebSocket, WebSocketDisconnect
from fastapi.concurrency import run_in_threadpool

from inner_tone.api.access import COOKIE, account_in, page_token
from inner_tone.core.errors import InnerToneError
from inner_tone.live.frames import WANT, FrameKind
from inner_tone.live.stage import Seat, Stage, StageFullError
from inner_tone.store.errors import NotSignedInError
from inner_tone.store.models import Account
from inner_tone.work.node import Node

router = APIRouter(prefix="/api/live", tags=["live"])

OWN_SOUND = re.compile(r'"([0-9a-f]{64}) ')  # as samplers are set to one
GREETING_S = 10.0
STILL_SIGNED_IN_S = 15.0
LONGEST_TEXT = 512 * 1024
MOST_PER_SECOND, MOST_AT_ONCE = 1500.0, 4000.0
ENDED, NOT_ALLOWED, TOO_MUCH, FULL, SIGNED_OUT = 1000, 4403, 4408, 4409, 4401


class Pace:
    """How much a page may say: so much a second, and more at once now and then."""

    def __init__(self) -> None:
        self.left, self.at = MOST_AT_ONCE, time.monotonic()

    def allows(self) -> bool:
        """Tell whether one more may be said now."""
        now = time.monotonic()
        self.left = min(MOST_AT_ONCE, self.left + (now - self.at) * MOST_PER_SECOND)
        self.at = now
        self.left -= 1.0
        return self.left >= 0.0


class OverError(Exception):
    """The connection is to be closed, with a code and a sentence."""

    def __init__(self, code: int, words: str) -> None:
        super().__init__(words)
        self.code = code


@router.websocket("")
async def play(socket: WebSocket) -> None:
    """Let somebody who is signed in play, from our own pages alone."""
    origin = socket.headers.get("origin")
    if origin is None or urlsplit(origin).netloc != socket.headers.get("host"):
        await socket.close(NOT_ALLOWED)
        return
    await socket.accept()
    stage: Stage = socket.app.state.stage
    seat: Seat | None = None
    try:
        token = socket.cookies.get(COOKIE, "")
        account = await somebody(socket, token)
        seat = await greeted(socket, stage, account, token)
        await both_ways(socket, seat, token)
    except WebSocketDisconnect:
        pass
    except OverError as over:
        if over.code == ENDED and seat is not None:
            stage.leave(seat)
        await told_and_closed(socket, over)
    except InnerToneError as error:
        codes = {StageFullError: FULL, NotSignedInError: SIGNED_OUT}
        await told_and_closed(socket, OverError(codes.get(type(error), NOT_ALLOWED), str(error)))
    finally:
        if seat is not None and not seat.ended:
            stage.lose(seat)


async def told_and_closed(socket: WebSocket, over: OverError) -> None:
    """Tell why, and close; where the other side has gone already, nobody need be told."""
    try:
        await socket.send_text(json.dumps({"kind": "over", "code": over.code, "text": str(over)}))
        await socket.close(over.code)
    except (RuntimeError, WebSocketDisconnect):
        return


async def somebody(socket: WebSocket, token: str) -> Account:
    """Return who asks; raises NotSignedInError."""
    if not token:
        raise NotSignedInError
    return await run_in_threadpool(account_in, socket.app.state.sessions, token)


async def greeted(socket: WebSocket, stage: Stage, account: Account, token: str) -> Seat:
    """Return the session of a page that has shown its token: the one that it had, or a new one."""
    try:
        async with asyncio.timeout(GREETING_S):
            hello = as_json(await text_from(socket))
    except TimeoutError as late:
        raise OverError(NOT_ALLOWED, "The page has not said who it is.") from late
    shown = hello.get("token")
    if hello.get("kind") != "hello" or not isinstance(shown, str) or not hmac.compare_digest(shown, page_token(token)):
        raise OverError(NOT_ALLOWED, "The page’s token is missing or old. Load the page anew.")
    key = hello.get("session")
    known = stage.again(account.id, key) if isinstance(key, str) else None
    seat = known or await stage.take(account.id)
    await socket.send_text(json.dumps({"kind": "welcome", "session": seat.key, "goes_on": known is not None}))
    return seat


async def both_ways(socket: WebSocket, seat: Seat, token: str) -> None:
    """Carry frames both ways until one side has enough."""
    tasks = [
        asyncio.create_task(inwards(socket, seat)),
        asyncio.create_task(outwards(socket, seat)),
        asyncio.create_task(still_signed_in(socket, token)),
    ]
    try:
        done, _ = await asyncio.wait(tasks, return_when=asyncio.FIRST_COMPLETED)
        for task in done:
            task.result()
    finally:
        for task in tasks:
            task.cancel()
        await asyncio.gather(*tasks, return_exceptions=True)


async def inwards(socket: WebSocket, seat: Seat) -> None:
    """Carry what the page says to its session; raises OverError."""
    pace = Pace()
    while True:
        message = await socket.receive()
        if message["type"] == "websocket.disconnect":
            raise WebSocketDisconnect
        if not pace.allows():
            raise OverError(TOO_MUCH, "The page says more than can be heard. Begin to play anew.")
        data, text = message.get("bytes"), message.get("text")
        if data is not None:
            if len(data) != 1 + WANT.size or data[0] != FrameKind.WANTED:
                raise OverError(TOO_MUCH, "The page has sent what nobody understands. Load it anew.")
            seat.say(FrameKind.WANTED, data[1:])
        elif text is not None:
            await carry(socket, seat, text)


async def carry(socket: WebSocket, seat: Seat, text: str) -> None:
    """Carry one message to its session, or say what is wrong with it; raises OverError at the end."""
    try:
        words: Any = as_json(text) if not text.startswith("[") else {"kind": "say"}
    except InnerToneError as error:
        await socket.send_text(json.dumps({"kind": "problem", "text": str(error)}))
        return
    kind = words.get("kind")
    for sound in dict.fromkeys(OWN_SOUND.findall(text)):
        await seat.crew.has(sound, lambda sound=sound: sound_of(socket, sound))  # type: ignore[misc]
    if kind == "close":
        raise OverError(ENDED, "Played to its end.")
    if kind == "look":
        seat.say(FrameKind.LOOK, json.dumps(words.get("views", [])).encode())
    elif kind == "drawn":
        seat.say(FrameKind.DRAWN, b"")
    elif kind == "freeze":
        seat.say(FrameKind.FREEZE, b"on" if words.get("on") else b"off")
    elif kind == "open":
        seat.say(FrameKind.OPEN, text.encode())
    else:
        seat.say(FrameKind.SAY, text.encode())


async def sound_of(socket: WebSocket, key: str) -> bytes | None:
    """Return an own sound as FLAC, if it is there."""
    node: Node = socket.app.state.node
    return (await node.sounds([key])).get(key)


async def outwards(socket: WebSocket, seat: Seat) -> None:
    """Carry what the session has for its page; raises OverError where it has ended."""
    while True:
        kind, content = await seat.next()
        if kind is FrameKind.ENDED:
            raise OverError(ENDED, content.decode())
        if kind in (FrameKind.TOLD, FrameKind.PICTURES):
            await socket.send_text(content.decode())
        else:
            await socket.send_bytes(bytes([kind]) + content)


async def still_signed_in(socket: WebSocket, token: str) -> None:
    """Look again and again whether who plays is still signed in; raises NotSignedInError where not."""
    while True:
        await asyncio.sleep(STILL_SIGNED_IN_S)
        await run_in_threadpool(account_in, socket.app.state.sessions, token)


async def text_from(socket: WebSocket) -> str:
    """Return the next text; raises OverError for anything else."""
    message = await socket.receive()
    if message["type"] == "websocket.disconnect":
        raise WebSocketDisconnect
    text = message.get("text")
    if text is None:
        raise OverError(NOT_ALLOWED, "The page has not said who it is.")
    return str(text)


def as_json(text: str) -> dict[str, Any]:
    """Return a message as data; raises InnerToneError."""
    if len(text) > LONGEST_TEXT:
        raise InnerToneError(f"This message is {len(text):,} letters long; at most {LONGEST_TEXT:,} can be taken.")
    try:
        found = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise InnerToneError("This message is not JSON.") from error
    if not isinstance(found, dict):
        raise InnerToneError("This message is no JSON object.")
    return found
