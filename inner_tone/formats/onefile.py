"""A lesson as a single HTML file that needs no server: texts, maps, sounds and pictures, and a little script.

It opens from a stick, on a phone, without a network; a policy within it lets nothing be fetched. Without the script all
steps stand below one another; with it, one at a time. On paper it is all of them.
"""

import json
from base64 import b64encode
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from html import escape

from inner_tone.core.lesson.sheet import SheetStep
from inner_tone.formats.handout import PAGES
from inner_tone.formats.html import (
    Figure,
    Front,
    faces,
    figures_html,
    front_html,
    listen_html,
    map_html,
    marks_html,
    played_html,
    said_html,
    text_html,
    values_html,
)

POLICY = (
    "default-src 'none'; img-src data:; media-src blob: data:; font-src data:; style-src 'unsafe-inline'; "
    "script-src 'unsafe-inline'; base-uri 'none'; form-action 'none'"
)


@dataclass(frozen=True)
class MomentPictures:
    """What a moment of a phrase looks like: its name, its wave and its spectrum as SVG, and what they say."""

    words: str
    wave: str
    spectrum: str
    sentences: tuple[str, ...]


@dataclass(frozen=True)
class Heard:
    """The sounds of a step and of what is before it, by their keys among all sounds of the file."""

    this: str
    before: str | None


@dataclass(frozen=True)
class Sounds:
    """All sounds of a lesson by their keys, each once, and what kind of file they are."""

    media_type: str
    data: Mapping[str, bytes]


def one_file(
    front: Front,
    steps: Sequence[SheetStep],
    heard: Mapping[int, Heard],
    sounds: Sounds,
    moments: Mapping[int, Sequence[MomentPictures]],
    figures: Mapping[int, Sequence[Figure]],
    images: Mapping[str, bytes],
    reports: str = "",
) -> bytes:
    """Return a lesson as an HTML file.

    `heard`, `moments` and `figures` are those of each step by its number; `reports` is a script that tells a learning
    platform how far somebody is.
    """
    body = "".join(
        step_html(one, heard[one.number], moments.get(one.number, ()), figures.get(one.number, ()), images)
        for one in steps
    )
    links = "".join(f'<li><a href="#step-{one.number}">{escape(one.title)}</a></li>' for one in steps)
    style, script = ((PAGES / f"onefile.{kind}").read_text() for kind in ("css", "js"))
    kept = {key: b64encode(data).decode() for key, data in sounds.data.items()}
    page = (
        f'<!doctype html>\n<html lang="en"><head><meta charset="utf-8"><title>{escape(front.title)}</title>'
        f'<meta name="viewport" content="width=device-width, initial-scale=1">'
        f'<meta name="description" content="{escape(front.summary)}">'
        f'<meta http-equiv="Content-Security-Policy" content="{POLICY}">'
        f"<style>{faces()}{style}</style></head><body>"
        f'<header><h1>{escape(front.title)}</h1><div id="front">{front_html(front, images)}'
        f'<nav aria-label="Steps"><ol>{links}</ol></nav></div></header><main>{body}</main>'
        f'<nav class="ways" aria-label="Through the lesson"><span id="where"></span>'
        f'<button type="button" id="back">Back</button><button type="button" id="on">Begin</button></nav>'
        f"<noscript><p>The sounds are played by a script, which this browser does not run.</p></noscript>"
        f'<script type="application/json" id="sounds">{json.dumps({"type": sounds.media_type, "data": kept})}</script>'
        f"<script>{script}{reports}</script></body></html>\n"
    )
    return page.encode()


def step_html(
    step: SheetStep,
    heard: Heard,
    moments: Sequence[MomentPictures],
    figures: Sequence[Figure],
    images: Mapping[str, bytes],
) -> str:
    """Return a step: what it says, its map, its sounds, and what they look like at each moment."""
    before = (
        f'<button type="button" class="play" data-sound="{heard.before}">Before</button>'
        if heard.before
        else "<span>Before it there is no sound.</span>"
    )
    return (
        f'<section id="step-{step.number}" tabindex="-1" aria-labelledby="title-{step.number}">'
        f'<h2 id="title-{step.number}"><span class="number">{step.number}</span> {escape(step.title)}</h2>'
        f'<div class="sounds"><button type="button" class="play" data-sound="{heard.this}">Play this step</button>'
        f'{before}<audio controls hidden aria-label="The sound that plays"></audio></div>'
        f"{text_html(step.why, images)}{map_html(step, inline=True)}{marks_html(step.marks)}"
        f"<h3>Do this</h3>{said_html(step.said)}{listen_html(step, images)}"
        f"{moments_html(step.number, moments)}{figures_html(figures)}"
        f"<details><summary>All values</summary>{values_html(step.modules, step.lines)}{played_html(step)}</details>"
        f"</section>"
    )


def moments_html(number: int, moments: Sequence[MomentPictures]) -> str:
    """Return what each moment looks like, one at a time where there are several."""
    if not moments:
        return ""
    choices = "".join(
        f'<button type="button" data-moment="{place}" aria-pressed="{str(place == 0).lower()}">'
        f"{escape(one.words)}</button>"
        for place, one in enumerate(moments)
    )
    group = f'<div class="choices" role="group" aria-label="Which moment">{choices}</div>'
    shown = "".join(
        f'<div class="moment" data-place="{place}"><h4>{escape(one.words)}</h4>'
        f'<div class="pair">{one.wave}{one.spectrum}</div><p>{escape(" ".join(one.sentences))}</p></div>'
        for place, one in enumerate(moments)
    )
    several = group if len(moments) > 1 else ""
    return f'<h3>What it looks like</h3><div class="moments" id="moments-{number}">{several}{shown}</div>'
