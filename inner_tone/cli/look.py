"""Looks through a lens at a patch that plays a phrase."""

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from inner_tone.cli.documents import patch_file, phrase_file
from inner_tone.core.errors import InnerToneError
from inner_tone.core.lens.look import LENSES, ViewError
from inner_tone.core.lens.moment import NoteMoment, checked_moment
from inner_tone.core.lens.recipe import Behind, Recipe, charts, sentence
from inner_tone.core.patch.port import Port

LEGEND = "the other patch"


def look_at(
    patch: Path, phrase: Path, lens: str, taps: Sequence[str], note: int | None, against: Path | None
) -> dict[str, Any]:
    """Return what a lens shows, as JSON data: its sentence, the facts that it rests on, and the chart.

    Raises InnerToneError or OSError.
    """
    if note is not None and note < 1:
        raise InnerToneError("--note: Notes are counted from 1.")
    for tap in taps:
        if "." not in tap:
            raise InnerToneError(f"--tap: “{tap}” is not of the form MODULE.OUTPUT.")
    most = LENSES[lens].most_taps
    if len(taps) > most:
        raise ViewError(f"--tap: The lens {lens} looks at no more than {most}.")
    played = phrase_file(phrase)
    recipe = Recipe(
        view=LENSES[lens].view(taps=tuple(Port(tap) for tap in taps)),
        patch=patch_file(patch),
        phrase=played,
        moment=None if note is None else checked_moment(NoteMoment(note=note), played),
        behind=None if against is None else Behind(legend=LEGEND, patch=patch_file(against)),
    )
    shown = charts(recipe)
    (chart,) = shown
    return {"sentence": sentence(recipe, shown), "facts": chart.facts, "chart": chart.model_dump(mode="json")}
