"""Loads the compiled engine, or compiles it on the first use, so that nobody waits for their first sound."""

from inner_tone.core.engine.render import render
from inner_tone.core.modules import OUTPUT
from inner_tone.core.modules.version import compiled_version
from inner_tone.core.patch.model import Module, Patch
from inner_tone.core.phrase import Phrase


def warm() -> None:
    """Load the loop with every kernel."""
    render(Patch(modules=(Module(id="out", type=OUTPUT),)), Phrase(beats=0.1))


if __name__ == "__main__":
    warm()
    print(compiled_version())
