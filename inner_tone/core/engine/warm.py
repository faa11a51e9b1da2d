"""Loads the compiled engine, or compiles it on the first use, so that nobody waits for their first sound."""

from inner_tone.core.engine.engine import Engine
from inner_tone.core.engine.events import Change
from inner_tone.core.engine.render import RATE, render
from inner_tone.core.patch.model import Module, Patch
from inner_tone.core.phrase import Phrase


def warm() -> None:
    """Load the loop with every kernel."""
    patch = Patch(modules=(Module(id="out", type="output"),))
    render(patch, Phrase(beats=0.1))
    engine = Engine(patch, RATE, 1000)
    engine.apply(Change("out", "level", -1.0))
    engine.advance(1000)


if __name__ == "__main__":
    warm()
