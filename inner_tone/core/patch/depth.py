"""How deep a new connection is: so that it is heard without going to extremes."""

from inner_tone.core.modules.declaration import Input, Law, ModuleType, Output


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


def usual_on(port: Input) -> float:
    """Return half of an input's range, rounded to one place: what moves it far and leaves it on its ruler."""
    if port.ruler is None:
        return 1.0
    half = 0.5 * (port.ruler.high - port.ruler.low)
    return float(f"{half:.1g}")
