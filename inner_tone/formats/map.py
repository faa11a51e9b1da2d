"""The map of a patch on paper: modules as cards, what they are joined by as lines, as an SVG drawing.

Graphviz (https://graphviz.org/, `dot`) finds where cards stand and how lines run, after Gansner, Koutsofios, North and
Vo, “A technique for drawing directed graphs”, 1993. Sound is a broad line, what steers a thin broken one; nothing is
told by colour alone.
"""

import json
import subprocess
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from html import escape

from inner_tone.core.errors import InnerToneError
from inner_tone.core.lesson.mark import LinePlace, ModulePlace, StepMark
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.instructions import follows_pitch
from inner_tone.core.patch.model import Connection, Patch, Section
from inner_tone.core.patch.sections import around

DOT = ("dot", "-Tjson")
DOT_SECONDS = 20
POINTS = 72.0  # to an inch
CARD_HEIGHT_IN, CARD_LEAST_IN = 0.56, 1.05
LETTER_IN = 0.108  # of a card's title, at 13 points
WIDE = 3.4  # times as wide as it is high: then it is tried from top to bottom
MOST_LABEL = 26
INK, SOFT, PAPER, NEW = "#1c2830", "#4f5b64", "#ffffff", "#e3e9f1"


class MapError(InnerToneError):
    """A patch of which no map can be drawn."""


@dataclass(frozen=True)
class Drawn:
    """A map as SVG, and its size in points."""

    svg: str
    width: float
    height: float


def drawn(patch: Patch, marks: Sequence[StepMark] = (), new: frozenset[str] = frozenset()) -> Drawn:
    """Return the map of a patch with the numbers of its marks; modules that are `new` have a grey ground.

    Raises MapError where no map can be drawn.
    """
    across = placed(patch, "LR")
    width, height = size_of(across)
    if width > WIDE * height:
        down = placed(patch, "TB")
        if fit(*size_of(down)) > fit(width, height):
            across = down
    return svg_of(across, patch, marks, new)


def fit(width: float, height: float) -> float:
    """Return how large something is drawn in the room that a page has for a map."""
    return min(1.0, 480.0 / max(width, 1.0), 300.0 / max(height, 1.0))


def placed(patch: Patch, way: str) -> Mapping[str, object]:
    """Return a patch as Graphviz has placed it: its cards and its lines with their points."""
    try:
        done = subprocess.run(
            DOT, input=source_of(patch, way), capture_output=True, text=True, check=True, timeout=DOT_SECONDS
        )
    except FileNotFoundError as error:
        raise MapError("Maps on paper need Graphviz (dot), which is not installed here.") from error
    except (subprocess.CalledProcessError, subprocess.TimeoutExpired) as error:
        raise MapError("No map of this patch could be drawn on paper.") from error
    found: Mapping[str, object] = json.loads(done.stdout)
    return found


def source_of(patch: Patch, way: str) -> str:
    """Return a patch in Graphviz's language; everything is known by its number, so that no name can mean something."""
    number = {module.id: place for place, module in enumerate(patch.modules)}
    lines = [f"digraph {{ rankdir={way}; nodesep=0.28; ranksep=0.42; margin=0; pad=0.06; splines=spline;"]
    lines.append(
        'node [shape=box, fixedsize=true, label=""]; edge [fontname="DejaVu Sans", fontsize=8, arrowhead=none];'
    )
    for module in patch.modules:
        width = max(CARD_LEAST_IN, 0.3 + LETTER_IN * len(module.title[:MOST_LABEL]))
        lines.append(f"n{number[module.id]} [width={width:.3f}, height={CARD_HEIGHT_IN}];")
    lines += clusters(patch, number, None)
    for (source, target), joined in joins(patch).items():
        label = "_" * (max(map(len, labels_of(patch, joined)), default=0) * 9 // 10)
        sound = any(Graph(patch).carries_sound(one) for one in joined)
        weight = 6 if sound else 1
        ends = f"n{number[source]} -> n{number[target]}"
        lines.append(f'{ends} [id="{source} {target}", label="{label}", weight={weight}];')
    return "\n".join([*lines, "}"])


def clusters(patch: Patch, number: Mapping[str, int], outer: Section | None) -> Iterator[str]:
    """Yield the sections that stand within one, or within none, with those that stand within them."""
    for place, section in enumerate(patch.sections):
        within = around(patch, section.modules[0])
        if next((one for one in within if len(one.modules) > len(section.modules)), None) != outer:
            continue
        members = " ".join(f"n{number[one]};" for one in section.modules if around(patch, one)[0] == section)
        inner = " ".join(clusters(patch, number, section))
        label = "_" * min(len(section.label), MOST_LABEL)
        yield f'subgraph cluster_{place} {{ label="{label}"; {members} {inner} }}'


def joins(patch: Patch) -> dict[tuple[str, str], list[Connection]]:
    """Return what joins each two modules: one line on paper, with all that it does."""
    found: dict[tuple[str, str], list[Connection]] = {}
    for line in patch.connections:
        found.setdefault(line.modules, []).append(line)
    return found


def labels_of(patch: Patch, joined: Sequence[Connection]) -> list[str]:
    """Return what stands beside a line: the inputs that it steers."""
    graph, found = Graph(patch), []
    for line in joined:
        port = graph.input(line.target)
        if graph.carries_sound(line):
            continue
        words = "pitch" if follows_pitch(line, port) else port.words
        found.append(f"{words} (off)" if line.off else words)
    return list(dict.fromkeys(found))


def size_of(found: Mapping[str, object]) -> tuple[float, float]:
    """Return how large a map is, in points."""
    _, _, width, height = (float(one) for one in str(found["bb"]).split(","))
    return width, height


def svg_of(found: Mapping[str, object], patch: Patch, marks: Sequence[StepMark], new: frozenset[str]) -> Drawn:
    """Return a map as SVG."""
    width, height = size_of(found)
    head, side = 10.0, 10.0  # room for the numbers of marks
    parts = [
        *frames(found, patch, height),
        *lines(found, patch, marks, height),
        *cards(found, patch, marks, new, height),
    ]
    whole, high = width + 2 * side, height + 2 * head
    title = escape(f"Map: {', '.join(module.title for module in patch.modules)}")
    svg = (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{-side:g} {-head:g} {whole:.1f} {high:.1f}" '
        f'width="{whole:.1f}" height="{high:.1f}" role="img" aria-label="{title}" '
        f'font-family="Literata,DejaVu Serif,serif">{"".join(parts)}</svg>'
    )
    return Drawn(svg, whole, high)


def objects(found: Mapping[str, object], key: str) -> list[Mapping[str, str]]:
    """Return the parts of a map of one sort."""
    listed = found.get(key, [])
    assert isinstance(listed, list)
    return listed


def frames(found: Mapping[str, object], patch: Patch, height: float) -> Iterator[str]:
    """Yield the frames of sections, with their names."""
    boxes = {one["name"]: one for one in objects(found, "objects") if one["name"].startswith("cluster_")}
    for place, section in enumerate(patch.sections):
        one = boxes.get(f"cluster_{place}")
        if one is None:
            continue
        left, low, right, high = (float(value) for value in one["bb"].split(","))
        top = height - high
        yield f'<rect x="{left:.1f}" y="{top:.1f}" width="{right - left:.1f}" height="{high - low:.1f}" rx="4" '
        yield f'fill="none" stroke="{SOFT}" stroke-width="0.8"/>'
        yield f'<text x="{left + 6:.1f}" y="{top + 12:.1f}" font-size="10" fill="{SOFT}">{short(section.label)}</text>'


def cards(
    found: Mapping[str, object], patch: Patch, marks: Sequence[StepMark], new: frozenset[str], height: float
) -> Iterator[str]:
    """Yield the cards of modules: their names, what they are, and the numbers that are set on them."""
    numbers = {one.at.module: one.number for one in marks if isinstance(one.at, ModulePlace) and one.number}
    placed = {one["name"]: one for one in objects(found, "objects")}
    for place, module in enumerate(patch.modules):
        one = placed[f"n{place}"]
        x, y = (float(value) for value in one["pos"].split(","))
        wide, high = float(one["width"]) * POINTS, float(one["height"]) * POINTS
        left, top = x - wide / 2, height - y - high / 2
        ground = NEW if module.id in new else PAPER
        stroke = 1.8 if module.id in new else 1.0
        yield f'<rect x="{left:.1f}" y="{top:.1f}" width="{wide:.1f}" height="{high:.1f}" rx="3" fill="{ground}" '
        yield f'stroke="{INK}" stroke-width="{stroke:g}"/>'
        yield f'<text x="{left + 8:.1f}" y="{top + 17:.1f}" font-size="13" font-weight="600" fill="{INK}">'
        yield f"{short(module.title)}</text>"
        kind = module.declaration.title
        if kind != module.title:
            yield f'<text x="{left + 8:.1f}" y="{top + 31:.1f}" font-size="10" fill="{SOFT}">'
            yield f"{short(kind.lower())}</text>"
        if module.id in numbers:
            yield badge(left + wide, top, numbers[module.id])


def badge(x: float, y: float, number: int | None) -> str:
    """Return the number of a mark in its circle."""
    return (
        f'<circle cx="{x:.1f}" cy="{y:.1f}" r="8" fill="{INK}"/>'
        f'<text x="{x:.1f}" y="{y + 3.6:.1f}" font-size="10.5" font-weight="700" text-anchor="middle" '
        f'fill="{PAPER}">{number}</text>'
    )


def lines(found: Mapping[str, object], patch: Patch, marks: Sequence[StepMark], height: float) -> Iterator[str]:
    """Yield the lines with what they do and the numbers that are set on them."""
    numbers = {
        (one.at.source, one.at.target): one.number for one in marks if isinstance(one.at, LinePlace) and one.number
    }
    edges = {one["id"]: one for one in objects(found, "edges")}
    for ends, joined in joins(patch).items():
        one = edges[" ".join(ends)]
        points = bends(one["pos"], height)
        sound = any(Graph(patch).carries_sound(line) for line in joined)
        off = all(line.off for line in joined)
        look = f'stroke="{SOFT if off else INK}" stroke-width="{2.6 if sound else 1.1}"'
        dash = "" if sound and not off else ' stroke-dasharray="1.5 3"' if off else ' stroke-dasharray="4 2.5"'
        yield f'<path d="{points}" fill="none" {look}{dash}/>'
        yield tip(one["pos"], height, sound)
        label = ", ".join(labels_of(patch, joined))
        if label and "lp" in one:
            x, y = (float(value) for value in one["lp"].split(","))
            at = f'x="{x:.1f}" y="{height - y + 3:.1f}" font-size="8.5" text-anchor="middle" font-style="italic"'
            yield f'<text {at} fill="{PAPER}" stroke="{PAPER}" stroke-width="3">{escape(label)}</text>'
            yield f'<text {at} fill="{INK}">{escape(label)}</text>'
        number = next((numbers[line.ends] for line in joined if line.ends in numbers), None)
        if number is not None:
            x, y = middle_of(one["pos"])
            yield badge(x, height - y, number)


def pairs(pos: str) -> list[tuple[float, float]]:
    """Return the points of a line: where it begins, and three for each of its curves."""
    bare = [one for one in pos.split() if one[0] not in "es"]
    return [(float(x), float(y)) for x, y in (one.split(",") for one in bare)]


def middle_of(pos: str) -> tuple[float, float]:
    """Return about where the middle of a line is."""
    points = pairs(pos)
    return points[len(points) // 2]


def bends(pos: str, height: float) -> str:
    """Return the path of a line."""
    (x, y), *rest = pairs(pos)
    curves = " ".join(f"{a:.1f} {height - b:.1f}" for a, b in rest)
    return f"M{x:.1f} {height - y:.1f}C{curves}"


def tip(pos: str, height: float, sound: bool) -> str:
    """Return the point of an arrow at the end of a line."""
    (ax, ay), (bx, by) = pairs(pos)[-2:]
    length = max(1e-6, ((bx - ax) ** 2 + (by - ay) ** 2) ** 0.5)
    ux, uy = (bx - ax) / length, (by - ay) / length
    size = 7.0 if sound else 5.0
    x, y = bx, by
    left = (x - size * ux - 0.45 * size * uy, y - size * uy + 0.45 * size * ux)
    right = (x - size * ux + 0.45 * size * uy, y - size * uy - 0.45 * size * ux)
    shown = " ".join(f"{a:.1f},{height - b:.1f}" for a, b in ((x, y), left, right))
    return f'<polygon points="{shown}" fill="{INK}"/>'


def short(text: str) -> str:
    """Return a name as it fits on a card."""
    return escape(text if len(text) <= MOST_LABEL else f"{text[: MOST_LABEL - 1]}…")
