"""A lesson on paper: a PDF that is tagged for screen readers, black and white readable, the same bytes for the same.

WeasyPrint sets it from HTML and CSS for print (https://doc.courtbouillon.org/weasyprint/). Nothing is fetched: what is
in it has been given.
"""

import os
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from hashlib import sha256
from html import escape
from pathlib import Path
from typing import Literal

from PIL import ImageFile

from inner_tone.core.lesson.sheet import SheetStep
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

Paper = Literal["A4", "Letter"]
PAGES = Path(__file__).parent / "pages"
NOTE_LINES = 4
DATE = "SOURCE_DATE_EPOCH"


def handout(
    front: Front,
    steps: Sequence[SheetStep],
    figures: Mapping[int, Sequence[Figure]],
    images: Mapping[str, bytes],
    paper: Paper = "A4",
    *,
    solutions: bool = True,
) -> bytes:
    """Return a lesson as a PDF file.

    Parameters
    ----------
    front
        Its first lines.
    steps
        Its steps.
    figures
        The pictures of each step, by its number.
    images
        What stands in its texts, by the SHA-256 of each.
    paper
        The size of a page.
    solutions
        Whether the values stand in it, or are left open to be found.
    """
    from weasyprint import CSS, HTML  # noqa: PLC0415 - it takes time to load
    from weasyprint.text.fonts import FontConfiguration  # noqa: PLC0415
    from weasyprint.urls import URLFetcher  # noqa: PLC0415

    ImageFile.LOAD_TRUNCATED_IMAGES = False  # what sets pages takes any image for good, and lets all others do so too
    text = page(front, steps, figures, images, solutions=solutions)
    style = faces(weights=False) + (PAGES / "handout.css").read_text().replace("PAPER", paper)
    fonts, given = FontConfiguration(), URLFetcher(allowed_protocols=("data",))
    sheet = CSS(string=style, font_config=fonts, url_fetcher=given)
    with without_date():
        made: bytes | None = HTML(string=text, url_fetcher=given).write_pdf(
            stylesheets=[sheet],
            font_config=fonts,
            pdf_variant="pdf/ua-1",
            pdf_identifier=sha256((text + style).encode()).digest()[:16],
        )
    assert made is not None
    return made


@contextmanager
def without_date() -> Iterator[None]:
    """Let typefaces be written as if it were always the same day (https://reproducible-builds.org/specs/)."""
    before = os.environ.get(DATE)
    os.environ[DATE] = "0"
    try:
        yield
    finally:
        if before is None:
            del os.environ[DATE]
        else:
            os.environ[DATE] = before


def page(
    front: Front,
    steps: Sequence[SheetStep],
    figures: Mapping[int, Sequence[Figure]],
    images: Mapping[str, bytes],
    *,
    solutions: bool,
) -> str:
    """Return a lesson as one page of HTML, to be set on paper."""
    body = "".join(step_html(one, figures.get(one.number, ()), images, solutions=solutions) for one in steps)
    more = "" if solutions else " Values are left open: find them, and write them down."
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{escape(front.title)}</title>'
        f'<meta name="generator" content="Inner Tone"></head><body>'
        f"<header><h1>{escape(front.title)}</h1>{front_html(front, images, more)}</header>"
        f"<main>{body}</main></body></html>"
    )


def step_html(step: SheetStep, figures: Sequence[Figure], images: Mapping[str, bytes], *, solutions: bool) -> str:
    """Return a step on paper."""
    notes = "".join("<li></li>" for _ in range(NOTE_LINES))
    values = f"<h3>All values</h3>{values_html(step.modules, step.lines)}" if solutions else ""
    return (
        f'<section><h2><span class="number">{step.number}</span> {escape(step.title)}</h2>'
        f"{text_html(step.why, images)}{map_html(step)}{marks_html(step.marks)}"
        f"<h3>Do this</h3>{said_html(step.said, blank=not solutions)}"
        f"{listen_html(step, images)}{figures_html(figures)}{values}{played_html(step)}"
        f'<div class="room"><h3>Notes</h3><ul class="notes" aria-label="Room for notes">{notes}</ul></div></section>'
    )
