"""The rules of the job and all computation: no HTTP, no SQL, no files. What others need most is exported here.

A name is looked up when it is first used, so that nobody waits for what they do not need.
"""

from importlib import import_module
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from inner_tone.core.checkup import examined
    from inner_tone.core.engine.playing import Playing
    from inner_tone.core.engine.recorder import Recorder
    from inner_tone.core.engine.render import Render, render
    from inner_tone.core.lens.look import look
    from inner_tone.core.nearness import recording_compared, render_compared
    from inner_tone.core.patch.difference import difference
    from inner_tone.core.patch.edit import edited
    from inner_tone.core.patch.graph import Graph
    from inner_tone.core.patch.match import match
    from inner_tone.core.patch.model import Patch
    from inner_tone.core.patch.port import Port
    from inner_tone.core.patch.validate import read_patch
    from inner_tone.core.phrase import Phrase, read_phrase

PLACES = {
    "Graph": "patch.graph",
    "Patch": "patch.model",
    "Phrase": "phrase",
    "Playing": "engine.playing",
    "Port": "patch.port",
    "Recorder": "engine.recorder",
    "Render": "engine.render",
    "difference": "patch.difference",
    "edited": "patch.edit",
    "examined": "checkup",
    "look": "lens.look",
    "match": "patch.match",
    "read_patch": "patch.validate",
    "read_phrase": "phrase",
    "recording_compared": "nearness",
    "render": "engine.render",
    "render_compared": "nearness",
}

__all__ = [
    "Graph",
    "Patch",
    "Phrase",
    "Playing",
    "Port",
    "Recorder",
    "Render",
    "difference",
    "edited",
    "examined",
    "look",
    "match",
    "read_patch",
    "read_phrase",
    "recording_compared",
    "render",
    "render_compared",
]


def __getattr__(name: str) -> Any:
    """Return something that is exported; raises AttributeError."""
    if name not in PLACES:
        raise AttributeError(f"inner_tone.core has no “{name}”.")
    return getattr(import_module(f"{__name__}.{PLACES[name]}"), name)
