"""The patches that the benchmarks play."""

from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.validate import read_patch

Line = tuple[str, str] | tuple[str, str, float]


def patch(modules: dict[str, tuple[str, dict[str, float | str]]], lines: list[Line], voices: int = 1) -> Patch:
    """Return a patch with a player and an output besides some modules, given as type and settings."""
    everything = {"player": ("player", {}), **modules, "out": ("output", {})}
    return read_patch(
        {
            "voices": voices,
            "modules": [{"id": id, "type": type, "settings": settings} for id, (type, settings) in everything.items()],
            "connections": [
                {"from": line[0], "to": line[1], "depth": line[2] if len(line) > 2 else 1} for line in lines
            ],
        }
    )


def voice(voices: int = 1) -> Patch:
    """Return two oscillators through a filter and an amplifier, each with an envelope of its own."""
    return patch(
        {
            "saw": ("oscillator", {"wave": "saw"}),
            "square": ("oscillator", {"wave": "square", "octave": -1}),
            "filter": ("filter", {"slope": 24, "cutoff": 400, "resonance": 0.3}),
            "bright": ("envelope", {"attack": 0.02, "decay": 0.6, "sustain": 0.3, "release": 0.5}),
            "loud": ("envelope", {"attack": 0.01, "decay": 0.3, "sustain": 0.7, "release": 0.6}),
            "amp": ("amplifier", {}),
        },
        [
            ("player.pitch", "saw.pitch"),
            ("player.pitch", "square.pitch"),
            ("player.gate", "bright.gate"),
            ("player.gate", "loud.gate"),
            ("saw.out", "filter.in", 0.5),
            ("square.out", "filter.in", 0.5),
            ("bright.out", "filter.cutoff", 48),
            ("filter.out", "amp.in"),
            ("loud.out", "amp.level"),
            ("amp.out", "out.left"),
            ("amp.out", "out.right"),
        ],
        voices,
    )


def loop(*, closed: bool) -> Patch:
    """Return four modules in a row whose last one steers the first, or does not."""
    lines: list[Line] = [
        ("player.pitch", "carrier.pitch"),
        ("player.pitch", "modulator.pitch"),
        ("modulator.out", "carrier.phase", 2.0),
        ("carrier.out", "filter.in"),
        ("filter.out", "amp.in"),
        ("amp.out", "out.left"),
        ("amp.out", "out.right"),
    ]
    back: list[Line] = [("amp.out", "modulator.phase", 1.5)]
    return patch(
        {
            "modulator": ("oscillator", {"wave": "sine"}),
            "carrier": ("oscillator", {"wave": "sine"}),
            "filter": ("filter", {"cutoff": 2000}),
            "amp": ("amplifier", {"level": 0.5}),
        },
        lines + back if closed else lines,
    )


def row(count: int) -> Patch:
    """Return an oscillator that goes through `count` filters one after another."""
    names = [f"f{number}" for number in range(count)]
    path = ["source", *names]
    return patch(
        {"source": ("oscillator", {}), **{name: ("filter", {"cutoff": 8000}) for name in names}},
        [
            ("player.pitch", "source.pitch"),
            *((f"{before}.out", f"{after}.in") for before, after in zip(path, names, strict=False)),
            (f"{path[-1]}.out", "out.left"),
        ],
    )
