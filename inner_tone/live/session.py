"""A session: a patch that is played while it sounds. It takes messages, and is asked for the next samples.

What it gives depends on what it was told and when, counted in samples, and on nothing else: not on how many samples are
asked for at once, nor on any clock.
"""

import heapq
import math
from collections.abc import Iterable, Sequence
from itertools import count

import numpy as np
from numpy.typing import NDArray

from inner_tone.core.arrays import Floats
from inner_tone.core.engine.events import Change, Event, Move, NoteOff, NoteOn
from inner_tone.core.engine.playing import FADE_SECONDS, Playing
from inner_tone.core.engine.recorder import Window
from inner_tone.core.engine.render import (
    LIMITER_RETURN_SECONDS,
    RATE,
    Measure,
    heard_taps,
    measures_between,
    seen_closely,
)
from inner_tone.core.engine.run import CHUNK, limit
from inner_tone.core.errors import DocumentError, InnerToneError
from inner_tone.core.modules import LEVER
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.listening import heard
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.validate import checked_patch, problems_of_settings
from inner_tone.core.phrase import GREATEST_TEMPO, LEAST_TEMPO, OF_LEVER, Phrase, checked_phrase
from inner_tone.live.controls import Controls, resting
from inner_tone.live.messages import (
    Beat,
    End,
    Finish,
    Happening,
    KeyDown,
    KeyUp,
    Moved,
    Panic,
    Perform,
    Record,
    Release,
    Set,
    SetTempo,
    TakeOver,
)
from inner_tone.live.performer import MIDDLE, Performer, check_pace, performer_of
from inner_tone.live.take import Take, over, written_down
from inner_tone.live.tempo import Outside

MOST_WAITING = 20_000  # messages whose time has not come
STRETCH_SECONDS = 4.0  # of what sounded last is remembered
CARD_SECONDS = 1.0  # of it a card shows
EARLY_BEATS = 0.5  # what is struck so little before a recording begins is meant to be its beginning
CLICK_SECONDS, CLICK_HZ, ACCENT_HZ, CLICK_LEVEL = 0.03, 1000.0, 1500.0, 0.25

# at one sample patches and settings come first, then keys go up, then controls move, then keys go down
ORDER: dict[type[Happening], int] = {Panic: 0, TakeOver: 1, Set: 1, KeyUp: 2, Release: 2, Moved: 3, KeyDown: 4}
USUAL = 3


class Session:
    """A patch that is played.

    Parameters
    ----------
    patch
        What is played.
    tempo
        In beats per minute.
    taps
        Ports whose signals can be looked at, beside what is heard.
    rate
        The sampling rate in Hz.
    stretch
        How many samples of the past are remembered.
    """

    def __init__(
        self,
        patch: Patch,
        *,
        tempo: float = 96.0,
        taps: Iterable[str] = (),
        rate: float = RATE,
        stretch: int | None = None,
    ) -> None:
        if not LEAST_TEMPO <= tempo <= GREATEST_TEMPO:
            raise InnerToneError(
                f"A tempo of {tempo:g} beats a minute cannot be played: from {LEAST_TEMPO:g} to {GREATEST_TEMPO:g} can."
            )
        self.patch = checked_patch(patch)
        self.rate = rate
        self.stretch = stretch or round(STRETCH_SECONDS * rate)
        self.taps = frozenset(taps)
        self.begun = 0  # the sample at which what plays now began
        self.numbers = count()
        self.waiting: list[tuple[int, int, int, Happening]] = []
        self.reduction = np.zeros(1)  # the limiter's
        self.fall = math.exp(-1.0 / (LIMITER_RETURN_SECONDS * rate))
        self.hushing = 0  # samples until all falls silent and begins anew
        self.outside = Outside()
        self.performer: Performer | None = None
        self.take: Take | None = None
        self.counting: tuple[int, Record] | None = None  # from when on it is to be recorded
        self.clicks = False
        self.finished: Phrase | InnerToneError | None = None
        self.problems: list[
            tuple[Happening, InnerToneError]
        ] = []  # what could not be done; whoever reads it empties it
        self.performing = Perform(what="nothing")
        self.keys: dict[float, tuple[int, float]] = {}  # since which sample each is down, and how hard it was struck
        self.begin(tempo)

    def begin(self, tempo: float) -> None:
        """Play from the beginning: nothing sounds, no control was moved."""
        self.sides = heard_taps(self.patch)
        graph = Graph(self.patch)
        known = [tap for tap in sorted(self.taps) if graph.has(Port(tap))]
        self.window = Window(self.stretch, (*self.sides, *known))
        self.playing = Playing(self.patch, self.rate, self.window, tempo=tempo)
        self.controls = Controls()
        self.keys.clear()

    @property
    def position(self) -> int:
        """How many samples were given so far."""
        return self.begun + self.playing.position

    def send(self, message: Happening, at: int | None = None) -> None:
        """Let something happen at a sample, or at the next one that is asked for.

        Raises InnerToneError if too much is waiting already.
        """
        if len(self.waiting) >= MOST_WAITING:
            raise InnerToneError(f"{MOST_WAITING:,} messages are waiting for their time already: no more can be taken.")
        if at is None:
            at = self.position if message.at_s is None else round(message.at_s * self.rate)
        place = ORDER.get(type(message), USUAL)
        heapq.heappush(self.waiting, (max(at, self.position), place, next(self.numbers), message))

    def pull(self, length: int) -> NDArray[np.float32]:
        """Return the next samples, shape (2, length); what was to happen in them and could not is in `problems`."""
        out = np.zeros((2, length))
        done = 0
        while done < length:
            self.happen()
            step = self.step(length - done)
            self.playing.advance(step)
            self.give(out[:, done : done + step])
            done += step
            if self.hushing:
                self.hush(out[:, done - step : done])
        limit(out[0], out[1], self.reduction, self.fall)
        return np.clip(out, -1.0, 1.0).astype(np.float32)

    def step(self, most: int) -> int:
        """Return how many samples can be given before something happens."""
        nexts = [self.position + most]
        if self.waiting:
            nexts.append(self.waiting[0][0])
        if self.hushing:
            nexts.append(self.position + self.hushing)
        if self.counting:
            nexts.append(self.counting[0])
        arrival = self.controls.nearest()
        if arrival is not None:
            nexts.append(self.begun + arrival)
        due = self.due()
        if due is not None:
            nexts.append(due)
        return max(1, min(nexts) - self.position)

    def give(self, out: Floats) -> None:
        """Write what was heard last, with the click if there is one."""
        length = out.shape[1]
        last = slice(self.window.position - length, self.window.position)
        for side in range(len(self.sides)):
            out[side] = self.window.tracks.signals[side, last]
        if self.clicks:
            out += click(self.position - length, length, self.playing, self.begun)

    def hush(self, out: Floats) -> None:
        """Fade what sounds, and begin anew where it has faded."""
        whole = round(FADE_SECONDS * self.rate)
        length = out.shape[1]
        out *= (self.hushing - np.arange(length)) / whole
        self.hushing -= length
        if self.hushing <= 0:
            self.hushing = 0
            self.anew(self.playing.timing.tempo)

    def anew(self, tempo: float) -> None:
        """Begin anew at this sample; an outside clock is counted from here on."""
        self.begun = self.position
        self.outside.begin()
        self.begin(tempo)

    # -- what happens

    def happen(self) -> None:
        """Let everything happen whose time has come."""
        for move in self.controls.arrived(self.playing.position):
            self.playing.apply(move)
        if self.counting and self.counting[0] <= self.position:
            self.start_taking(self.counting[1])
        while (due := self.due()) is not None and due <= self.position:
            assert self.performer is not None
            self.perform(self.performer.step())
        while self.waiting and self.waiting[0][0] <= self.position:
            message = heapq.heappop(self.waiting)[3]
            try:
                self.do(message)
            except InnerToneError as error:
                self.problems.append((message, error))

    def do(self, message: Happening) -> None:
        """Let one thing happen now; raises InnerToneError if it is not possible."""
        if isinstance(message, KeyDown):
            self.press(NoteOn(message.pitch - MIDDLE, message.velocity))
        elif isinstance(message, KeyUp):
            self.let_go(message.pitch - MIDDLE)
        elif isinstance(message, Moved):
            self.move(message)
        elif isinstance(message, Set):
            self.set(message)
        elif isinstance(message, TakeOver):
            self.take_over(heard(checked_patch(message.patch), message.listening))
        elif isinstance(message, Panic):
            if self.take or self.counting:
                self.finish(0.0)
            self.performer = None
            self.hushing = self.hushing or round(FADE_SECONDS * self.rate)
        elif isinstance(message, Release):
            self.performer = None
            for pitch in list(self.keys):
                self.let_go(pitch)
        elif isinstance(message, SetTempo):
            self.tempo_is(message.tempo)
        elif isinstance(message, Beat):
            self.beat(message)
        elif isinstance(message, Perform):
            self.begin_performing(message)
        elif isinstance(message, Record):
            self.record(message)
        elif isinstance(message, Finish):
            self.finish(message.grid)
        else:
            assert isinstance(message, End)

    def press(self, note: NoteOn) -> None:
        """A key goes down; one that is down already goes up first."""
        if note.pitch in self.keys:
            self.let_go(note.pitch)
        self.keys[note.pitch] = self.position, note.velocity
        self.strike(note)

    def let_go(self, pitch: float, also: tuple[float, ...] = ()) -> None:
        """A key goes up, and at the same moment perhaps others."""
        if pitch in self.keys:
            del self.keys[pitch]
            self.strike(NoteOff(pitch, also))

    def strike(self, event: NoteOn | NoteOff) -> None:
        """Let the patch have a note, and write it down if that is wished."""
        self.playing.apply(event)
        if self.take:
            self.take.note(event, self.playing.position)

    def perform(self, event: Event) -> None:
        """Do what the simulated player does: its keys are like those of anybody, it moves what a phrase moves."""
        if isinstance(event, NoteOn):
            self.press(event)
        elif isinstance(event, NoteOff):
            self.let_go(event.pitch, event.also)
        elif isinstance(event, Move) and event.control not in self.controls.values | self.controls.travels:
            slope = event.slope / self.playing.timing.samples_per_beat(self.rate)
            self.playing.apply(Move(event.control, event.value, slope))

    def move(self, message: Moved) -> None:
        """Let a control set out, if there is such a one."""
        control = message.control
        graph = self.playing.graph
        if control.startswith(OF_LEVER):
            lever = graph.modules.get(control.removeprefix(OF_LEVER))
            if lever is None or lever.type != LEVER:
                raise InnerToneError(f"The patch has no lever “{control.removeprefix(OF_LEVER)}”.")
        if control != "bend" and message.value < 0.0:
            raise InnerToneError(f"{control} goes from 0 to 1, and {message.value:g} was wished.")
        duration = round(message.over_s * self.rate)
        now = self.playing.position
        for move in self.controls.wish(control, message.value, duration, now, resting(graph, control)):
            self.playing.apply(move)

    def set(self, message: Set) -> None:
        """Set a setting; a lever that was moved by hand goes there by hand."""
        module = self.playing.graph.modules.get(message.module)
        if module is None:
            raise InnerToneError(f"There is no module “{message.module}” to set.")
        changed = module.model_copy(update={"settings": {**module.settings, message.setting: message.value}})
        problems = list(problems_of_settings(message.module, changed))
        if problems:
            raise DocumentError(problems)
        modules = tuple(changed if one.id == module.id else one for one in self.patch.modules)
        self.patch = self.patch.model_copy(update={"modules": modules})
        self.playing.apply(Change(message.module, message.setting, message.value))
        control = OF_LEVER + module.id
        if module.type == LEVER and (control in self.controls.values or control in self.controls.travels):
            position = resting(Graph(self.patch), control)
            self.move(Moved(control=control, value=position))

    def take_over(self, patch: Patch) -> None:
        """Let another patch take over."""
        self.patch = patch
        self.playing.take_over(patch)
        sides = heard_taps(self.patch)
        if sides != self.sides:
            self.sides = sides
            self.retap()

    def listen_to(self, taps: Iterable[str]) -> None:
        """Look at other taps from now on."""
        wanted = frozenset(taps)
        if wanted != self.taps:
            self.taps = wanted
            self.retap()

    def retap(self) -> None:
        """Keep what is heard, and what is looked at of what the patch has."""
        graph = self.playing.graph
        self.window.retap((*self.sides, *(tap for tap in sorted(self.taps) if graph.has(Port(tap)))))
        self.playing.listen()

    # -- the beat

    def tempo_is(self, tempo: float) -> None:
        """Go on in another tempo."""
        self.playing.follow(self.playing.timing.turned(self.playing.position, self.rate, tempo))

    def beat(self, message: Beat) -> None:
        """Follow an outside clock."""
        now, timing = self.playing.position, self.playing.timing
        if message.what == "tick":
            if timing.runs:
                self.playing.follow(self.outside.tick(now, self.rate, timing))
        elif message.what == "stop":
            self.playing.follow(timing.halted(now, self.rate))
        else:
            self.outside.begin()
            self.playing.follow(timing.begun(now, 0.0 if message.what == "start" else timing.beat))

    def due(self) -> int | None:
        """Return the sample at which the simulated player does the next thing."""
        timing = self.playing.timing
        if self.performer is None or self.performer.due is None or not timing.runs:
            return None
        beats = self.performer.due.beat - timing.beat
        return self.begun + timing.since + round(beats * timing.samples_per_beat(self.rate))

    def begin_performing(self, message: Perform) -> None:
        """Let the simulated player play something else, or nothing."""
        self.performing = message
        if message.what == "phrase" and message.phrase is None:
            raise InnerToneError("It is not said which phrase to play.")
        if message.phrase is not None:
            checked_phrase(message.phrase)
            check_pace(message.phrase)
        if self.performer is not None:
            for pitch in list(self.performer.held):
                self.let_go(pitch)
        if message.what == "phrase" and message.phrase is not None:
            self.tempo_is(message.phrase.tempo)
        self.performer = performer_of(message, self.playing.timing.beat_at(self.playing.position, self.rate))

    # -- recording

    def record(self, message: Record) -> None:
        """Begin to write down after counting in: from there on it is as if the patch had just begun to play."""
        samples = round(message.count_in * self.playing.timing.samples_per_beat(self.rate))
        self.clicks = message.click
        if not samples:
            self.start_taking(message)
            return
        self.counting = self.position + samples, message
        if message.click:
            self.outside.begin()
            self.playing.follow(self.playing.timing.begun(self.playing.position, -float(message.count_in)))

    def start_taking(self, wish: Record) -> None:
        """Write down from here on; controls stay where they are, and keys that were struck just before are struck."""
        just = self.position - round(EARLY_BEATS * self.playing.timing.samples_per_beat(self.rate))
        early = [NoteOn(pitch, velocity) for pitch, (at, velocity) in self.keys.items() if at >= just]
        values = self.controls.values | {name: one.end for name, one in self.controls.travels.items()}
        self.counting = self.performer = None
        self.anew(self.playing.timing.tempo)
        self.controls.stand(values)
        for name, value in values.items():
            self.playing.apply(Move(name, value))
        self.take = Take(wish.movements)
        if wish.movements and self.performing.what == "phrase":
            self.begin_performing(self.performing)
        for note in early:
            self.press(note)

    def finish(self, grid: float) -> None:
        """End what is written down; `finished` is the phrase, or why there is none."""
        self.clicks, counting, self.counting = False, self.counting, None
        if self.take is None:
            if counting is None:
                raise InnerToneError("Nothing is being recorded.")
            return
        take, self.take = self.take, None
        for control, travel in self.controls.travels.items():
            self.controls.lines[control].append((travel.stop, travel.end))
        end = self.playing.position
        tempo = self.playing.timing.tempo
        try:
            self.finished = written_down(take, self.controls, tempo, self.rate, end, grid)
            if take.movements and self.performing.phrase is not None:
                self.finished = over(self.performing.phrase, self.finished)
        except InnerToneError as error:
            self.finished = error

    # -- what can be looked at

    def signals(self, taps: Sequence[str], length: int) -> dict[str, Floats]:
        """Return the last samples of some taps, as many as there are of all of them, copied."""
        window = self.window
        there = [Port(tap) for tap in taps if Port(tap) in window.taps]
        begin = max(0, window.position - min(length, window.there_of(there)))
        rows = {tap: window.taps.index(tap) for tap in there}
        return {tap: window.tracks.signals[row, begin : window.position].copy() for tap, row in rows.items()}

    def measures(self) -> dict[str, Measure]:
        """Return what every port did: its course through the last second, mean and RMS since this was last asked."""
        window = self.window
        if window.heard == 0:
            return {}
        first = max(0, window.position - round(CARD_SECONDS * self.rate)) // CHUNK
        found = measures_between(window, first, window.heard)
        window.begin_sums()
        return found

    def close(self) -> dict[Port, Floats]:
        """Return the last samples of what is seen on cards."""
        return self.window.close(seen_closely(self.playing.graph))


def click(first: int, length: int, playing: Playing, begun: int) -> Floats:
    """Return the click on each beat, the first of four higher, for samples from `first` on."""
    timing, rate = playing.timing, playing.rate
    samples = np.arange(first, first + length) - begun
    beats = timing.beat + (samples - timing.since) / timing.samples_per_beat(rate)
    since = (beats - np.floor(beats + 1e-9)) * timing.samples_per_beat(rate) / rate
    hertz = np.where(np.floor(beats + 1e-9) % 4 == 0, ACCENT_HZ, CLICK_HZ)
    fade = np.clip(1.0 - since / CLICK_SECONDS, 0.0, 1.0)
    sound: Floats = CLICK_LEVEL * fade * np.sin(2.0 * np.pi * hertz * np.maximum(since, 0.0))
    return sound
