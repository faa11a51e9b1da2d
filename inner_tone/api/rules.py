"""The rules of the job that the pages need at once, as data: units and their words, lenses, and limits.

They are written beside the types when the interface is built, so that no rule stands in two languages.
"""

from typing import Any

from inner_tone.core.lens.lens import Lens
from inner_tone.core.lens.look import LENSES
from inner_tone.core.lens.style import style
from inner_tone.core.lesson.mark import MOST_NUMBER, MOST_PURPOSE
from inner_tone.core.outside import INSTRUMENTS
from inner_tone.core.patch.model import MOST_VOICES
from inner_tone.core.phrase import GRID_BEATS, HIGHEST_PITCH, LONGEST_SECONDS, NEW_NOTE
from inner_tone.core.units import UNITS, Unit
from inner_tone.store.classes import FIRST_DAY, LAST_DAY


def rules() -> dict[str, Any]:
    """Return all of them as JSON data."""
    return {
        "units": {name: unit_rule(unit) for name, unit in UNITS.items()},
        "charts": style(),
        "lenses": [lens_rule(kind, lens) for kind, lens in LENSES.items()],
        "instruments": [
            {"name": name, "title": one.title, "otherwise": one.otherwise} for name, one in INSTRUMENTS.items()
        ],
        "voices": {"low": 1, "high": MOST_VOICES, "default": 1, "unit": "", "step": 1, "travel": "linear"},
        "dates": {"first": FIRST_DAY.isoformat(), "last": LAST_DAY.isoformat()},
        "marks": {"most_number": MOST_NUMBER, "most_purpose": MOST_PURPOSE},
        "phrase": {
            "longest_seconds": LONGEST_SECONDS,
            "grid": GRID_BEATS,
            "highest_pitch": HIGHEST_PITCH,
            "new_note": NEW_NOTE.model_dump(mode="json"),
        },
    }


def unit_rule(unit: Unit) -> dict[str, Any]:
    """Return the words of a unit, and how it may be typed."""
    return {"many": unit.many, "one": unit.one, "digits": unit.digits, "typed": unit.typed}


def lens_rule(kind: str, lens: Lens) -> dict[str, Any]:
    """Return what the pages know of a lens: its title, how many taps it takes, and how it is set at first."""
    view = lens.view.model_validate({"taps": ["any.tap"]})
    at_first = view.model_dump(mode="json", exclude={"taps"}, exclude_none=True)
    return {
        "kind": kind,
        "title": lens.title,
        "most_taps": lens.most_taps,
        "listens": lens.listens,
        "heard": lens.heard,
        "at_first": at_first,
        "over_phrase": dict(lens.over_phrase),
        "form": [row.rule(lens.view) for row in lens.form],
    }
