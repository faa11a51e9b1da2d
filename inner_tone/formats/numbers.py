"""The numbers of a picture as CSV: one row a point, so that any program can read and sort them."""

import csv
from base64 import b64decode
from collections.abc import Iterable, Iterator, Sequence
from io import StringIO

import numpy as np

from inner_tone.core.lens.chart import Axis, Chart, Panel

FORMULA = ("=", "+", "-", "@", "\t", "\r")
COLUMNS = ("picture", "panel", "series", "x", "x unit", "y", "y unit", "low", "name")


def csv_bytes(charts: Sequence[Chart]) -> bytes:
    """Return the numbers of a picture, one chart or a strip of several, as a CSV file in UTF-8.

    A band has its lower edge in `low`; of a sweep, x is the time, y the frequency and `low` the level in dB.
    """
    buffer = StringIO()
    writer = csv.writer(buffer, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    for chart in charts:
        for panel in chart.panels:
            writer.writerows(
                [plain(one) for one in (chart.title or chart.kind, panel.title, *row)] for row in rows(chart.x, panel)
            )
    return buffer.getvalue().encode()


def table_bytes(columns: Sequence[str], found: Iterable[Sequence[str | float]]) -> bytes:
    """Return rows under their columns as a CSV file in UTF-8, with the mark by which spreadsheets know that."""
    buffer = StringIO()
    writer = csv.writer(buffer, lineterminator="\r\n")
    writer.writerow(columns)
    writer.writerows([plain(one) for one in row] for row in found)
    return buffer.getvalue().encode("utf-8-sig")


def plain(cell: str | float) -> str | float:
    """Return a cell that no program takes for a formula: names are anybody's (OWASP, “CSV injection”)."""
    return f"'{cell}" if isinstance(cell, str) and cell.startswith(FORMULA) else cell


def rows(x: Axis, panel: Panel) -> Iterator[list[str | float]]:
    """Yield the points of a panel."""
    for trace in panel.traces:
        for n, (at, value) in enumerate(zip(trace.xs, trace.ys, strict=True)):
            if value is not None:
                yield [
                    trace.legend or trace.role,
                    at,
                    x.unit,
                    value,
                    panel.y.unit,
                    trace.lows[n] if trace.lows else "",
                    "",
                ]
    for mark in panel.marks:
        yield [f"{mark.kind}s", mark.x, x.unit, "" if mark.y is None else mark.y, panel.y.unit, "", mark.text]
    if panel.raster:
        yield from grid(x, panel)


def grid(x: Axis, panel: Panel) -> Iterator[list[str | float]]:
    """Yield the levels of a sweep that are above its floor."""
    raster = panel.raster
    assert raster is not None
    levels = np.frombuffer(b64decode(raster.levels), dtype=np.uint8).reshape(raster.rows, raster.columns)
    space = np.geomspace if panel.y.log else np.linspace
    edges = space(panel.y.low, panel.y.high, raster.rows + 1)
    frequencies = np.sqrt(edges[1:] * edges[:-1]) if panel.y.log else 0.5 * (edges[1:] + edges[:-1])
    times = x.low + (np.arange(raster.columns) + 0.5) * (x.high - x.low) / raster.columns
    decibels = raster.low_db + levels.astype(np.float64) / 255.0 * (raster.high_db - raster.low_db)
    for row, column in zip(*np.nonzero(levels), strict=True):
        yield [
            "levels",
            round(float(times[column]), 5),
            x.unit,
            round(float(frequencies[row]), 3),
            panel.y.unit,
            round(float(decibels[row, column]), 2),
            "",
        ]
