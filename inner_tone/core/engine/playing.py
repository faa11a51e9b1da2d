"""Playing: a program with its state. It takes events, or another patch that takes over, and is asked for samples."""

from collections.abc import Mapping

import numpy as np

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.engine.changes import Changes
from inner_tone.core.engine.events import Change, Event, Move
from inner_tone.core.engine.keys import Keys
from inner_tone.core.engine.memory import Memory
from inner_tone.core.engine.program import Program, program_of
from inner_tone.core.engine.recorder import MOST_AT_ONCE, Recorder
from inner_tone.core.engine.rest import comes_to_rest
from inner_tone.core.engine.run import Voices, advance
from inner_tone.core.engine.timing import Timing
from inner_tone.core.engine.wiring import UnitKey, UnitPlace, Wiring, united, wiring_of
from inner_tone.core.modules import LEVER, lever
from inner_tone.core.modules.declaration import Value
from inner_tone.core.modules.kernel import Tables
from inner_tone.core.modules.tables import tables_for
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Module, Patch
from inner_tone.core.phrase import OF_LEVER

FADE_SECONDS = 0.01  # in which everything that changes comes, goes, or moves to its new value
SLEEP_SECONDS = 0.1  # after so much silence a voice sleeps whose key is up
SILENT = 1e-8


class Playing:
    """A patch that plays, from its first sample on.

    What it gives does not depend on how many samples are asked for at once.

    Parameters
    ----------
    patch
        A valid patch.
    rate
        The sampling rate in Hz.
    recorder
        Writes down what is wanted of it; raises TapError for a tap that the patch does not have.
    tempo
        In beats per minute, for what follows it.
    """

    def __init__(self, patch: Patch, rate: float, recorder: Recorder, *, tempo: float = 120.0) -> None:
        self.rate = rate
        self.timing = Timing(tempo)
        self.born: dict[UnitKey, int] = {}  # those that came while it played
        self.recorder = recorder
        self.position = 0
        self.graph = Graph(patch.live)
        self.fade = max(1, round(FADE_SECONDS * rate))
        self.nap = round(SLEEP_SECONDS * rate)
        self.memory = Memory()
        self.keys = Keys([])
        self.coming: Wiring | None = None  # what takes over when all has faded
        self.turned: dict[str, dict[str, Value]] = {}  # settings that were changed since the patch took over
        self.program = self.built(wiring_of(self.graph))
        recorder.attach(self.graph, self.program)
        self.memory.lend(self.program)
        self.changes = Changes(self.program, self.fade)
        self.tables = self.looked_up()
        self.voices = voices_for(patch.voices)
        self.voices.awake[0] = 1  # the others sleep until their first note
        self.napping = np.zeros(patch.voices, dtype=bool)
        self.bind_keys()

    def built(self, wiring: Wiring) -> Program:
        """Return the program of a wiring."""
        listened = self.recorder.outputs(self.graph) & set(outputs_of(wiring))
        return program_of(wiring, self.rate, listened, self.timing, self.born)

    def bind_keys(self) -> None:
        """Let the keys write to the player's states; only where nothing but a key wakes them may voices sleep."""
        player = self.graph.player
        self.may_sleep = self.graph.patch.voices > 1 and comes_to_rest(self.graph)
        units = self.program.voices_of(player) if player else []
        states: list[Floats] = [self.memory.state_of(key) for key in units]
        self.keys.bind(states)
        if player:
            self.keys.set_to(self.settings_of(player))

    def apply(self, event: Event) -> None:
        """Let an event act from the next sample on."""
        if isinstance(event, Change):
            self.change(event)
            return
        if isinstance(event, Move) and event.control.startswith(OF_LEVER):
            self.move_lever(event)
        taken = self.keys.apply(event) if self.keys.voices else None
        if taken is not None:
            self.voices.awake[taken] = 1
            self.voices.shown[0] = taken
        for place, voice in enumerate(self.keys.voices):
            self.voices.resting[place] = voice.note is None

    def follow(self, timing: Timing) -> None:
        """Follow another beat from the next sample on."""
        self.timing = timing
        self.program.follow(timing)

    def change(self, change: Change) -> None:
        """Set a setting; numbers go to their new value, the player's habits hold from the next key on."""
        module = self.graph.modules[change.module]
        self.turned.setdefault(module.id, {})[change.setting] = change.value
        if module == self.graph.player:
            self.keys.set_to(self.settings_of(module))
        self.changes.change(module, change.setting, self.settings_of(module)[change.setting])
        if getattr(module.declaration.choices.get(change.setting), "own", False):
            self.tables = self.looked_up()

    def looked_up(self) -> Tables:
        """Return the tables for what plays now; raises SoundMissingError."""
        modules = {(unit.module.id, unit.module.type): unit.module for unit in self.program.units}
        return tables_for(
            {str(self.settings_of(one)[name]) for one in modules.values() for name in one.declaration.sounds_played},
            self.rate,
        )

    def settings_of(self, module: Module) -> dict[str, Value]:
        """Return the settings as they count for a module now: those of the patch, and what was turned since."""
        return self.graph.counting(module, {**module.all_settings, **self.turned.get(module.id, {})})

    def move_lever(self, move: Move) -> None:
        """Let a lever of the patch move; a phrase may know levers that this patch has not."""
        module = self.graph.modules.get(move.control.removeprefix(OF_LEVER))
        for key in self.program.voices_of(module) if module and module.type == LEVER else ():
            state = self.memory.state_of(key)
            state[lever.HELD], state[lever.POSITION], state[lever.SLOPE] = 1.0, move.value, move.slope

    def listen(self) -> None:
        """Compute what the recorder listens to from now on, which may be other taps than before."""
        self.install(self.built(self.present()))

    def take_over(self, patch: Patch) -> None:
        """Let another patch take over from the next sample on, without a click.

        Modules that persist keep their state, by id and type and voice. What comes and what goes is faded within a
        hundredth of a second; signals that the change does not reach go on to the bit.
        """
        before, old = self.present(), self.graph
        were = {module.id: self.settings_of(module) for module in old.patch.modules}
        self.graph, self.turned = Graph(patch.live), {}
        self.coming = wiring_of(self.graph)
        both = united(before, self.coming)
        new = {key: self.position for key in both.units if key not in self.program.places}
        self.born = {key: born for key, born in {**self.born, **new}.items() if key in both.units}
        self.install(self.built(both))
        self.changes.fade(*fading(self.program))
        for module in self.graph.patch.modules:
            known = old.modules.get(module.id)
            if known and known.type == module.type:
                self.settle(were[module.id], module)
        self.tables = self.looked_up()
        if not self.changes.goals and both.units.keys() == self.coming.units.keys():
            self.arrive()

    def present(self) -> Wiring:
        """Return the wiring that plays, each line with the depth that it has at the moment."""
        depths = self.changes.depths()
        places = iter(range(len(depths)))
        lines = {
            (unit.key, port.name): [
                line._replace(depth=float(depths[next(places)]))
                for line in self.program.wiring.lines.get((unit.key, port.name), ())
            ]
            for unit in self.program.units
            for port in unit.module.declaration.inputs
        }
        wiring = self.program.wiring
        return Wiring(wiring.voices, wiring.units, {place: some for place, some in lines.items() if some}, wiring.feeds)

    def settle(self, were: Mapping[str, Value], module: Module) -> None:
        """Let a module that persists go from the settings that it had to those that it has."""
        for name, value in self.settings_of(module).items():
            if value != were[name]:
                self.changes.put(module, name, were[name])
                self.changes.change(module, name, value)

    def install(self, program: Program) -> None:
        """Go on in another program, with the states and the last samples of what persists."""
        old = self.program
        there = [unit.key for unit in program.units if unit.key in old.places]
        rows = [row for key in there for row in program.rows_of(key)]
        were = [row for key in there for row in old.rows_of(key)]
        program.signals[rows, 0] = old.signals[were, 0]
        self.memory.lend(program)
        self.program = program
        self.changes.follow(program, self.graph.modules)
        for identity, settings in self.turned.items():
            for name, value in settings.items():
                self.changes.put(self.graph.modules[identity], name, value)
        if program.wiring.voices != old.wiring.voices:
            self.resize(program.wiring.voices)
        self.recorder.follow(self.graph, program)
        self.bind_keys()

    def resize(self, count: int) -> None:
        """Make room for so many voices; those that stay are as awake as they were."""
        old, kept = self.voices, min(count, len(self.voices.awake))
        self.voices = voices_for(count)
        self.voices.awake[:kept] = old.awake[:kept]
        self.voices.resting[:kept] = old.resting[:kept]
        self.voices.shown[0] = min(int(old.shown[0]), count - 1)
        self.napping = np.zeros(count, dtype=bool)

    def arrive(self) -> None:
        """Go on with only what the patch that has taken over has."""
        assert self.coming is not None
        wiring, self.coming = self.coming, None
        self.install(self.built(wiring))

    def advance(self, count: int) -> None:
        """Compute the next `count` samples; raises RecorderFullError where there is no room for them."""
        while count > 0:
            now = min(count, self.changes.nearest() or count, MOST_AT_ONCE)
            if self.may_sleep:
                now = min(now, self.nap - self.position % self.nap)
            self.run(now)
            count -= now

    def run(self, count: int) -> None:
        """Compute samples during which nothing arrives and nobody falls asleep."""
        program = self.program
        begin = self.recorder.take(count)
        advance(
            program.arrays,
            program.signals,
            self.memory.states,
            self.tables,
            self.voices,
            self.recorder.tracks,
            self.changes.glides,
            self.rate,
            begin,
            count,
        )
        self.position += count
        self.changes.passed(count)
        if self.coming is not None and not self.changes.fading:
            self.arrive()
        if self.may_sleep and self.position % self.nap == 0:
            self.let_sleep()

    def let_sleep(self) -> None:
        """Let those voices sleep that were silent since the last time, but for the one that is seen."""
        resting = self.voices.resting.astype(bool)
        quiet = resting & self.napping & (self.voices.loudest < SILENT) & self.voices.awake.astype(bool)
        quiet[self.voices.shown[0]] = False
        for unit in self.program.units:
            if not unit.once and quiet[unit.voice]:
                self.program.signals[self.program.rows_of(unit.key), :] = 0.0
        self.voices.awake[quiet] = 0
        self.voices.loudest[:] = 0.0
        self.napping = resting


def voices_for(count: int) -> Voices:
    """Return so many voices, all asleep."""
    return Voices(
        awake=np.zeros(count, dtype=np.int64),
        resting=np.ones(count, dtype=np.int64),
        loudest=np.zeros(count),
        shown=np.zeros(1, dtype=np.int64),
    )


def fading(program: Program) -> tuple[Ints, Floats]:
    """Return which lines of a program go to another depth, and to which."""
    lines = program.lines
    places = [place for place, line in enumerate(lines) if line.depth != line.depth_before]
    return np.array(places, dtype=np.int64), np.array([lines[place].depth for place in places])


def outputs_of(wiring: Wiring) -> list[UnitPlace]:
    """Return every output of a wiring."""
    return [UnitPlace(key, port.name) for key, unit in wiring.units.items() for port in unit.module.declaration.outputs]
