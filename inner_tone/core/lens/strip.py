"""A strip: one lens over three to seven values of one setting, so that what the setting does is seen at a glance."""

import math
from collections.abc import Sequence
from typing import Annotated

from pydantic import Field

from inner_tone.core.documents import Document
from inner_tone.core.errors import InnerToneError
from inner_tone.core.lens.chart import Chart
from inner_tone.core.modules.declaration import Choice, Ruler
from inner_tone.core.patch.model import Module, Name, Patch, Setting
from inner_tone.core.patch.validate import checked_patch
from inner_tone.core.units import with_unit

FEWEST, MOST = 3, 7
LOWEST_S = 0.005  # where a time could be 0, its steps begin here
OCTAVES = 5.0  # a setting in octaves or in Hz is led through no more than these around where it stands


class StripError(InnerToneError):
    """A strip over a setting that is not there or cannot be led through values."""


class Strip(Document):
    """Which setting of which module takes which values."""

    module: Name
    setting: str
    values: Annotated[tuple[Setting, ...], Field(min_length=FEWEST, max_length=MOST)]


def ruler_of(module: Module, setting: str) -> Ruler | Choice:
    """Return the scale of a setting; raises StripError where it is none that can be led through values."""
    declaration = module.declaration
    scale = declaration.rulers.get(setting) or declaration.choices.get(setting)
    if scale is None:
        raise StripError(f"{module.title} has no setting “{setting}” that could take several values.")
    return scale


def module_of(patch: Patch, name: str) -> Module:
    """Return a module of a patch; raises StripError."""
    if name not in patch.by_id:
        raise StripError(f"The strip leads through a setting of “{name}”, and the patch has no such module.")
    return patch.by_id[name]


def values_for(patch: Patch, name: str, setting: str, count: int = 5) -> list[Setting]:
    """Return values that show well what a setting does: even steps on its scale, log steps for frequencies and times.

    Raises StripError.
    """
    module = module_of(patch, name)
    scale = ruler_of(module, setting)
    if isinstance(scale, Choice):
        return list(scale.options[:MOST])
    if scale.travel == "linear":
        steps = [scale.low + (scale.high - scale.low) * n / (count - 1) for n in range(count)]
        return list(dict.fromkeys(rounded(step, scale) for step in steps))
    low, high = max(scale.low, LOWEST_S if scale.unit == "s" else 1e-9), scale.high
    present = module.number(setting)
    if low < present < high:
        low = max(low, present * 2.0 ** (-0.5 * OCTAVES))
        high = min(high, low * 2.0**OCTAVES)
    return [rounded(low * (high / low) ** (n / (count - 1)), scale) for n in range(count)]


def rounded(value: float, scale: Ruler) -> float:
    """Return a value with the few digits that people would give it, on the scale's steps where it is coarse."""
    if scale.step >= 1.0 and scale.travel == "linear":
        return min(scale.high, max(scale.low, scale.step * round(value / scale.step)))
    if value == 0.0:
        return 0.0
    digits = 1 - math.floor(math.log10(abs(value)))
    return min(scale.high, max(scale.low, round(value, digits)))


def patches_of(patch: Patch, strip: Strip) -> list[Patch]:
    """Return the patch with each of a strip's values; raises StripError, or DocumentError for an impossible value."""
    module = module_of(patch, strip.module)
    ruler_of(module, strip.setting)
    return [checked_patch(with_setting(patch, module, strip.setting, value)) for value in strip.values]


def with_setting(patch: Patch, module: Module, setting: str, value: Setting) -> Patch:
    changed = module.model_copy(update={"settings": {**module.settings, setting: value}})
    modules = tuple(changed if one.id == module.id else one for one in patch.modules)
    return patch.model_copy(update={"modules": modules})


def value_text(patch: Patch, strip: Strip, value: Setting) -> str:
    """Return a value as people read it."""
    scale = ruler_of(module_of(patch, strip.module), strip.setting)
    if isinstance(scale, Choice):
        assert isinstance(value, str | int | float)
        return scale.shown(value)
    assert isinstance(value, int | float)
    return with_unit(value, scale.unit)


def alike(charts: Sequence[Chart]) -> list[Chart]:
    """Return charts with the same axes, the widest of each, so that they can be compared."""
    if not charts or any(len(chart.panels) != len(charts[0].panels) for chart in charts):
        return list(charts)
    x = charts[0].x.model_copy(
        update={"low": min(chart.x.low for chart in charts), "high": max(chart.x.high for chart in charts)}
    )
    uprights = [
        panel.y.model_copy(
            update={
                "low": min(chart.panels[n].y.low for chart in charts),
                "high": max(chart.panels[n].y.high for chart in charts),
            }
        )
        for n, panel in enumerate(charts[0].panels)
    ]
    return [
        chart.model_copy(
            update={
                "x": x,
                "panels": [p.model_copy(update={"y": y}) for p, y in zip(chart.panels, uprights, strict=True)],
            }
        )
        for chart in charts
    ]
