"""The catalogue: every module type as it is declared, from which the interface draws rulers and choices."""

from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel

from inner_tone.core.modules import MODULE_TYPES
from inner_tone.core.modules.declaration import (
    Choice,
    Family,
    Law,
    ModuleType,
    Number,
    PictureKind,
    Ruler,
    SignalKind,
    Span,
    Travel,
    UsualPlace,
)

router = APIRouter(prefix="/api/modules", tags=["modules"])


class RulerOut(BaseModel):
    """The scale on which a number is set."""

    low: float
    high: float
    default: float
    unit: str
    step: float
    travel: Travel


class InputOut(BaseModel):
    """An input; with a ruler it has a base value. `words` are what people call it."""

    name: str
    words: str
    kind: SignalKind
    help: str
    law: Literal["linear", "semitones", "octaves"]
    depth_unit: str
    ruler: RulerOut | None
    goes_through: bool
    rare: bool
    steering: bool
    channel: str
    works_with: tuple[str, str] | None
    alone: bool


class OutputOut(BaseModel):
    """An output."""

    name: str
    kind: SignalKind
    help: str


class ScaledOut(BaseModel):
    """The settings on which a ruler depends."""

    low: str
    high: str
    step: str
    travel: str


class NumberOut(BaseModel):
    """A setting that is a number; its ruler may be `scaled` by other settings."""

    name: str
    help: str
    ruler: RulerOut
    scaled: ScaledOut | None
    rare: bool
    steering: bool
    works_with: tuple[str, str] | None


class ChoiceOut(BaseModel):
    """A setting that is one of several options; `words` are what people read.

    One that `begins` may set others too, so that it is set by an edit. With `own` it may also be a sound of one's own.
    """

    name: str
    help: str
    unit: str
    options: list[str | int]
    words: list[str]
    default: str | int
    begins: bool
    behind: bool
    channel: str
    works_with: tuple[str, str] | None
    own: bool


class RowOut(BaseModel):
    """A setting that is a row of up to `length` numbers."""

    name: str
    help: str
    length: int
    ruler: RulerOut
    counted_by: str
    rare: bool


class ModuleTypeOut(BaseModel):
    """A module type: what it is called, what it is for others, and what can be set.

    `main` is the output that stands for it, `sounds` whether that is sound; `single` if a patch has but one of it.
    `shakes` if its rows may sound otherwise than they are written.
    """

    name: str
    family: Family
    title: str
    summary: str
    words: list[str]
    explanation: str
    seen_over: Span
    usually: UsualPlace
    picture: PictureKind
    main: str | None
    sounds: bool
    single: bool
    inputs: list[InputOut]
    outputs: list[OutputOut]
    numbers: list[NumberOut]
    choices: list[ChoiceOut]
    rows: list[RowOut]
    shakes: bool


def ruler_out(ruler: Ruler) -> RulerOut:
    """Return a ruler for the wire."""
    return RulerOut.model_validate(ruler, from_attributes=True)


def choice_out(choice: Choice, begins: bool) -> ChoiceOut:
    """Return a choice for the wire."""
    words = list(choice.words) or [str(option) for option in choice.options]
    return ChoiceOut(
        name=choice.name,
        help=choice.help,
        unit=choice.unit,
        options=list(choice.options),
        words=words,
        default=choice.default,
        begins=begins,
        behind=choice.behind,
        channel=choice.channel,
        works_with=choice.works_with,
        own=choice.own,
    )


def number_out(number: Number) -> NumberOut:
    """Return a number for the wire."""
    scaled = ScaledOut.model_validate(number.scaled, from_attributes=True) if number.scaled else None
    return NumberOut(
        name=number.name,
        help=number.help,
        ruler=ruler_out(number.ruler),
        scaled=scaled,
        rare=number.rare,
        steering=number.steering,
        works_with=number.works_with,
    )


def module_type_out(declared: ModuleType) -> ModuleTypeOut:
    """Return a declaration for the wire."""
    laws: dict[Law, Literal["linear", "semitones", "octaves"]] = {
        Law.LINEAR: "linear",
        Law.SEMITONES: "semitones",
        Law.OCTAVES: "octaves",
    }
    return ModuleTypeOut(
        name=declared.name,
        family=declared.family,
        title=declared.title,
        summary=declared.summary,
        words=list(declared.words),
        explanation=declared.explanation,
        seen_over=declared.seen_over,
        usually=declared.usually,
        picture=declared.picture,
        main=declared.main.name if declared.main else None,
        sounds=declared.sounds,
        single="single" in declared.traits,
        inputs=[
            InputOut(
                name=port.name,
                kind=port.kind,
                help=port.help,
                law=laws[port.law],
                depth_unit=port.depth_unit,
                ruler=ruler_out(port.ruler) if port.ruler else None,
                goes_through=port.goes_through,
                words=port.words,
                rare=port.rare,
                steering=port.steering,
                channel=port.channel,
                works_with=port.works_with,
                alone=port.alone,
            )
            for port in declared.inputs
        ],
        outputs=[OutputOut(name=port.name, kind=port.kind, help=port.help) for port in declared.outputs],
        numbers=[number_out(item) for item in declared.numbers],
        choices=[choice_out(choice, declared.begins is not None) for choice in declared.choices.values()],
        rows=[
            RowOut(
                name=row.name,
                help=row.help,
                length=row.length,
                ruler=ruler_out(row.ruler),
                counted_by=row.counted_by,
                rare=row.rare,
            )
            for row in declared.rows.values()
        ],
        shakes=declared.sounding is not None,
    )


@router.get("")
def list_module_types() -> list[ModuleTypeOut]:
    """Return every module type."""
    return [module_type_out(declared) for declared in MODULE_TYPES]
