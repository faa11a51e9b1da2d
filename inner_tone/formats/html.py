"""What handouts and lessons in one file share: the parts of a step as HTML. Whatever people have written is only text.

Markdown is read by markdown-it (https://spec.commonmark.org/, and tables as GitHub has them), without HTML.
"""

import re
from base64 import b64encode
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from html import escape
from io import BytesIO
from pathlib import Path

from markdown_it import MarkdownIt
from markdown_it.renderer import RendererHTML
from markdown_it.token import Token
from markdown_it.utils import EnvType, OptionsDict

from inner_tone.core.lesson.sheet import LineRow, MarkRow, ModuleRow, SheetStep
from inner_tone.core.patch.instructions import Instruction
from inner_tone.formats.map import drawn

IMAGE = re.compile(r"^/api/images/([0-9a-f]{64})$")
MEDIA = {b"\x89PNG": "image/png", b"\xff\xd8\xff": "image/jpeg"}
FONTS = Path(__file__).resolve().parents[2] / "web" / "node_modules" / "@fontsource-variable"
FACES = (
    ("Literata", "literata/files/literata-latin-wght-normal.woff2", "normal", "200 900"),
    ("Literata", "literata/files/literata-latin-wght-italic.woff2", "italic", "200 900"),
    ("Instrument", "instrument-sans/files/instrument-sans-latin-wght-normal.woff2", "normal", "400 700"),
)
HEADING = "h4"  # beneath those of the sheet itself


@dataclass(frozen=True)
class Figure:
    """A picture with what it shows in words."""

    svg: bytes
    caption: str


@dataclass(frozen=True)
class Front:
    """What stands at the front of a lesson: its title, what it is about, where it is heading, and where it is from."""

    title: str
    summary: str
    target: str
    source: str


class Written(RendererHTML):
    """Writes texts as HTML: images are those that are given, headings stand beneath the sheet's own."""

    def image(self, tokens: Sequence[Token], place: int, options: OptionsDict, env: EnvType) -> str:
        """Return an image that is given, else what it would show."""
        token = tokens[place]
        told = self.renderInlineAsText(token.children or [], options, env)
        known = IMAGE.match(str(token.attrs.get("src", "")))
        data = env["images"].get(known[1]) if known else None
        if data is None:
            return f"<em>{escape(told)}</em>"
        return f'<img src="{data_url(media_of(data), data)}" alt="{escape(told)}">'

    def heading_open(self, tokens: Sequence[Token], place: int, options: OptionsDict, env: EnvType) -> str:
        """Begin a heading."""
        return f"<{HEADING}>"

    def heading_close(self, tokens: Sequence[Token], place: int, options: OptionsDict, env: EnvType) -> str:
        """End a heading."""
        return f"</{HEADING}>\n"


MARKDOWN = MarkdownIt("commonmark", {"html": False}, renderer_cls=Written).enable(["table", "strikethrough"])


def text_html(text: str, images: Mapping[str, bytes]) -> str:
    """Return a text in Markdown as HTML."""
    return str(MARKDOWN.render(text, {"images": images}))


def media_of(data: bytes) -> str:
    """Return what kind of image something is, by how it begins."""
    return next((kind for mark, kind in MEDIA.items() if data.startswith(mark)), "application/octet-stream")


def data_url(kind: str, data: bytes) -> str:
    """Return data as an address."""
    return f"data:{kind};base64,{b64encode(data).decode()}"


def picture_html(svg: bytes, told: str) -> str:
    """Return a drawing as an image that says what it shows."""
    return f'<img src="{data_url("image/svg+xml", svg)}" alt="{escape(told)}">'


def said_html(said: Sequence[Instruction], *, blank: bool = False) -> str:
    """Return instructions as a list; with `blank` their values are left open, to be found and written down."""
    rows = "".join(f"<li>{''.join(part_html(one, blank) for one in line)}</li>" for line in (one.parts for one in said))
    return f'<ol class="said">{rows}</ol>' if said else "<p>Nothing is to be done here: listen and look.</p>"


def part_html(part: object, blank: bool) -> str:
    """Return a stretch of an instruction."""
    text, role = escape(getattr(part, "text", "")), getattr(part, "role", "plain")
    if role == "value":
        return '<span class="blank">&#8239;</span>' if blank else f"<b>{text}</b>"
    return f"<b>{text}</b>" if role == "name" else text


def values_html(rows: Sequence[ModuleRow], lines: Sequence[LineRow]) -> str:
    """Return all values of a step as two tables: modules with their settings, and connections."""
    modules = "".join(
        f'<tr><th scope="row">{escape(one.title)}</th><td>{escape(one.kind)}</td><td>{settings_html(one)}</td></tr>'
        for one in rows
    )
    joined = "".join(
        f"<tr><td>{marked(one.source, one.new)}</td><td>{marked(one.target, one.new)}</td>"
        f"<td>{marked(one.amount, one.new)}</td></tr>"
        for one in lines
    )
    table = "<table><caption>Modules; what is not named is as it comes. New in this step is bold.</caption><thead><tr>"
    table += '<th scope="col">Module</th><th scope="col">Kind</th><th scope="col">Settings</th></tr></thead>'
    table += f"<tbody>{modules}</tbody></table>"
    if not lines:
        return f'<div class="values">{table}</div>'
    head = '<th scope="col">From</th><th scope="col">To</th><th scope="col">By</th>'
    connections = f"<table><caption>Connections</caption><thead><tr>{head}</tr></thead><tbody>{joined}</tbody></table>"
    return f'<div class="values">{table}{connections}</div>'


def settings_html(row: ModuleRow) -> str:
    """Return the settings of a module in a line; those that are new are bold."""
    if not row.values:
        return marked("as it comes", row.new)
    return ", ".join(marked(f"{one.setting} {one.value}", one.new) for one in row.values)


def marked(text: str, new: bool) -> str:
    """Return a text that is bold if it is new."""
    return f"<b>{escape(text)}</b>" if new and text else escape(text)


def marks_html(marks: Sequence[MarkRow]) -> str:
    """Return what the marks of a step are for, by their numbers."""
    if not marks:
        return ""
    rows = "".join(
        f"<li>{f'<span class=mark>{one.number}</span> ' if one.number else ''}<b>{escape(one.place)}</b>"
        f"{f': {escape(one.purpose)}' if one.purpose else ''}</li>"
        for one in sorted(marks, key=lambda one: (one.number is None, one.number or 0))
    )
    return f'<ul class="marks">{rows}</ul>'


def map_html(step: SheetStep, *, inline: bool = False) -> str:
    """Return the map of a step, with what is new in it; `inline` it has the typefaces of the page."""
    map_ = drawn(step.content.patch, step.content.marks, new_in(step))
    told = f"The map of step {step.number}: " + "; ".join(f"{one.source} to {one.target}" for one in step.lines)
    shown = map_.svg if inline else picture_html(map_.svg.encode(), told)
    return f'<figure class="map">{shown}</figure>'


def new_in(step: SheetStep) -> frozenset[str]:
    """Return the modules that a step has added."""
    known = {one.id for one in step.before.modules}
    return frozenset(one.id for one in step.content.patch.modules if one.id not in known)


def figures_html(figures: Sequence[Figure]) -> str:
    """Return pictures with their captions, numbered."""
    return "".join(
        f"<figure>{picture_html(one.svg, one.caption)}<figcaption><b>Picture {number}.</b> {escape(one.caption)}"
        f"</figcaption></figure>"
        for number, one in enumerate(figures, 1)
    )


def front_html(front: Front, images: Mapping[str, bytes], more: str = "") -> str:
    """Return what stands at the front of a lesson, beneath its title."""
    target = f"<h2>Where it is heading</h2>{text_html(front.target, images)}" if front.target.strip() else ""
    summary = f'<p class="summary">{escape(front.summary)}</p>' if front.summary.strip() else ""
    source = f'<p class="source">{escape(front.source)}.{more}</p>'
    return f"{source}{summary}{target}"


def played_html(step: SheetStep) -> str:
    """Return what a step plays, note by note where that can be read."""
    notes = f": {escape('; '.join(step.notes))}" if step.notes else ""
    return f'<p class="played"><b>Play</b> {escape(step.phrase)}{notes}.</p>'


def listen_html(step: SheetStep, images: Mapping[str, bytes]) -> str:
    """Return what to listen for in a step, if that is said."""
    if not step.listen.strip():
        return ""
    return f'<h3>Listen for</h3><div class="listen">{text_html(step.listen, images)}</div>'


@cache
def unpacked_face(file: str) -> str:
    """Return a typeface as an address, unpacked: what sets pages would unpack it anew for each."""
    from fontTools.ttLib import TTFont  # noqa: PLC0415 - it takes time to load

    face = TTFont(FONTS / file, recalcTimestamp=False)
    face.flavor = None
    buffer = BytesIO()
    face.save(buffer)
    return data_url("font/ttf", buffer.getvalue())


def faces(*, weights: bool = True) -> str:
    """Return the application's own typefaces as a style sheet in which they are contained.

    What sets pages finds the weights of a variable typeface by itself, and knows no ranges of them.
    """
    return "".join(
        f'@font-face {{ font-family: "{name}"; font-style: {style}; {f"font-weight: {weight}; " if weights else ""}'
        f'src: url("{data_url("font/woff2", (FONTS / file).read_bytes()) if weights else unpacked_face(file)}"); }}'
        for name, file, style, weight in FACES
        if (FONTS / file).is_file()
    )
