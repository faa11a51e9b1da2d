"""What goes over the wire of own benches: attempts, nearness, advice, recordings, questions."""

import uuid
from datetime import datetime
from typing import Annotated

from pydantic import BaseModel, Field

from inner_tone.api.renders import TICKET
from inner_tone.api.schemas import MOST_SET, Incoming, Whole
from inner_tone.core import nearness
from inner_tone.core.advice import Advice
from inner_tone.core.analysis.compare import Comparison, Tolerances
from inner_tone.core.analysis.sentences.clause import sentence
from inner_tone.core.analysis.sentences.near import off_pitch
from inner_tone.core.lesson.nearby import Nearness, answer
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import Edit, SetValue
from inner_tone.core.units import capital, with_unit
from inner_tone.store import attempts as store
from inner_tone.store.models import Attempt, Played, Question, Standing

Name = Annotated[str, Field(min_length=1, max_length=60)]
FIRST_NAME = "My bench"


class AttemptOut(BaseModel):
    """What somebody has made of a step, under a name; `may_show` if they have agreed that others see it."""

    id: uuid.UUID
    step_id: uuid.UUID
    name: str
    version: int
    patch: Patch
    may_show: bool
    updated_at: datetime


class StandingOut(BaseModel):
    """How far somebody has come with a step, and whether some of it was shown to them."""

    step_id: uuid.UUID
    state: store.State
    shown: bool
    at: datetime


class QuestionOut(BaseModel):
    """A question at a place of a step, and its answer, if there is one."""

    id: uuid.UUID
    step_id: uuid.UUID
    attempt_id: uuid.UUID | None
    place: str
    text: str
    answer: str
    asked_at: datetime
    answered_at: datetime | None


class PlayedOut(BaseModel):
    """A recording that was given of a step; `key` is that of the recording."""

    id: uuid.UUID
    key: str
    name: str
    at: datetime


class OwnBench(BaseModel):
    """What there is of one's own at a step: what it begins with, attempts, how far one is, questions and recordings."""

    start: Patch
    attempts: list[AttemptOut]
    standing: StandingOut | None
    questions: list[QuestionOut]
    played: list[PlayedOut]


class AttemptWish(Incoming):
    """An attempt to be begun under a name: with a patch, or with what the step begins with."""

    name: Name = FIRST_NAME
    patch: Patch | None = None


class AttemptChange(Incoming):
    """What is new in an attempt since it stood at `version`: its patch, or only settings of it, and its name;
    and whether others may see it.

    `request` names the wish, and `own` those of the same page that may have been fulfilled since. `shown` if what is
    new was shown rather than done.
    """

    version: Whole
    name: Name | None = None
    patch: Patch | None = None
    settings: Annotated[list[SetValue], Field(max_length=MOST_SET, default_factory=list)]
    request: uuid.UUID | None = None
    own: Annotated[list[uuid.UUID], Field(max_length=8, default_factory=list)]
    shown: bool = False
    may_show: bool | None = None


class AttemptState(BaseModel):
    """A state that an attempt has had."""

    version: int
    action: str
    patch: Patch
    at: datetime


class HintOut(BaseModel):
    """Help with one thing that remains: where to look, what to do, and the edits that do it."""

    where: str
    what: str
    module: str
    edits: list[Edit]


class FigureOut(BaseModel):
    """One figure of a comparison: how far off it is, and how far counts as the same; nothing where nothing is there.

    `said` is how far off it is in words: a pitch in octaves, semitones and cents.
    """

    name: str
    words: str
    unit: str
    value: float | None
    said: str
    limit: float


class SoundOut(BaseModel):
    """How near a sound is, and when its phrase begins. Where that cannot be told, `cannot_tell` says why."""

    same: bool
    confidence: float
    cannot_tell: str | None
    sentence: str
    level_db: float
    begins_s: float
    figures: list[FigureOut]


class NearWish(Incoming):
    """A patch of which it is asked how near it is; and whether some of it was shown."""

    patch: Patch
    shown: bool = False


class TickedOut(BaseModel):
    """Of each of the step's instructions, whether a patch shows it; and which of its levers is each of the step's."""

    ticks: list[bool]
    levers: dict[str, str]


class NearOut(BaseModel):
    """How near somebody is to what a step leads to.

    `ticks` says of each of the step's instructions whether the patch shows it; `hints` help with what remains.
    """

    answer: str
    done: bool
    near: bool
    untouched: bool
    wiring: bool
    ticks: list[bool]
    hints: list[HintOut]
    sound: SoundOut
    standing: StandingOut


class AdviceWish(Incoming):
    """A patch for which advice is sought; whoever makes up a ticket can ask how far that is and stop it."""

    patch: Patch
    ticket: Annotated[str | None, Field(pattern=TICKET)] = None


class AdviceOut(BaseModel):
    """What to turn, the way and about how far."""

    module: str
    setting: str
    text: str


class QuestionWish(Incoming):
    """A question at a place of a step, with the attempt that it is about."""

    place: Annotated[str, Field(max_length=400)] = ""
    text: Annotated[str, Field(min_length=1, max_length=2_000)]
    attempt_id: uuid.UUID | None = None


def attempt_out(one: Attempt) -> AttemptOut:
    """Return an attempt for the wire."""
    return AttemptOut(
        id=one.id,
        step_id=one.step_id,
        name=one.name,
        version=one.version,
        patch=store.patch_of(one),
        may_show=one.may_show,
        updated_at=one.updated_at,
    )


def standing_out(one: Standing) -> StandingOut:
    """Return a standing for the wire."""
    return StandingOut.model_validate(one, from_attributes=True)


def question_out(one: Question) -> QuestionOut:
    """Return a question for the wire."""
    return QuestionOut.model_validate(one, from_attributes=True)


def played_out(one: Played) -> PlayedOut:
    """Return a recording that was given, for the wire."""
    return PlayedOut(id=one.id, key=one.recording_key, name=one.name, at=one.at)


def advice_out(one: Advice) -> AdviceOut:
    """Return advice for the wire."""
    return AdviceOut(module=one.module, setting=one.setting, text=one.text)


FIGURES = (
    ("pitch_cents", "pitch", "cents"),
    ("partials_db", "partials", "dB"),
    ("envelope_db", "envelope", "dB"),
    ("spectrum_db", "spectrum over time", "dB"),
)


def sound_out(found: Comparison, tolerances: Tolerances, said: str) -> SoundOut:
    """Return a comparison for the wire."""
    return SoundOut(
        same=found.same,
        confidence=found.confidence,
        cannot_tell=nearness.REASONS[found.cannot_tell] if found.cannot_tell else None,
        sentence=said,
        level_db=round(found.level_db, 2),
        begins_s=round(found.begins_s, 4),
        figures=[figure_out(found, tolerances, *one) for one in FIGURES],
    )


def figure_out(found: Comparison, tolerances: Tolerances, name: str, words: str, unit: str) -> FigureOut:
    """Return a figure of a comparison for the wire."""
    value = getattr(found, name)
    if value is None:
        said = ""
    elif unit == "cents":
        said = str(off_pitch(value))
    else:
        said = f"{with_unit(value, unit)} off"
    return FigureOut(name=name, words=words, unit=unit, value=value, said=said, limit=getattr(tolerances, name))


def near_out(found: Nearness, standing: Standing) -> NearOut:
    """Return how near somebody is, for the wire."""
    said = capital(sentence(found.clauses)) if found.clauses else ""
    return NearOut(
        answer=str(answer(found)),
        done=found.done,
        near=found.near,
        untouched=found.untouched,
        wiring=found.match.same,
        ticks=list(found.shown),
        hints=[
            HintOut(where=str(one.where), what=str(one.what), module=one.module, edits=list(one.edits))
            for one in found.hints
        ],
        sound=sound_out(found.sound, found.tolerances, said),
        standing=standing_out(standing),
    )
