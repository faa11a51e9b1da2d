"""How charts are drawn, on the screen as on paper: the one description that both follow.

Lengths are in pixels of the screen; on paper all of them are smaller by the same factor.
"""

from typing import Any

from inner_tone.core.lens.chart import Role

COLOURS = {
    "this": "#1d4f91",
    "compared": "#b87316",
    "theory": "#1c2830",
    "rule": "#ddd6c8",
    "soft": "#4f5b64",
    "ink": "#1c2830",
}
WIDTHS: dict[Role, float] = {"this": 2.0, "compared": 1.5, "theory": 1.4}
FILLS: dict[Role, float] = {"this": 0.6, "compared": 0.33, "theory": 0.2}  # how much of the colour an outline has
LATER = 0.8  # how wide the second line of a role is, and all behind it, against the first
DASHES: tuple[tuple[float, ...], ...] = ((), (9, 3), (3, 3), (12, 3, 3, 3))  # several lines of one hue differ by them
THEORY_DASH = (1.5, 3.0)
SHADE = 0.19  # of the compared colour, between this and what it is compared with
WASH = 0.12  # of this colour, beneath a line of levels
LAST_NUMBER = 10  # the last partial that has its number
STAGE_LINES = 3  # names of stages stand on so many lines, so that they stay apart
TONES = ((0, "#fffdf8"), (60, "#c9d5e6"), (130, "#6d92c4"), (200, "#1d4f91"), (255, "#0c1f3c"))  # of a raster's levels


def style() -> dict[str, Any]:
    """Return all of it as JSON data."""
    return {
        "colours": COLOURS,
        "widths": WIDTHS,
        "fills": FILLS,
        "later": LATER,
        "dashes": DASHES,
        "theory_dash": THEORY_DASH,
        "shade": SHADE,
        "wash": WASH,
        "last_number": LAST_NUMBER,
        "stage_lines": STAGE_LINES,
        "tones": TONES,
    }
