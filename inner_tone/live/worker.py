"""The process that plays: it holds sessions, and gives each the samples that it is asked for.

It never waits for pictures, and nobody renders in it: so nothing but too many sessions could make one stutter, and how
busy it is it tells.
"""

import asyncio
import contextlib
import gc
import json
import logging
import os
import pickle
import socket
import time
from collections import deque
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from pydantic import TypeAdapter, ValidationError

from inner_tone.core.documents import read
from inner_tone.core.engine.render import RATE
from inner_tone.core.engine.warm import warm
from inner_tone.core.errors import InnerToneError
from inner_tone.core.lens.look import View
from inner_tone.core.modules.stock import bring, versions_of
from inner_tone.core.patch.listening import Listening, heard
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.validate import checked_patch
from inner_tone.formats.audio import samples_of
from inner_tone.live.frames import FIRST, KEY, NUMBER, SHARE, WANT, Frame, FrameKind, read_frame, written
from inner_tone.live.look import Sight, Stretch, seconds_of, taps_for
from inner_tone.live.messages import Opening, read_message
from inner_tone.live.session import Session
from inner_tone.work.line import framed
from inner_tone.work.line import read as read_from

MOST_AHEAD_S = 0.5  # of sound that is not played yet
MOST_VIEWS = 4
PICTURE_S, BUSY_PICTURE_S, WORDS_S, CARDS_S = 1 / 30, 1 / 8, 1.0, 1 / 12
SEEN_S = 0.03  # a setting has arrived by then, and some cycles of it have sounded
SHARED_PICTURE_S = 1 / 50  # for each session in the process
BUSY = 0.6
GOING_FIRST = -10
BROKEN = "Something in the session broke, and it has ended. Nothing of the lesson is lost; begin to play anew."
LOAD_S = 0.5
VIEWS: TypeAdapter[list[View]] = TypeAdapter(list[View])


@dataclass
class Playing:
    """A session in this process, with what its page looks at and when it was looked at last."""

    session: Session
    views: list[View] = field(default_factory=list)
    taps: set[Port] = field(default_factory=set)
    heard: Patch | None = None  # when it was last looked up what the lenses need
    frozen: Stretch | None = None
    looked: float = 0.0
    said: float = 0.0
    stirred: float = 0.0  # when somebody did something last
    stirs: int = 0
    measured: float = 0.0
    waiting: bool = False  # until the last pictures were made and drawn
    setting: Any = None  # the page's number of the last setting that can be seen
    coming: tuple[Any, int] | None = None  # that of the next one, and from which sample on it can be


class Load:
    """How much of the time goes into playing."""

    def __init__(self) -> None:
        self.spans: deque[tuple[float, float]] = deque()

    def note(self, begun: float, ended: float) -> None:
        """Note that it was played from one time to another."""
        self.spans.append((begun, ended))
        while self.spans and self.spans[0][1] < ended - LOAD_S:
            self.spans.popleft()

    def share(self, now: float) -> float:
        """Return the share of the last half second."""
        return sum(end - max(begin, now - LOAD_S) for begin, end in self.spans if end > now - LOAD_S) / LOAD_S


class Worker:
    """All sessions of this process."""

    def __init__(self, writer: asyncio.StreamWriter, painter: asyncio.StreamWriter) -> None:
        self.writer, self.painter = writer, painter
        self.sessions: dict[int, Playing] = {}
        self.load = Load()

    def tell(self, number: int, kind: FrameKind, content: bytes) -> None:
        """Send a frame to the server."""
        self.writer.write(written(Frame(number, kind, content)))

    def say(self, number: int, **words: Any) -> None:
        """Tell a page something."""
        self.tell(number, FrameKind.TOLD, json.dumps(words).encode())

    def take(self, frame: Frame) -> None:
        """Do what a frame asks for; what cannot be done is told."""
        try:
            if frame.kind is FrameKind.OPEN:
                self.open(frame.session, json.loads(frame.content))
            elif frame.kind is FrameKind.CLOSE:
                self.sessions.pop(frame.session, None)
            elif (one := self.sessions.get(frame.session)) is not None:
                self.act(frame, one)
        except (InnerToneError, ValidationError, ValueError, RecursionError) as error:
            if frame.kind is FrameKind.OPEN:
                self.tell(frame.session, FrameKind.ENDED, in_words(error).encode())
            else:
                self.say(frame.session, kind="problem", text=in_words(error))
        except Exception:  # what breaks one session must not end those beside it
            logging.exception("A session has broken.")
            self.sessions.pop(frame.session, None)
            self.tell(frame.session, FrameKind.ENDED, BROKEN.encode())

    def bring(self, content: bytes) -> None:
        """Put an own sound into the stock, and tell when it can be played; meanwhile all others go on."""
        key = KEY.unpack_from(content)[0].decode()
        coming = asyncio.get_running_loop().run_in_executor(None, ready_to_play, key, content[KEY.size :])
        coming.add_done_callback(lambda _: self.tell(0, FrameKind.BROUGHT, content[: KEY.size]))

    def act(self, frame: Frame, one: Playing) -> None:
        """Do what a frame asks of a session that is there."""
        if frame.kind is FrameKind.WANTED:
            self.give(frame.session, one, WANT.unpack(frame.content)[0])
        elif frame.kind is FrameKind.SAY:
            self.hear(one, json.loads(frame.content))
        elif frame.kind is FrameKind.LOOK:
            one.waiting = False  # a page that has come back draws nothing of what was lost on the way
            one.views = VIEWS.validate_python(json.loads(frame.content))[:MOST_VIEWS]
            self.listen(one)
        elif frame.kind is FrameKind.DRAWN:
            one.waiting = False
        elif frame.kind is FrameKind.FREEZE:
            one.frozen = self.stretch(one) if frame.content == b"on" else None
            one.said = 0.0

    def listen(self, one: Playing) -> None:
        """Listen to what the lenses need of the patch that plays now."""
        one.heard = one.session.patch
        one.taps = taps_for(one.heard, one.views)
        one.session.listen_to(one.taps)
        one.said = 0.0

    def open(self, number: int, wish: Any) -> None:
        """Begin a session."""
        opening = read(Opening, wish)
        patch = heard(checked_patch(opening.patch), opening.listening or Listening())
        session = Session(patch, tempo=opening.tempo)
        self.sessions[number] = Playing(session)
        self.say(number, kind="ready", rate=session.rate)

    def hear(self, one: Playing, data: Any) -> None:
        """Take a message, or several that belong together."""
        one.stirred = time.monotonic()
        one.stirs += 1
        for each in data if isinstance(data, list) else [data]:
            serial = each.pop("serial", None) if isinstance(each, dict) else None
            message = read_message(each)
            one.session.send(message)
            if serial is not None:
                one.coming = serial, one.session.position + round(SEEN_S * one.session.rate)

    def give(self, number: int, one: Playing, until: int) -> None:
        """Send the samples up to one, not too many at once."""
        session = one.session
        first = session.position
        length = min(until - first, round(MOST_AHEAD_S * session.rate))
        if length <= 0:
            return
        begun = time.perf_counter()
        sound = session.pull(length)
        self.load.note(begun, time.perf_counter())
        self.tell(number, FrameKind.SOUND, FIRST.pack(first) + np.ascontiguousarray(sound.T).tobytes())
        for message, error in session.problems:
            self.say(number, kind="problem", text=str(error), about=message.kind)
        session.problems.clear()
        if one.views and one.heard is not session.patch and one.session.playing.coming is None:
            self.listen(one)
        if session.finished is not None:
            self.give_recording(number, session)
        if one.coming is not None and one.coming[1] <= session.position:
            one.setting, one.coming = one.coming[0], None
            one.looked = 0.0  # what somebody waits for is shown at once
        self.look(number, one)

    async def tell_load(self) -> None:
        """Tell again and again how busy this process is, whether anybody plays or not."""
        while True:
            await asyncio.sleep(LOAD_S)
            self.tell(0, FrameKind.LOAD, SHARE.pack(self.load.share(time.perf_counter())))

    def give_recording(self, number: int, session: Session) -> None:
        """Send what was recorded."""
        found, session.finished = session.finished, None
        if isinstance(found, InnerToneError):
            self.say(number, kind="recorded", phrase=None, text=str(found))
        elif found is not None:
            self.say(number, kind="recorded", phrase=found.model_dump(mode="json"), text="")

    def stretch(self, one: Playing) -> Stretch:
        """Return what sounded last, of all that is looked at."""
        session = one.session
        taps = [tap for tap in one.taps if tap in session.window.taps]
        longest = max((seconds_of(view) for view in one.views), default=0.0)
        return Stretch(session.patch, session.signals(taps, round(longest * session.rate)), session.rate)

    def look(self, number: int, one: Playing) -> None:
        """Ask for pictures, if it is time for some and the last ones are drawn: none wait in line, each is of now."""
        now = time.monotonic()
        busy = self.load.share(time.perf_counter()) > BUSY
        least = BUSY_PICTURE_S if busy else max(PICTURE_S, SHARED_PICTURE_S * len(self.sessions))
        if one.waiting or now - one.looked < least:
            return
        one.looked, one.waiting = now, True
        calm = now - max(one.stirred, one.said) > WORDS_S and one.session.performer is None
        words = calm and not busy
        if words:
            one.said = now
        measures, close = {}, {}
        if now - one.measured > CARDS_S:
            one.measured = now
            measures, close = one.session.measures(), one.session.close()
        timing = one.session.playing.timing
        about = {
            "at": one.session.position,
            "serial": one.setting,
            "stirs": one.stirs,
            "tempo": round(timing.tempo, 3),
            "runs": timing.runs,
            "outside": one.session.outside.present(one.session.playing.position, one.session.rate),
            "taking": one.session.take is not None,
            "counting": one.session.counting is not None,
            "load": round(self.load.share(time.perf_counter()), 3),
        }
        sight = Sight(self.stretch(one), one.views, words, one.frozen, measures, close)
        data = pickle.dumps((number, about, sight), protocol=pickle.HIGHEST_PROTOCOL)
        self.painter.write(framed(data))

    def show(self, data: bytes) -> None:
        """Send pictures on to their page."""
        (number,) = NUMBER.unpack_from(data)
        if number in self.sessions:
            self.tell(number, FrameKind.PICTURES, data[NUMBER.size :])


def in_words(error: Exception) -> str:
    """Return an error as a sentence for a person."""
    if isinstance(error, InnerToneError):
        return str(error)
    if isinstance(error, ValidationError):
        return f"This cannot be looked at: {error.errors()[0]['msg'].lower()}."
    return "This is not JSON, or not what can be said here."


def ready_to_play(key: str, flac: bytes) -> None:
    """Put an own sound into the stock, as it is played at the rate of sessions."""
    bring({key: samples_of(flac)})
    versions_of(key, RATE)


async def serve(line: socket.socket, painter: socket.socket) -> None:
    """Play until the server has ended."""
    reader, writer = await asyncio.open_connection(sock=line)
    seen, brush = await asyncio.open_connection(sock=painter)
    worker = Worker(writer, brush)

    async def show() -> None:
        while (data := await read_from(seen)) is not None:
            worker.show(data)

    tasks = [asyncio.create_task(show()), asyncio.create_task(worker.tell_load())]
    while (frame := await read_frame(reader)) is not None:
        if frame.kind is FrameKind.BRING:
            worker.bring(frame.content)
        else:
            worker.take(frame)
        await asyncio.sleep(0)
    for task in tasks:
        task.cancel()
    brush.close()
    writer.close()


def play(line: socket.socket, painter: socket.socket) -> None:
    """Be a process that plays."""
    warm()
    with contextlib.suppress(OSError):  # who may not go first, goes with all others
        os.nice(GOING_FIRST)
    gc.collect()
    gc.freeze()  # what was loaded stays: collecting rubbish need not look at it again
    asyncio.run(serve(line, painter))
