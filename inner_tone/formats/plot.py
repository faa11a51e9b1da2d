"""Small pictures of waves and spectra as SVG: few points, so that many of them fit into one file.

What is left out cannot be seen: of all points that fall onto one column, the lowest and the highest are drawn. Ticks
follow Heckbert, “Nice numbers for graph labels”, 1990.
"""

import math
from collections.abc import Sequence
from html import escape

from inner_tone.core.lens.chart import Axis, Chart, Trace
from inner_tone.core.units import trimmed

WIDTH, HEIGHT = 420, 190
LEFT, RIGHT, TOP, BOTTOM = 46, 14, 8, 34
COLUMNS = WIDTH - LEFT - RIGHT
TICKS = 5
DECADES = (20, 50, 100, 200, 500, 1_000, 2_000, 5_000, 10_000, 20_000)
INK, SOFT, RULE, THIS, COMPARED = "#1c2830", "#4f5b64", "#ddd6c8", "#1d4f91", "#b87316"
COLOURS = {"this": THIS, "compared": COMPARED, "theory": SOFT}
DASHES = {"this": "", "compared": "5 3", "theory": "2 3"}


def plot(chart: Chart) -> str:
    """Return the first field of a chart as an SVG drawing with its axes."""
    panel = chart.panels[0]
    parts = [*grid(chart.x, panel.y)]
    parts += [line(one, chart.x, panel.y) for one in sorted(panel.traces, key=lambda one: one.role == "this")]
    told = escape(chart.sentence)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH} {HEIGHT}" width="{WIDTH}" height="{HEIGHT}" '
        f'role="img" aria-label="{told}" '
        f'font-family="Instrument,sans-serif" font-size="11" fill="{SOFT}">{"".join(parts)}</svg>'
    )


def across(axis: Axis, value: float) -> float:
    """Return where a value stands from left to right."""
    return LEFT + COLUMNS * part_of(axis, value)


def down(axis: Axis, value: float) -> float:
    """Return where a value stands from top to bottom."""
    return HEIGHT - BOTTOM - (HEIGHT - TOP - BOTTOM) * part_of(axis, value)


def part_of(axis: Axis, value: float) -> float:
    """Return how far along an axis a value stands, 0 to 1."""
    low, high = axis.low, axis.high
    if axis.log:
        low, high, value = math.log(max(low, 1e-9)), math.log(max(high, 1e-9)), math.log(max(value, 1e-9))
    return min(1.0, max(0.0, (value - low) / ((high - low) or 1.0)))


def ticks(axis: Axis) -> list[float]:
    """Return the round values that stand at an axis."""
    if axis.log:
        return [float(one) for one in DECADES if axis.low <= one <= axis.high]
    step = nice((axis.high - axis.low) / TICKS)
    first = math.ceil(axis.low / step - 1e-9)
    last = math.floor(axis.high / step + 1e-9)
    return [number * step for number in range(first, last + 1)]


def nice(step: float) -> float:
    """Return the next round number from a step on: 1, 2 or 5 times a power of ten."""
    power = 10.0 ** math.floor(math.log10(max(step, 1e-12)))
    return power * next(one for one in (1, 2, 5, 10) if one * power >= step * (1 - 1e-9))


def tick_text(axis: Axis, value: float) -> str:
    """Return a value as it stands at an axis: times in ms, thousands with a k."""
    if axis.unit == "s" and axis.high - axis.low < 1.0:
        return trimmed(value * 1_000)
    if axis.unit == "Hz" and value >= 1_000:
        return f"{trimmed(value / 1_000)}k"
    return trimmed(round(value, 6))


def grid(x: Axis, y: Axis) -> list[str]:
    """Return the lines and the words of both axes."""
    foot = HEIGHT - BOTTOM
    found = [f'<path d="M{LEFT} {TOP}V{foot}H{WIDTH - RIGHT}" fill="none" stroke="{SOFT}" stroke-width=".8"/>']
    for value in ticks(x):
        at = across(x, value)
        found.append(f'<path d="M{at:.1f} {TOP}V{foot}" stroke="{RULE}" stroke-width=".7"/>')
        found.append(f'<text x="{at:.1f}" y="{foot + 14}" text-anchor="middle">{tick_text(x, value)}</text>')
    for value in ticks(y):
        at = down(y, value)
        found.append(f'<path d="M{LEFT} {at:.1f}H{WIDTH - RIGHT}" stroke="{RULE}" stroke-width=".7"/>')
        found.append(f'<text x="{LEFT - 5}" y="{at + 4:.1f}" text-anchor="end">{tick_text(y, value)}</text>')
    unit = "ms" if x.unit == "s" and x.high - x.low < 1.0 else x.unit
    words = f"{x.label} in {unit}" if unit else x.label
    found.append(f'<text x="{(LEFT + WIDTH) / 2:.0f}" y="{HEIGHT - 4}" text-anchor="middle">{escape(words)}</text>')
    side = f"{y.label} in {y.unit}" if y.unit else y.label
    middle = (TOP + foot) / 2
    found.append(f'<text transform="translate(11 {middle:.0f}) rotate(-90)" text-anchor="middle">{escape(side)}</text>')
    return found


def line(trace: Trace, x: Axis, y: Axis) -> str:
    """Return a trace as a path of at most two points for each column."""
    colour, dash = COLOURS[trace.role], DASHES[trace.role]
    pieces = " ".join(path(piece) for piece in thinned(trace, x, y))
    dashed = f' stroke-dasharray="{dash}"' if dash else ""
    return f'<path d="{pieces}" fill="none" stroke="{colour}" stroke-width="1.3" stroke-linejoin="round"{dashed}/>'


def path(points: Sequence[tuple[float, float]]) -> str:
    """Return a stretch of a line."""
    return "M" + "L".join(f"{at:.1f} {value:.1f}" for at, value in points)


def thinned(trace: Trace, x: Axis, y: Axis) -> list[list[tuple[float, float]]]:
    """Return the stretches of a trace in which there is something to draw, with what cannot be seen left out."""
    found: list[list[tuple[float, float]]] = []
    open_ = False
    for value, height in zip(trace.xs, trace.ys, strict=True):
        if height is None or not x.low <= value <= x.high:
            open_ = False
            continue
        at, level = across(x, value), down(y, height)
        if not open_:
            found.append([])
            open_ = True
        keep(found[-1], at, level)
    return found


def keep(points: list[tuple[float, float]], at: float, level: float) -> None:
    """Add a point; of those in one column the first, the lowest, the highest and the last are enough."""
    column = round(at)
    same = [place for place in range(max(0, len(points) - 4), len(points)) if round(points[place][0]) == column]
    if len(same) < 4:
        points.append((at, level))
        return
    first = points[same[0]]
    inner = sorted([*(points[place] for place in same[1:]), (at, level)], key=lambda one: one[1])
    points[same[0] :] = [first, inner[0], inner[-1], (at, level)]
