"""Pictures on paper: charts as SVG or PNG in a print style, with axes, units and a caption.

matplotlib draws them, the same bytes for the same charts. Text becomes outlines, so that a picture looks the same
wherever it is opened.
"""

import textwrap
import threading
from base64 import b64decode
from collections.abc import Sequence
from io import BytesIO
from typing import Any

import matplotlib
import numpy as np
from matplotlib.axes import Axes
from matplotlib.colors import LinearSegmentedColormap
from matplotlib.figure import Figure
from matplotlib.ticker import FuncFormatter, MultipleLocator, NullFormatter

from inner_tone.core.lens.chart import Axis, Chart, Mark, Panel, Raster, Trace
from inner_tone.core.lens.style import (
    COLOURS,
    DASHES,
    FILLS,
    LAST_NUMBER,
    LATER,
    SHADE,
    STAGE_LINES,
    THEORY_DASH,
    TONES,
    WASH,
    WIDTHS,
)
from inner_tone.core.units import MINUS, note_name, trimmed

WIDTH_IN, HEIGHT_IN = 7.0, 3.6
STRIP_WIDTH_IN, STRIP_HEIGHT_IN = 2.4, 2.7
CAPTION_IN = 0.2
CHARACTERS_PER_IN = 13.5
PNG_DPI = 200
PAPER = "#ffffff"
INK, SOFT, RULE = (COLOURS[name] for name in ("ink", "soft", "rule"))
POINTS = 0.7  # of a pixel of the screen: as large as its neighbours are on paper
STAGE_LINE = 10
LATE = 0.85  # of the width: what is named beyond is named on the left
NOTE_LINE = 0.055  # of the height of a field
CMAP = LinearSegmentedColormap.from_list("ink", [(level / 255, colour) for level, colour in TONES])
STYLE: Any = {
    "font.family": "DejaVu Sans",
    "font.size": 8.5,
    "axes.edgecolor": SOFT,
    "axes.labelcolor": INK,
    "axes.linewidth": 0.6,
    "xtick.color": SOFT,
    "ytick.color": SOFT,
    "grid.color": RULE,
    "grid.linewidth": 0.6,
    "svg.fonttype": "path",
    "svg.hashsalt": "inner-tone",
    "path.simplify": False,
    "text.parse_math": False,  # a dollar in a caption is a dollar
    "lines.scale_dashes": False,
}

# matplotlib's settings are those of the whole process
_drawing = threading.Lock()


def svg(charts: Sequence[Chart], caption: str = "", *, outlined: bool = True) -> bytes:
    """Return a picture, one chart or a strip of several, as an SVG file.

    Where its typeface is sure to be there, text need not be `outlined`: it can be read aloud and searched then. Such a
    picture is for a page that is set: of its lines only what can be seen is drawn.
    """
    about = {"Date": None, "Creator": "Inner Tone", "Title": title_of(charts), "Description": caption}
    style = STYLE if outlined else STYLE | {"svg.fonttype": "none", "path.simplify": True}
    with _drawing, matplotlib.rc_context(style):
        buffer = BytesIO()
        figure(charts, caption).savefig(buffer, format="svg", metadata=about)
    return buffer.getvalue()


def png(charts: Sequence[Chart], caption: str = "") -> bytes:
    """Return a picture, one chart or a strip of several, as a PNG file."""
    with _drawing, matplotlib.rc_context(STYLE):
        buffer = BytesIO()
        about = {"Software": "Inner Tone", "Title": title_of(charts)}
        figure(charts, caption).savefig(buffer, format="png", dpi=PNG_DPI, metadata=about)
    return buffer.getvalue()


def title_of(charts: Sequence[Chart]) -> str:
    """Return what a picture is called."""
    return f"{charts[0].kind.capitalize()} of {', '.join(charts[0].taps)}"


def figure(charts: Sequence[Chart], caption: str) -> Figure:
    """Return a figure with the charts beside one another and the caption beneath."""
    alone = len(charts) == 1
    width = WIDTH_IN if alone else STRIP_WIDTH_IN * len(charts)
    lines = textwrap.wrap(caption, round(width * CHARACTERS_PER_IN))
    foot = 0.1 + CAPTION_IN * len(lines) if lines else 0.0
    height = (HEIGHT_IN if alone else STRIP_HEIGHT_IN) + foot
    drawn = Figure(figsize=(width, height), facecolor=PAPER)
    rows = max(len(chart.panels) for chart in charts)
    shares = [panel.share for panel in charts[0].panels] or [1.0]
    grid = drawn.add_gridspec(
        max(rows, 1),
        len(charts),
        height_ratios=shares,
        left=0.62 / width,
        right=1.0 - 0.14 / width,
        top=1.0 - 0.3 / height,
        bottom=(0.5 + foot) / height,
        wspace=0.12,
        hspace=0.12,
    )
    for column, chart in enumerate(charts):
        for row, panel in enumerate(chart.panels):
            axes = drawn.add_subplot(grid[row, column])
            draw(axes, chart, panel, last=row == len(chart.panels) - 1, first=column == 0, alone=alone)
            if row == 0 and chart.title:
                axes.set_title(chart.title, fontsize=9, color=INK, pad=4)
    drawn.text(0.12 / width, 0.1 / height, "\n".join(lines), fontsize=8.5, color=INK, style="italic", linespacing=1.3)
    return drawn


def draw(axes: Axes, chart: Chart, panel: Panel, *, last: bool, first: bool, alone: bool) -> None:
    scale(axes, chart.x, panel.y, last=last, first=first, alone=alone)
    if panel.raster:
        paint(axes, chart.x, panel.y, panel.raster)
    for trace in panel.traces:
        line(axes, trace, in_db=panel.y.unit == "dB", alone=alone)
    shade(axes, panel)
    for place, mark in enumerate(panel.marks):
        if mark.kind == "stage":
            axes.axvline(mark.x, color=SOFT, linewidth=0.6, linestyle=(0, (2, 2)))
            at = (mark.x, 1.0), ("data", "axes fraction")
            below = -2 - STAGE_LINE * (place % STAGE_LINES)
            late = axes.transAxes.inverted().transform(axes.transData.transform((mark.x, 0.0)))[0] > LATE
            beside, side = (-2, "right") if late else (2, "left")
            ground = {"facecolor": PAPER, "edgecolor": "none", "alpha": 0.8, "pad": 0.6}
            axes.annotate(
                mark.text,
                at[0],
                (beside, below),
                at[1],
                "offset points",
                fontsize=7.5,
                color=INK,
                va="top",
                ha=side,
                bbox=ground,
            )
        elif alone and mark.of:
            number_of_note(axes, panel, mark)
        elif alone:
            number(axes, panel, mark.x, mark.y, mark.text)
    if panel.title and panel.share == 1.0:
        axes.text(0.01, 0.97, panel.title, transform=axes.transAxes, fontsize=8, va="top", color=INK)
    told = {trace.legend for trace in panel.traces if trace.legend}
    if alone and len(told) > 1:
        axes.legend(loc="lower right", bbox_to_anchor=(1.0, 1.0), ncols=4, frameon=False, fontsize=7.5, borderpad=0.1)


def number_of_note(axes: Axes, panel: Panel, mark: Mark) -> None:
    """Write the number of a note's partial in the row of that note, above all."""
    notes = list(dict.fromkeys(one.of for one in panel.marks))
    height = 0.96 - NOTE_LINE * notes.index(mark.of)
    axes.text(0.01, height, mark.of, transform=axes.transAxes, fontsize=7.5, weight="bold", va="top", color=INK)
    if int(mark.text) <= LAST_NUMBER:
        place = axes.get_xaxis_transform()
        axes.text(mark.x, height, mark.text, transform=place, fontsize=7.5, ha="center", va="top", color=INK)


def number(axes: Axes, panel: Panel, x: float, y: float | None, text: str) -> None:
    """Write a partial's number above it, if it is seen and there is room."""
    if y is None or y < panel.y.low + 2.0 or (text.isdigit() and int(text) > LAST_NUMBER):
        return
    axes.annotate(text, (x, y), xytext=(0, 2), textcoords="offset points", ha="center", fontsize=7.5, color=INK)


def scale(axes: Axes, x: Axis, y: Axis, *, last: bool, first: bool, alone: bool) -> None:
    """Give a panel its axes, with units."""
    if x.log:
        axes.set_xscale("log")
    if y.log:
        axes.set_yscale("log")
    axes.set_xlim(x.low, x.high)
    axes.set_ylim(y.low, y.high)
    axes.grid(True)
    axes.set_axisbelow(True)
    for side in ("top", "right"):
        axes.spines[side].set_visible(False)
    milliseconds = x.unit == "s" and x.high - x.low < 0.5
    axes.xaxis.set_major_formatter(
        FuncFormatter(lambda value, _: tick(value * 1000.0 if milliseconds else value, x.unit))
    )
    axes.yaxis.set_major_formatter(FuncFormatter(lambda value, _: tick(value, y.unit)))
    axes.xaxis.set_minor_formatter(NullFormatter())
    axes.yaxis.set_minor_formatter(NullFormatter())
    if y.unit == "dB":
        axes.yaxis.set_major_locator(MultipleLocator(12.0 if y.high - y.low < 50 else 20.0))
    if y.unit == "note":
        axes.yaxis.set_major_locator(MultipleLocator(max(1.0, np.ceil((y.high - y.low) / 8.0))))
    if last:
        axes.set_xlabel(f"{x.label} in ms" if milliseconds else label(x))
    else:
        axes.tick_params(labelbottom=False)
    if first:
        axes.set_ylabel(label(y))
    else:
        axes.tick_params(labelleft=False)
    if not alone:
        axes.tick_params(labelsize=7)


def label(axis: Axis) -> str:
    """Return what stands beside an axis."""
    return axis.label if axis.unit in ("", "note") else f"{axis.label} in {axis.unit}"


def tick(value: float, unit: str) -> str:
    """Return a number beside an axis."""
    if unit == "note":
        return note_name(value)
    if unit == "Hz" and abs(value) >= 1000:
        return f"{trimmed(value / 1000.0)}k"
    return trimmed(value, 3).replace("-", MINUS)


def line(axes: Axes, trace: Trace, *, in_db: bool, alone: bool) -> None:
    """Draw a trace: in the hue of its role, several of one role by different dashes; levels with a wash beneath."""
    colour = COLOURS[trace.role]
    ys = np.array([np.nan if value is None else value for value in trace.ys], dtype=np.float64)
    dash = THEORY_DASH if trace.role == "theory" else DASHES[trace.order % len(DASHES)]
    lengths: Any = (0, tuple(POINTS * one for one in dash)) if dash else "-"
    width = POINTS * WIDTHS[trace.role] * (LATER if trace.order > 0 or not alone else 1.0)
    axes.plot(trace.xs, ys, color=colour, linewidth=width, linestyle=lengths, label=trace.legend)
    if trace.lows is not None:
        axes.plot(trace.xs, trace.lows, color=colour, linewidth=width)
        axes.fill_between(trace.xs, trace.lows, ys, color=colour, alpha=FILLS[trace.role], linewidth=0)
    elif in_db and trace.role == "this" and trace.order == 0:
        axes.fill_between(trace.xs, ys, axes.get_ylim()[0], color=colour, alpha=WASH, linewidth=0)


def shade(axes: Axes, panel: Panel) -> None:
    """Shade what lies between this and what it is compared with."""
    pair = [next((one for one in panel.traces if one.role == role), None) for role in ("this", "compared")]
    here, there = pair
    if not panel.shaded or here is None or there is None or len(here.xs) != len(there.xs):
        return
    ys, others = (np.array(one.ys, dtype=np.float64) for one in (here, there))
    axes.fill_between(here.xs, ys, others, color=COLOURS["compared"], alpha=SHADE, linewidth=0)


def paint(axes: Axes, x: Axis, y: Axis, raster: Raster) -> None:
    """Paint levels over time and frequency."""
    levels = np.frombuffer(b64decode(raster.levels), dtype=np.uint8).reshape(raster.rows, raster.columns)
    space = np.geomspace if y.log else np.linspace
    edges_x = np.linspace(x.low, x.high, raster.columns + 1)
    edges_y = space(y.low, y.high, raster.rows + 1)
    axes.pcolormesh(edges_x, edges_y, levels, cmap=CMAP, vmin=0, vmax=255, rasterized=True, shading="flat")
    axes.grid(False)
