"""A recipe: all that a picture was made from, so that it can be made again and comes out the same."""

from collections.abc import Callable, Collection
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from inner_tone.core.analysis.sound import Sound
from inner_tone.core.company import Sounds, can_be_mixed, mix_of
from inner_tone.core.documents import Document
from inner_tone.core.engine.render import render
from inner_tone.core.errors import InnerToneError
from inner_tone.core.lens.chart import Chart
from inner_tone.core.lens.company import in_company
from inner_tone.core.lens.informed import course_ports
from inner_tone.core.lens.look import View, look, taps_of
from inner_tone.core.lens.moment import Moment, Span, note_span, span_of, strikes_of
from inner_tone.core.lens.source import Against, Played, Recorded, gate_of
from inner_tone.core.lens.strip import Strip, alike, module_of, patches_of, value_text
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.port import Port
from inner_tone.core.phrase import Phrase

RECORDING = r"^[0-9a-f]{64}$"
PASSAGE_S = 0.5  # what was looked at from a time on, when views had times

# Returns the recording that is kept under a key.
Recordings = Callable[[str], Sound]


class Behind(Document):
    """What a picture is compared with: another patch, a recording, another tap of the same patch, or its company.

    Of its company it is the `others` alone, or all `together` with what is looked at, which is then what is heard.
    `begins_s` is when the phrase begins in a recording; before its own beginning, if it is negative.
    """

    legend: Annotated[str, Field(min_length=1, max_length=60)]
    patch: Patch | None = None
    phrase: Phrase | None = None
    tap: Port | None = None
    recording: Annotated[str, Field(pattern=RECORDING)] | None = None
    begins_s: Annotated[float, Field(ge=-60, le=60)] | None = None
    company: Literal["others", "together"] | None = None


class Recipe(Document):
    """A view of a patch that plays a phrase at a moment, what stands behind it, and the values of a strip.

    Without a moment it is that of the note that says most.
    """

    view: View
    patch: Patch
    phrase: Phrase
    moment: Moment | None = None
    behind: Behind | None = None
    strip: Strip | None = None

    @model_validator(mode="before")
    @classmethod
    def upgraded(cls, data: Any) -> Any:
        """Read what was written before there were moments: times stood in the view then."""
        if not isinstance(data, dict) or not isinstance(data.get("view"), dict):
            return data
        view = dict(data["view"])
        at, begin, end = (view.pop(name, None) for name in ("at_s", "begin_s", "end_s"))
        if at is not None:
            begin, end = at, at + PASSAGE_S
        if end is None:
            return {**data, "view": view}
        return {**data, "view": view, "moment": {"kind": "stretch", "begin_s": begin or 0.0, "end_s": end}}


def unknown(key: str) -> Sound:
    """Refuse a recording where none are kept."""
    raise InnerToneError("There are no recordings here.")


def rendered(patch: Patch, phrase: Phrase, taps: Collection[str]) -> dict[str, Sound]:
    """Return the sounds of some taps, rendered on the spot; raises TapError."""
    done = render(patch, phrase, taps=sorted(taps))
    return {tap: Sound(signal, done.rate) for tap, signal in done.taps.items()}


def charts(recipe: Recipe, sounds: Sounds = rendered, recordings: Recordings = unknown) -> list[Chart]:
    """Return the picture that a recipe makes: one chart, or those of a strip.

    Raises ViewError, TapError or StripError where the recipe names what its patch does not have.
    """
    if recipe.strip is None:
        return [chart_of(recipe, sounds, recordings)]
    patches = patches_of(recipe.patch, recipe.strip)
    each = [recipe.model_copy(update={"patch": patch, "strip": None, "behind": None}) for patch in patches]
    shown = alike([chart_of(one, sounds, recordings) for one in each])
    titles = [value_text(recipe.patch, recipe.strip, value) for value in recipe.strip.values]
    return [chart.model_copy(update={"title": title}) for chart, title in zip(shown, titles, strict=True)]


def sentence(recipe: Recipe, shown: list[Chart]) -> str:
    """Return what a picture shows: what its lens says, or through which values a strip leads."""
    if recipe.strip is None:
        return " ".join(part for part in (shown[0].sentence, shown[0].difference) if part)
    title = module_of(recipe.patch, recipe.strip.module).title
    values = ", ".join(chart.title for chart in shown)
    return f"{recipe.strip.setting.capitalize()} of {title}: {values}."


def chart_of(recipe: Recipe, sounds: Sounds, recordings: Recordings = unknown) -> Chart:
    """Return the one chart of a recipe without a strip."""
    behind, graph = recipe.behind, Graph(recipe.patch)
    taps = taps_of(recipe.view, graph)
    other = {behind.tap} if behind and behind.tap and beside(behind) else set()
    span = span_of(recipe.moment, recipe.phrase)
    if behind and behind.company and recipe.phrase.company and can_be_mixed(recipe.patch):
        return in_company(recipe.view, mix_of(recipe.patch, recipe.phrase, sounds), span, behind.company, behind.legend)
    played = Played(graph, sounds(recipe.patch, recipe.phrase, taps | other), span)
    if behind is None or behind.company:
        return look(recipe.view, played)
    if behind.recording is not None:
        recording = Recorded(
            behind.legend, recordings(behind.recording).begun_at(behind.begins_s or 0.0), stretch_of(span)
        )
        return look(recipe.view, played, Against(behind.legend, recording))
    if beside(behind):
        return look(recipe.view, played, Against(behind.legend, played, behind.tap))
    return look(recipe.view, played, Against(behind.legend, other_patch(behind, taps, recipe, sounds)))


def beside(behind: Behind) -> bool:
    """Tell whether what is compared with is of the same render."""
    return behind.patch is None and behind.recording is None and behind.company is None


def other_patch(behind: Behind, taps: set[Port], recipe: Recipe, sounds: Sounds) -> Played:
    """Return the patch behind, at the same moment: with those taps that it has too, what opens and what steers them."""
    assert behind.patch is not None
    graph, phrase = Graph(behind.patch), behind.phrase or recipe.phrase
    there = {tap for tap in taps if graph.has(tap)}
    there |= {gate for tap in there if (gate := gate_of(graph, tap))}
    there |= {port for tap in there for port in course_ports(graph, tap)}
    return Played(graph, sounds(behind.patch, phrase, there), same_moment(recipe, phrase))


def same_moment(recipe: Recipe, phrase: Phrase) -> Span:
    """Return the moment in another phrase: the note of the same number, or as near to it as there is one."""
    span = span_of(recipe.moment, recipe.phrase)
    strikes = strikes_of(phrase)
    if not span.note or not strikes:
        return span_of(recipe.moment if not span.note else None, phrase)
    return note_span(strikes, min(span.note, len(strikes)) - 1)


def stretch_of(span: Span) -> Span:
    """Return the same time in a recording, which has no notes of its own."""
    return Span(span.begin_s, span.end_s, "the same time")
