"""A recipe: all that a picture was made from, so that it can be made again and comes out the same."""

from collections.abc import Callable
from typing import Annotated

from pydantic import Field

from inner_tone.core.analysis.sound import Sound
from inner_tone.core.documents import Document
from inner_tone.core.engine.render import render
from inner_tone.core.lens.chart import Chart
from inner_tone.core.lens.look import look, taps_of
from inner_tone.core.lens.scene import Against, Scene
from inner_tone.core.lens.strip import Strip, alike, module_of, patches_of, value_text
from inner_tone.core.lens.view import View
from inner_tone.core.patch.model import Patch, PortName, split_port
from inner_tone.core.phrase import Phrase

# Returns the sounds of some taps of a patch that plays a phrase.
Sounds = Callable[[Patch, Phrase, set[str]], dict[str, Sound]]


class Behind(Document):
    """What a picture is compared with: another patch, or, without one, another tap of the same."""

    legend: Annotated[str, Field(min_length=1, max_length=60)]
    patch: Patch | None = None
    phrase: Phrase | None = None
    tap: PortName | None = None


class Recipe(Document):
    """A view of a patch that plays a phrase, what stands behind it, and the values of a strip."""

    view: View
    patch: Patch
    phrase: Phrase
    behind: Behind | None = None
    strip: Strip | None = None


def rendered(patch: Patch, phrase: Phrase, taps: set[str]) -> dict[str, Sound]:
    """Return the sounds of some taps, rendered on the spot; raises TapError."""
    done = render(patch, phrase, taps=sorted(taps))
    return {tap: Sound(signal, done.rate) for tap, signal in done.taps.items()}


def charts(recipe: Recipe, sounds: Sounds = rendered) -> list[Chart]:
    """Return the picture that a recipe makes: one chart, or those of a strip.

    Raises ViewError, TapError or StripError where the recipe names what its patch does not have.
    """
    if recipe.strip is None:
        return [chart_of(recipe, sounds)]
    patches = patches_of(recipe.patch, recipe.strip)
    each = [recipe.model_copy(update={"patch": patch, "strip": None, "behind": None}) for patch in patches]
    shown = alike([chart_of(one, sounds) for one in each])
    titles = [value_text(recipe.patch, recipe.strip, value) for value in recipe.strip.values]
    return [chart.model_copy(update={"title": title}) for chart, title in zip(shown, titles, strict=True)]


def sentence(recipe: Recipe, shown: list[Chart]) -> str:
    """Return what a picture shows: what its lens says, or through which values a strip leads."""
    if recipe.strip is None:
        return " ".join(part for part in (shown[0].sentence, shown[0].difference) if part)
    title = module_of(recipe.patch, recipe.strip.module).title
    values = ", ".join(chart.title for chart in shown)
    return f"{recipe.strip.setting.capitalize()} of {title}: {values}."


def chart_of(recipe: Recipe, sounds: Sounds) -> Chart:
    """Return the one chart of a recipe without a strip."""
    taps = taps_of(recipe.view, recipe.patch)
    behind = recipe.behind
    if behind is None:
        return look(recipe.view, Scene(recipe.patch, sounds(recipe.patch, recipe.phrase, taps)))
    if behind.patch is None:
        extra = {behind.tap} if behind.tap else set()
        scene = Scene(recipe.patch, sounds(recipe.patch, recipe.phrase, taps | extra))
        return look(recipe.view, scene, Against(behind.legend, scene, behind.tap))
    scene = Scene(recipe.patch, sounds(recipe.patch, recipe.phrase, taps))
    return look(recipe.view, scene, Against(behind.legend, other_scene(behind, behind.patch, recipe, sounds)))


def other_scene(behind: Behind, patch: Patch, recipe: Recipe, sounds: Sounds) -> Scene:
    """Return the scene behind: with those of the taps that it has too."""
    taps = {tap for tap in taps_of(recipe.view, recipe.patch) if has(patch, tap)}
    return Scene(patch, sounds(patch, behind.phrase or recipe.phrase, taps))


def has(patch: Patch, tap: str) -> bool:
    """Tell whether a patch has a port."""
    name, port = split_port(tap)
    if name not in patch.by_id:
        return False
    declaration = patch.by_id[name].declaration
    return port in {one.name for one in declaration.outputs} | {one.name for one in declaration.inputs}
