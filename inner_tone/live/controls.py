"""Controls that are moved while it sounds: straight lines, one after the other, each to its end."""

from dataclasses import dataclass, field

from inner_tone.core.engine.events import Move
from inner_tone.core.modules import LEVER, lever
from inner_tone.core.patch.graph import Graph
from inner_tone.core.phrase import OF_LEVER


@dataclass
class Travel:
    """A control that is on its way: from a value at one sample to another at a later one."""

    start: int
    begin: float
    stop: int
    end: float

    def move(self, control: str) -> Move:
        """Return the movement as the engine takes it."""
        return Move(control, self.begin, (self.end - self.begin) / (self.stop - self.start))


@dataclass
class Controls:
    """Where the controls stand, where they are going, and where they go next.

    A movement is never bent on its way: what is wished meanwhile begins where it ends. So what was played can be
    written down as a gesture of straight lines and comes out the same to the bit.
    """

    values: dict[str, float] = field(default_factory=dict)
    travels: dict[str, Travel] = field(default_factory=dict)
    next: dict[str, tuple[float, int]] = field(default_factory=dict)  # a value, and how many samples it may take
    lines: dict[str, list[tuple[int, float]]] = field(default_factory=dict)  # the corners since it began, by sample

    def wish(self, control: str, value: float, duration: int, now: int, resting: float) -> list[Move]:
        """Let a control go to a value, from `resting` if nobody has moved it; returns the movements that begin now."""
        if control in self.travels:
            self.next[control] = value, duration
            return []
        begin = self.values.get(control, resting)
        if duration == 0:
            self.values[control] = value
            self.lines.setdefault(control, [(0, begin)]).extend([(now, begin), (now, value)])
            return [Move(control, value)]
        return [self.set_out(control, begin, value, duration, now)]

    def set_out(self, control: str, begin: float, value: float, duration: int, now: int) -> Move:
        """Begin a movement."""
        travel = Travel(now, begin, now + duration, value)
        self.travels[control] = travel
        corners = self.lines.setdefault(control, [(0, begin)])
        corners.append((now, begin))
        return travel.move(control)

    def stand(self, values: dict[str, float]) -> None:
        """Let controls stand somewhere from the first sample on."""
        self.values = dict(values)
        self.lines = {name: [(0, value)] for name, value in values.items()}

    def nearest(self) -> int | None:
        """Return the sample at which the next movement ends."""
        return min((one.stop for one in self.travels.values()), default=None)

    def arrived(self, now: int) -> list[Move]:
        """Return the movements that end and begin at a sample."""
        found = []
        for control in [name for name, one in self.travels.items() if one.stop <= now]:
            travel = self.travels.pop(control)
            self.values[control] = travel.end
            self.lines[control].append((travel.stop, travel.end))
            found.append(Move(control, travel.end))
            if control in self.next:
                value, duration = self.next.pop(control)
                found += self.wish(control, value, duration, now, travel.end)
        return found


def resting(graph: Graph, control: str) -> float:
    """Return where a control stands that nobody has moved: a lever where its setting says, wheel and bend at 0."""
    module = graph.modules.get(control.removeprefix(OF_LEVER))
    if not control.startswith(OF_LEVER) or module is None or module.type != LEVER:
        return 0.0
    return lever.resting(module.all_settings)
