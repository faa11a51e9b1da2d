"""What can be said to a session, as data: keys, controls, settings, patches, the beat, recording."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Annotated, Any, Literal

from pydantic import Field, TypeAdapter, ValidationError

from inner_tone.core.documents import Document, problems_in
from inner_tone.core.errors import DocumentError, Problem, did_you_mean
from inner_tone.core.patch.listening import Listening
from inner_tone.core.patch.model import Name, Patch, Setting
from inner_tone.core.phrase import HIGHEST_PITCH, Control, Phrase, Tempo

LONGEST_WAIT_S = 3600.0

Pitch = Annotated[float, Field(ge=0, le=HIGHEST_PITCH)]


class Opening(Document):
    """A session begins: which patch is played, as it is listened to, and at which tempo."""

    kind: Literal["open"] = "open"
    patch: Patch
    listening: Listening | None = None
    tempo: Tempo = 96.0


class Message(Document):
    """Something that happens: at `at_s`, in s since the session began, or as soon as can be."""

    at_s: Annotated[float, Field(ge=0, le=LONGEST_WAIT_S)] | None = None


class KeyDown(Message):
    """A key goes down: pitch as a MIDI note number, velocity 0 to 1."""

    kind: Literal["note_on"] = "note_on"
    pitch: Pitch
    velocity: Annotated[float, Field(ge=0, le=1)] = 0.8


class KeyUp(Message):
    """The key of that pitch goes up."""

    kind: Literal["note_off"] = "note_off"
    pitch: Pitch


class Moved(Message):
    """A control goes to a value, in a straight line that takes `over_s`: wheel and levers 0 to 1, the bend -1 to 1."""

    kind: Literal["move"] = "move"
    control: Control
    value: Annotated[float, Field(ge=-1, le=1)]
    over_s: Annotated[float, Field(ge=0, le=180)] = 0.005


class Set(Message):
    """A setting of a module goes to a value."""

    kind: Literal["set"] = "set"
    module: Name
    setting: Annotated[str, Field(max_length=60)]
    value: Setting


class TakeOver(Message):
    """Another patch takes over, as it is listened to; what it shares with the one before goes on."""

    kind: Literal["patch"] = "patch"
    patch: Patch
    listening: Listening = Listening()


class Panic(Message):
    """Everything falls silent: keys, echoes, loops; the controls go back."""

    kind: Literal["panic"] = "panic"


class Release(Message):
    """All keys go up, as when the page loses sight of them; what still rings goes on."""

    kind: Literal["release"] = "release"


class SetTempo(Message):
    """Another tempo, in beats per minute."""

    kind: Literal["tempo"] = "tempo"
    tempo: Tempo


class Beat(Message):
    """What an outside clock says: a tick, of which 24 make a beat; start from the first beat, stop, or go on."""

    kind: Literal["beat"] = "beat"
    what: Literal["tick", "start", "stop", "continue"]


class Perform(Message):
    """The simulated player plays: it holds a note, plays a phrase round and round, or goes up and down a chord."""

    kind: Literal["perform"] = "perform"
    what: Literal["nothing", "note", "phrase", "chord"]
    pitch: Pitch = 57
    velocity: Annotated[float, Field(ge=0, le=1)] = 0.8
    phrase: Phrase | None = None


class Record(Message):
    """Begin to write down what is played, after some beats of counting in, with or without a click."""

    kind: Literal["record"] = "record"
    count_in: Annotated[int, Field(ge=0, le=16)] = 4
    click: bool = True
    movements: Annotated[bool, Field(description="Only movements, over the phrase that plays.")] = False


class Finish(Message):
    """End what is written down, and give it; notes go to the nearest `grid` of a beat, 0 for none."""

    kind: Literal["finish"] = "finish"
    grid: Annotated[float, Field(ge=0, le=4)] = 0.0


class End(Message):
    """For the command line: until here it is played, whatever sounds."""

    kind: Literal["end"] = "end"


Happening = (
    KeyDown | KeyUp | Moved | Set | TakeOver | Panic | Release | SetTempo | Beat | Perform | Record | Finish | End
)
KINDS: dict[str, type[Message]] = {str(one.model_fields["kind"].default): one for one in Happening.__args__}
_ANY: TypeAdapter[Happening] = TypeAdapter(Annotated[Happening, Field(discriminator="kind")])


def read_message(data: Any, path: str = "") -> Happening:
    """Return JSON data as what happens; raises DocumentError that names the place by `path`."""
    if not isinstance(data, Mapping):
        raise DocumentError([Problem(path, "This is no JSON object.", "Begin it with {.")])
    kind = data.get("kind")
    if not isinstance(kind, str) or kind not in KINDS:
        raise DocumentError([Problem(below(path, "kind"), f"There is nothing called “{kind}”.", known(kind))])
    try:
        return _ANY.validate_python(data)
    except ValidationError as error:
        # the union names the kind first
        lines = [{**one, "loc": one["loc"][1:]} for one in error.errors(include_url=False)]
        found, more = problems_in(KINDS[kind], lines)
        raise DocumentError([replace(one, path=below(path, one.path)) for one in found], more) from error


def known(kind: object) -> str:
    """Return what can be said instead."""
    return did_you_mean(str(kind)[:60], list(KINDS))


def below(path: str, name: str) -> str:
    """Return the place of a key in something that has a place."""
    return f"{path}.{name}" if path and name else path or name
