"""Looks through a lens. Every file in `kinds` declares one."""

from functools import reduce
from importlib import import_module
from operator import or_
from typing import TYPE_CHECKING, Annotated

from pydantic import Field

from inner_tone.core.errors import InnerToneError
from inner_tone.core.lens.chart import Chart
from inner_tone.core.lens.informed import course_ports
from inner_tone.core.lens.lens import Lens
from inner_tone.core.lens.source import Against, Source, gate_of
from inner_tone.core.lens.view import Looking
from inner_tone.core.lens_kinds import KINDS
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.port import Port

DECLARED: list[Lens] = [import_module(f"inner_tone.core.lens.kinds.{name}").LENS for name in KINDS]
LENSES: dict[str, Lens] = {lens.kind: lens for lens in sorted(DECLARED, key=lambda lens: lens.place)}

if TYPE_CHECKING:
    View = Looking
else:
    View = Annotated[reduce(or_, (lens.view for lens in LENSES.values())), Field(discriminator="kind")]


class ViewError(InnerToneError):
    """A lens is asked for what the patch does not have."""


def taps_of(view: View, graph: Graph) -> set[Port]:
    """Return the taps of a patch that a view needs; raises ViewError where it names a module that is not there."""
    refuse_missing(view.taps, graph)
    needed = LENSES[view.kind].needs(view, graph)
    if not needed:
        return set()
    refuse_missing(needed, graph)
    gates = (gate_of(graph, tap) for tap in (view.taps[0], *needed))
    courses = (port for tap in needed for port in course_ports(graph, tap))
    return {*needed, *(port for port in gates if port is not None), *courses}


def refuse_missing(taps: tuple[Port, ...], graph: Graph) -> None:
    """Raise ViewError where a tap's module is not there."""
    for tap in taps:
        if tap.module not in graph.modules:
            raise ViewError(f"The lens listens to {tap}, and the patch has no module “{tap.module}”.")


def look(view: View, source: Source, against: Against | None = None) -> Chart:
    """Return what a lens shows of a source, with what it is compared with behind it."""
    lens = LENSES[view.kind]
    return lens.chart(view, source, lens.behind(against))
