"""How deep a new connection is: so that it is heard without going to extremes."""

from inner_tone.core.modules.declaration import Input, Law, ModuleType, Output
from inner_tone.core.patch.model import Module

UNITY = 1.0


def usual_depth(declared: ModuleType, output: Output, port: Input) -> float:
    """Return a depth, in the input's unit, for a connection from an output of a type of module to an input."""
    in_units = output.kind == "pitch" or "numbers" in declared.traits
    if port.goes_through or port.kind == "gate":
        return 1.0
    if port.kind == "pitch":
        return 1.0 if in_units else declared.on_pitch
    if port.law is Law.SEMITONES:
        return 1.0 if output.kind == "pitch" or declared.rows else 24.0  # the numbers of steps are semitones
    if port.law is Law.OCTAVES:
        return 1.0
    return port.usual or usual_on(port)


def depth_from(module: Module, output: Output, port: Input) -> float:
    """Return the depth for a connection from a module that is there: 1 from a range of its own in the input's unit."""
    declared = module.declaration
    spans = [one.ruler_with(module.all_settings) for one in declared.numbers if one.scaled]
    reach = max((abs(end) for span in spans for end in (span.low, span.high)), default=0.0)
    if reach > UNITY and not (port.goes_through or port.kind == "gate") and port.law is Law.LINEAR:
        return 1.0
    return usual_depth(declared, output, port)


def usual_on(port: Input) -> float:
    """Return half of an input's range, rounded to one place: what moves it far and leaves it on its ruler."""
    if port.ruler is None:
        return 1.0
    half = 0.5 * (port.ruler.high - port.ruler.low)
    return float(f"{half:.1g}")
