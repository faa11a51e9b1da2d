"""Voices of the usual kind by chance, and the same with one setting heard to be another."""

import random
from dataclasses import dataclass
from typing import Any

from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Connection, Module, Patch
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.validate import checked_patch
from inner_tone.core.phrase import Note, Phrase

WAVES = ("sine", "triangle", "saw", "square")


@dataclass
class Build:
    """A patch that is being put together."""

    dice: random.Random
    modules: list[dict[str, Any]]
    lines: list[dict[str, Any]]

    def add(self, kind: str, **settings: Any) -> str:
        name = f"{kind}-{len(self.modules)}"
        self.modules.append({"id": name, "type": kind, "settings": settings})
        return name

    def line(self, source: str, target: str, depth: float = 1.0, scaled_by: str | None = None) -> None:
        self.lines.append({"from": source, "to": target, "depth": depth, "scaled_by": scaled_by})

    def number(self, low: float, high: float, digits: int = 2) -> float:
        return round(self.dice.uniform(low, high), digits)

    def envelope(self) -> str:
        times = {one: self.number(0.01, 1.2, 3) for one in ("attack", "decay", "release")}
        name = self.add("envelope", **times, sustain=self.number(0.1, 0.9))
        self.line("player.gate", f"{name}.gate")
        return name

    def tone(self) -> str:
        """Put in an oscillator that follows the player; sometimes another one moves it."""
        name = self.add(
            "oscillator",
            wave=self.dice.choice(WAVES),
            octave=self.dice.choice([-2, -1, 0, 1]),
            semitone=self.dice.choice([0, 0, 7, -5]),
            fine=self.dice.randint(-20, 20),
        )
        self.line("player.pitch", f"{name}.pitch")
        if self.dice.random() < 0.25:
            modulator = self.add("oscillator", wave="sine", ratio=self.dice.choice([1.5, 2.5, 3.5, 7.0]))
            self.line("player.pitch", f"{modulator}.pitch")
            self.line(f"{modulator}.out", f"{name}.phase", self.number(0.5, 4.0))
        return name

    def part(self) -> str:
        """Put in tones, what they go through, and what steers it; returns what comes out."""
        dice = self.dice
        tones = [self.tone() for _ in range(dice.randint(1, 3))]
        if dice.random() < 0.3:
            tones.append(self.add("noise", colour=dice.choice(["white", "pink"]), seed=dice.randint(1, 99)))
        cutoff = self.number(200, 4000, 0)
        kind = dice.choice(["filter", "filter", "ladder"])
        into = self.add(kind, cutoff=cutoff, resonance=self.number(0.0, 0.7))
        if len(tones) > 1 and dice.random() < 0.6:
            mixer = self.add("mixer", **{f"level{n}": self.number(0.2, 1.0) for n in range(1, len(tones) + 1)})
            for n, tone in enumerate(tones, 1):
                self.line(f"{tone}.out", f"{mixer}.in{n}")
            self.line(f"{mixer}.out", f"{into}.in")
        else:
            for tone in tones:
                self.line(f"{tone}.out", f"{into}.in", self.number(0.3, 1.0))
        if dice.random() < 0.7:
            self.line(f"{self.envelope()}.out", f"{into}.cutoff", float(dice.choice([12, 24, 36, -12])))
        if dice.random() < 0.4:
            lfo = self.add("lfo", rate=self.number(0.2, 8.0), wave=dice.choice(["sine", "triangle", "smooth"]))
            self.line(f"{lfo}.out", f"{into}.cutoff", float(dice.choice([3, 7])), dice.choice([None, "player.wheel"]))
        if dice.random() < 0.3:
            self.line("player.pitch", f"{into}.cutoff", 0.5)
        at = into
        if dice.random() < 0.3:
            shaper = self.add("shaper", drive=self.number(0.0, 20.0), mix=self.number(0.3, 1.0))
            self.line(f"{at}.out", f"{shaper}.in")
            at = shaper
        amplifier = self.add("amplifier")
        self.line(f"{at}.out", f"{amplifier}.in")
        self.line(f"{self.envelope()}.out", f"{amplifier}.level", 1.0, dice.choice([None, "player.velocity"]))
        return amplifier


def random_voice(dice: random.Random, size: int = 8) -> Patch:
    """Return a patch of the usual kind with about as many modules as wanted, or a few more."""
    build = Build(dice, [{"id": "player", "type": "player"}], [])
    parts = [build.part()]
    while len(build.modules) < size - 4:
        parts.append(build.part())
    at = [f"{part}.out" for part in parts]
    if dice.random() < 0.5:
        effect = build.add(dice.choice(["delay", "reverb"]), mix=build.number(0.1, 0.6))
        for one in at:
            build.line(one, f"{effect}.in")
        sides = [[f"{effect}.left"], [f"{effect}.right"]]
    else:
        sides = [at, at]
    build.modules.append({"id": "out", "type": "output", "settings": {"level": -9}})
    for name, ends in zip(("left", "right"), sides, strict=True):
        for one in ends:
            build.line(one, f"out.{name}")
    return checked_patch(Patch.model_validate({"modules": build.modules, "connections": build.lines}))


@dataclass(frozen=True)
class Changed:
    """A patch with one real change: its kind, and the module, and the setting, if it is one, that differ."""

    patch: Patch
    kind: str
    module: str
    setting: str = ""


def with_settings(patch: Patch, name: str, **values: Any) -> Patch:
    modules = [
        one.model_copy(update={"settings": {**one.settings, **values}}) if one.id == name else one
        for one in patch.modules
    ]
    return with_parts(patch, modules, list(patch.connections))


def with_parts(patch: Patch, modules: list[Module], lines: list[Connection]) -> Patch:
    return patch.model_copy(update={"modules": tuple(modules), "connections": tuple(lines)})


PHRASE = Phrase(
    tempo=120,
    beats=7,
    notes=(
        Note(start=0, length=1.5, pitch=45),
        Note(start=2, length=1, pitch=52),
        Note(start=3.5, length=0.5, pitch=57),
        Note(start=4.5, length=2, pitch=40),
    ),
)


def heard_voice(dice: random.Random) -> Patch:
    """Return a voice of the usual kind in which a filter is heard to work: its cutoff lies among the partials."""
    build = Build(dice, [{"id": "player", "type": "player"}], [])
    tones = []
    for n in range(dice.randint(1, 3)):
        settings = {"wave": dice.choice(("saw", "square") if n == 0 else WAVES), "octave": dice.choice([0, 0, -1, 1])}
        tones.append(build.add("oscillator", **settings, fine=dice.choice([0, 0, 4, -6, 9])))
        build.line("player.pitch", f"{tones[-1]}.pitch")
    if dice.random() < 0.2:
        tones.append(build.add("noise", colour=dice.choice(["white", "pink"])))
    resonance = build.number(0.0, 0.6)
    kind = dice.choice(["filter", "filter", "filter", "ladder"])
    into = build.add(kind, cutoff=round(110 * 2.0 ** dice.uniform(1.0, 3.5)), resonance=resonance)
    for tone in tones:
        build.line(f"{tone}.out", f"{into}.in", build.number(0.3, 1.0))
    if dice.random() < 0.6:
        build.line(f"{build.envelope()}.out", f"{into}.cutoff", float(dice.choice([12, 24, 30])))
    if dice.random() < 0.3:
        lfo = build.add("lfo", rate=build.number(0.5, 7.0))
        build.line(f"{lfo}.out", f"{into}.cutoff", float(dice.choice([3, 7])))
    amplifier = build.add("amplifier")
    build.line(f"{into}.out", f"{amplifier}.in")
    amp = build.add(
        "envelope",
        attack=build.number(0.02, 0.3, 3),
        decay=build.number(0.1, 0.8),
        sustain=build.number(0.3, 0.9),
        release=build.number(0.05, 0.6),
    )
    build.line("player.gate", f"{amp}.gate")
    build.line(f"{amp}.out", f"{amplifier}.level")
    at = f"{amplifier}.out"
    ends = [at, at]
    if dice.random() < 0.3:
        effect = build.add(dice.choice(["delay", "reverb"]), mix=build.number(0.1, 0.4))
        build.line(at, f"{effect}.in")
        ends = [f"{effect}.left", f"{effect}.right"]
    build.modules.append({"id": "out", "type": "output", "settings": {"level": -12}})
    for name, end in zip(("left", "right"), ends, strict=True):
        build.line(end, f"out.{name}")
    return checked_patch(Patch.model_validate({"modules": build.modules, "connections": build.lines}))


AUDIBLE = ("cutoff", "resonance", "attack", "fine", "wave")


def heard_change(patch: Patch, dice: random.Random, setting: str, times: float = 1.0) -> Changed:
    """Return a patch with one setting changed so that it is just heard, or that many times as far.

    A cutoff by two semitones, a resonance by 0.15, an attack to twice its time, a tuning by 15 cents, another wave.
    """
    graph = Graph(patch)
    if setting in ("cutoff", "resonance"):
        module = next(one for one in patch.modules if one.type in ("filter", "ladder"))
        value = module.number(setting)
        up = dice.random() < 0.5
        if setting == "cutoff":
            new = value * 2.0 ** ((2.0 if up else -2.0) * times / 12.0)
        else:
            new = value + 0.15 * times if up or value < 0.15 * times else value - 0.15 * times
        return Changed(with_settings(patch, module.id, **{setting: round(new, 3)}), "set", module.id, setting)
    if setting == "attack":
        amplifier = next(one for one in patch.modules if one.type == "amplifier")
        source = graph.coming(Port.of(amplifier.id, "level"))[0].source.module
        value = patch.by_id[source].number("attack")
        return Changed(with_settings(patch, source, attack=value * 2.0**times), "set", source, setting)
    tones = [one for one in patch.modules if one.type == "oscillator"]
    module = tones[0] if setting == "wave" else dice.choice(tones)
    other: Any
    if setting == "wave":
        other = dice.choice([one for one in WAVES if one != module.all_settings["wave"]])
    else:
        other = module.number(setting) + dice.choice([-15, 15]) * times
    return Changed(with_settings(patch, module.id, **{setting: other}), "set", module.id, setting)


def plain_change(patch: Patch, dice: random.Random, setting: str) -> Changed:
    """Return a patch with one setting changed so that it is plainly heard, whatever the instrument.

    A cutoff by an octave and a half, a resonance to 0.9, an attack to eight times its time, a tone by one or two
    semitones, another wave.
    """
    if setting == "attack":
        return heard_change(patch, dice, setting, 3.0)
    found = heard_change(patch, dice, setting, 9.0)
    if setting == "cutoff":
        cutoff = min(19_000.0, max(25.0, found.patch.by_id[found.module].number("cutoff")))
        return Changed(with_settings(patch, found.module, cutoff=cutoff), "set", found.module, setting)
    if setting == "resonance":
        return Changed(with_settings(patch, found.module, resonance=0.9), "set", found.module, setting)
    if setting == "fine":
        moved = {"semitone": dice.choice([-2, -1, 1, 2])}
        return Changed(with_settings(patch, found.module, **moved), "set", found.module, setting)
    return found
