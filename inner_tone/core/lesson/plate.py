"""A plate: a picture frozen into a step, with its caption and the recipe that draws it again."""

from typing import Annotated

from pydantic import Field

from inner_tone.core.documents import Document
from inner_tone.core.engine.render import render_key
from inner_tone.core.lens.recipe import Recipe
from inner_tone.core.patch.model import Name, Patch
from inner_tone.core.phrase import Phrase

MOST_PLATES = 24


class Plate(Document):
    """A frozen picture. `drafted` is the sentence that the caption was first: one that was not changed follows it."""

    id: Name
    caption: Annotated[str, Field(max_length=2_000)] = ""
    drafted: Annotated[str, Field(max_length=2_000)] = ""
    recipe: Recipe


def is_outdated(plate: Plate, patch: Patch, phrase: Phrase) -> bool:
    """Tell whether a step's patch or phrase has moved on, so that it no longer sounds as when the plate was made."""
    return render_key(plate.recipe.patch, plate.recipe.phrase) != render_key(patch, phrase)


def refreshed(plate: Plate, patch: Patch, phrase: Phrase, sentence: str) -> Plate:
    """Return a plate made anew from a step as it is now; `sentence` is what its lens says there."""
    caption = sentence if plate.caption == plate.drafted else plate.caption
    recipe = plate.recipe.model_copy(update={"patch": patch, "phrase": phrase})
    return plate.model_copy(update={"recipe": recipe, "caption": caption, "drafted": sentence})
