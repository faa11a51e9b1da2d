"""Looks through a lens."""

from inner_tone.core.errors import InnerToneError
from inner_tone.core.lens import level, response, spectrum, sweep, wave
from inner_tone.core.lens.chart import Chart
from inner_tone.core.lens.scene import Against, Scene
from inner_tone.core.lens.view import LevelView, ResponseView, SpectrumView, SweepView, View, WaveView
from inner_tone.core.patch.model import Patch, split_port
from inner_tone.core.patch.ports import of_type


class ViewError(InnerToneError):
    """A lens is asked for what the patch does not have."""


def taps_of(view: View, patch: Patch) -> set[str]:
    """Return the taps of a patch that a view needs; raises ViewError where it names a module that is not there."""
    if isinstance(view, ResponseView):
        missing = [tap for tap in view.taps if split_port(tap)[0] not in patch.by_id]
    else:
        held_by = view.held_by if isinstance(view, WaveView) else None
        missing = [tap for tap in (*view.taps, held_by) if tap and split_port(tap)[0] not in patch.by_id]
    if missing:
        raise ViewError(f"The lens listens to {missing[0]}, and the patch has no module “{split_port(missing[0])[0]}”.")
    if isinstance(view, ResponseView):
        return set()
    player = of_type(patch, "player")
    gate = {f"{player.id}.gate"} if isinstance(view, LevelView) and view.gate and player else set()
    held = {view.held_by} if isinstance(view, WaveView) and view.held_by else set()
    return {*view.taps, *gate, *held}


def look(view: View, scene: Scene, against: Against | None = None) -> Chart:
    """Return what a lens shows of a scene, with what it is compared with behind it."""
    if isinstance(view, WaveView):
        return wave.chart(view, scene, against)
    if isinstance(view, SpectrumView):
        return spectrum.chart(view, scene, against)
    if isinstance(view, SweepView):
        return sweep.chart(view, scene, against)
    if isinstance(view, LevelView):
        return level.chart(view, scene, against)
    return response.chart(view, scene, against)
