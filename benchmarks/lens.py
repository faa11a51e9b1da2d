"""How long lenses take to look: measuring and drawing up of each, the sweep of a long sound, and a strip."""

from functools import partial

from benchmarks.timing import best_of
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.lens.chart import Chart
from inner_tone.core.lens.kinds.level import LevelView
from inner_tone.core.lens.kinds.response import ResponseView
from inner_tone.core.lens.kinds.spectrum import SpectrumView
from inner_tone.core.lens.kinds.sweep import SweepView
from inner_tone.core.lens.kinds.wave import WaveView
from inner_tone.core.lens.look import View, look
from inner_tone.core.lens.recipe import Recipe, charts, rendered
from inner_tone.core.lens.source import Played
from inner_tone.core.lens.strip import Strip, values_for
from inner_tone.core.patch.graph import Graph
from inner_tone.demo.foghorn import BLASTS, DISTANT
from tests.support.figures import record
from tests.support.patches import RATE
from tests.support.sounds import TAP, scene, series

VIEWS: tuple[View, ...] = (
    WaveView(taps=("amp.out",)),
    SpectrumView(taps=("amp.out",)),
    LevelView(taps=("amp.out",)),
    ResponseView(taps=("bell.out",)),
    SweepView(taps=("amp.out",)),
)
LONG_SECONDS = 30.0
TIMES = 7


def main() -> None:
    """Print and record the figures."""
    sounds = rendered(DISTANT, BLASTS, {"amp.out", "bell.out", "player.gate"})
    for view in VIEWS:
        seconds = best_of(TIMES, partial(looked, view, sounds))
        print(f"The lens {view.kind} on {len(sounds['amp.out'].signal) / RATE:.1f} s: {1000 * seconds:.0f} ms")
        asked = "50 ms" if view.kind != "sweep" else "—"
        record("Speed", f"the lens {view.kind}, measured and drawn up anew", asked, f"{1000 * seconds:.0f} ms")
    signal = series(110.0, 0.3, seconds=LONG_SECONDS, top=8000.0)
    seconds = best_of(3, lambda: look(SweepView(taps=(TAP,)), scene(signal)))
    print(f"The sweep of {LONG_SECONDS:.0f} s: {1000 * seconds:.0f} ms")
    record("Speed", "the sweep of 30 s", "300 ms", f"{1000 * seconds:.0f} ms")
    seconds = best_of(3, strip)
    print(f"A strip of seven, rendered and looked at: {1000 * seconds:.0f} ms")
    record("Speed", "a strip of seven spectra, rendered and looked at", "1 s", f"{1000 * seconds:.0f} ms")


def looked(view: View, sounds: dict[str, Sound]) -> Chart:
    """Look at sounds of which nothing is known yet."""
    return look(view, Played(Graph(DISTANT), {tap: Sound(one.signal, one.rate) for tap, one in sounds.items()}))


def strip() -> list[Chart]:
    """Render and look at a filter's cutoff at seven values."""
    values = tuple(values_for(DISTANT, "bell", "cutoff", 7))
    made = Strip(module="bell", setting="cutoff", values=values)
    return charts(Recipe(view=SpectrumView(taps=("amp.out",)), patch=DISTANT, phrase=BLASTS, strip=made))
