"""What a patch knows of its own sound: which single source reaches a tap, and how often a second its cycle comes back.

A render is no stranger's recording: where one source alone is heard, through nothing that keeps what was, the course of
its pitch is what steers it, and need not be guessed from the sound.
"""

from collections.abc import Mapping

import numpy as np

from inner_tone.core.analysis.running import has_cycle, movers, running
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.arrays import Floats
from inner_tone.core.engine.wiring import voiced_modules
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Module
from inner_tone.core.patch.port import Port


def sole_source(graph: Graph, tap: Port) -> Module | None:
    """Return the one module whose cycle is heard at a tap, if nothing else sounds there.

    There is none where a cycle is begun anew by something, where what keeps a sound lets two pitches sound at once, and
    where voices are summed.
    """
    if tap.module not in graph.modules or not graph.has(tap):
        return None
    if graph.patch.voices > 1 and tap.module not in voiced_modules(graph):
        return None
    waiting, seen, found = [tap.module], {tap.module}, []
    while waiting:
        name = waiting.pop()
        module = graph.modules[name]
        traits = module.declaration.traits
        if "source" in traits:
            found.append(module)
            continue
        if "own-time" in traits:
            return None
        for line in graph.sound_into(name):
            if line.source.module not in seen:
                seen.add(line.source.module)
                waiting.append(line.source.module)
    if len(found) != 1 or not has_cycle(found[0]):
        return None
    begun = [Port.of(found[0].id, one.name) for one in found[0].declaration.inputs if one.anew]
    return None if any(graph.coming(port) for port in begun) else found[0]


def course_ports(graph: Graph, tap: Port) -> set[Port]:
    """Return the ports whose signals tell how the cycle that is heard at a tap runs; none where that is not known."""
    source = sole_source(graph, tap)
    if source is None:
        return set()
    return {port for name in movers(source) if graph.coming(port := Port.of(source.id, name))}


def course_of(graph: Graph, sounds: Mapping[str, Sound], tap: str) -> Floats | None:
    """Return how often a second the cycle that is heard at a tap comes back, sample by sample, if that is known."""
    source, heard = sole_source(graph, Port(tap)), sounds.get(tap)
    if source is None or heard is None:
        return None
    ports = course_ports(graph, Port(tap))
    if any(port not in sounds for port in ports):
        return None
    signals = {port.name: sounds[port].signal for port in ports}
    found = running(source, signals, heard.rate, len(heard.signal)).frequencies_hz
    return found if len(found) and bool(np.all(found > 0.0)) else None
