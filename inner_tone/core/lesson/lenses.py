"""The lenses of a step: which stand beside its patch, what each looks at, and how it is set."""

from typing import Annotated, Any, Literal

from pydantic import Field, TypeAdapter, model_validator

from inner_tone.core.documents import Document
from inner_tone.core.lens.look import View
from inner_tone.core.lens.view import MOST_TAPS
from inner_tone.core.lens_kinds import LensKind
from inner_tone.core.patch.port import Port

MOST_LENSES = 3
ANY_TAP = "any.out"
VIEW: TypeAdapter[Any] = TypeAdapter(View)


class StepLens(Document):
    """A lens as it is set in a step. Without taps it follows what is selected; what is not set is as usual there."""

    kind: LensKind
    taps: Annotated[tuple[Port, ...], Field(max_length=MOST_TAPS)] = ()
    settings: Annotated[dict[str, str | float | bool | None], Field(max_length=20, default_factory=dict)]
    table: bool = False

    @model_validator(mode="after")
    def can_be_set(self) -> "StepLens":
        """Refuse settings that such a lens does not have."""
        VIEW.validate_python({**self.settings, "kind": self.kind, "taps": self.taps or (ANY_TAP,)})
        return self


class StepLenses(Document):
    """The lenses of a step, and what stands behind them; left to itself, that is what tells most."""

    slots: Annotated[tuple[StepLens, ...], Field(min_length=1, max_length=MOST_LENSES)]
    against: Literal["fitting", "before", "input", "target", "company", "together", "nothing"] = "fitting"
