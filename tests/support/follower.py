"""Somebody who follows instructions by their words alone: who knows what the map shows, and nothing of edits."""

import re
from collections.abc import Callable, Iterator
from string import Formatter

from inner_tone.core.english import TEMPLATES
from inner_tone.core.modules import CATALOGUE, MODULE_TYPES
from inner_tone.core.modules.declaration import Input, Value, spoken
from inner_tone.core.patch.edit import fresh_id, made
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.instructions import Instruction
from inner_tone.core.patch.model import Connection, Module, Patch
from inner_tone.core.patch.moves import (
    AddModule,
    ChangeLine,
    ChangeSection,
    Connect,
    Disconnect,
    DuplicateModules,
    Edit,
    Ends,
    GroupModules,
    InsertModule,
    MoveEnd,
    RemoveModules,
    RenameModule,
    ReplaceModule,
    SetValue,
    SetVoices,
    TakeApart,
)
from inner_tone.core.patch.port import Port

AMOUNT = r"(?:× −?[\d.,]*\d|[+−][\d.,]*\d(?: (?:semitones?|octaves?|cents?|beats?|Hz|ms|s|dB|rad|%))?)"
NUMBER = re.compile(r"^([+−]?[\d,.]+)(?: (.*))?$")
SIZES = {"ms": 0.001, "s": 1.0, "semitones": 1.0, "semitone": 1.0, "octaves": 1.0, "octave": 1.0}
NOUNS = {declared.noun: declared.name for declared in MODULE_TYPES}
TITLES = {declared.title.lower(): declared.name for declared in MODULE_TYPES}


class UnclearError(Exception):
    """An instruction that cannot be followed by its words."""


class Follower:
    """A patch on its way, changed by what is read."""

    def __init__(self, patch: Patch, voice: str) -> None:
        self.patch, self.voice = patch, voice

    def follow(self, said: Instruction) -> None:
        """Do what an instruction says, read in the voice of this follower."""
        message = said.said if self.voice == "plain" else said.said_briefly
        read = matched(TEMPLATES[message.key], str(message), self.names())
        key = message.key.removeprefix("do.").removesuffix(".brief")
        getattr(self, f"do_{re.sub(r'[.-]', '_', key)}")(read)

    def names(self) -> list[str]:
        """Return what is called somehow, the longest names first."""
        named = [module.title for module in self.patch.modules] + [one.label for one in self.patch.sections]
        return sorted(named, key=len, reverse=True)

    def change(self, *edits: Edit) -> None:
        self.patch = made(self.patch, edits).patch

    def module(self, title: str) -> Module:
        found = [one for one in self.patch.modules if one.title == title]
        if len(found) != 1:
            raise UnclearError(f"{len(found)} modules are called {title}")
        return found[0]

    def output(self, words: str) -> Port:
        """Return the output that words name: of a module its main one, or “the strike of Keeper”."""
        for module in sorted(self.patch.modules, key=lambda one: -len(one.title)):
            if words == module.title:
                return Graph(self.patch).main(module.id)
            if words.startswith("the ") and words.endswith(f" of {module.title}"):
                name = words[4 : -len(f" of {module.title}")]
                found = [one.name for one in module.declaration.outputs if spoken(one.name) == name]
                if len(found) == 1:
                    return Port.of(module.id, found[0])
        raise UnclearError(f"no output is called “{words}”")

    def inputs(self, words: str) -> list[Port]:
        """Return the inputs that words name: “the cutoff of Bell”, “Harbour, left and right”, or the way into one."""
        for module in sorted(self.patch.modules, key=lambda one: -len(one.title)):
            if words == f"{module.title}, left and right":
                return [Port.of(module.id, side) for side in ("left", "right")]
            if words in (module.title, f"the way into {module.title}"):
                return [Port.of(module.id, "in")]
            if words.startswith("the ") and words.endswith(f" of {module.title}"):
                name = words[4 : -len(f" of {module.title}")]
                found = [one.name for one in module.declaration.inputs if one.words == name]
                if len(found) == 1:
                    return [Port.of(module.id, found[0])]
        raise UnclearError(f"no input is called “{words}”")

    def declared(self, port: Port) -> Input:
        return Graph(self.patch).input(port)

    def scale(self, words: str) -> Port | None:
        return self.output(words.removeprefix(", scaled by ")) if words else None

    def lines(self, read: dict[str, str]) -> Iterator[Connection]:
        """Yield the connections that are told, one for each input."""
        source = self.output(read["source"])
        targets = (
            self.inputs(read["target"])
            if "input" not in read
            else self.inputs(f"the {read['input']} of {read['target']}")
        )
        for target in targets:
            depth = amount(read["depth"], self.declared(target).depth_unit) if "depth" in read else 1.0
            yield Connection(source=source, target=target, depth=depth, scaled_by=self.scale(read.get("scaling", "")))

    def add(self, module: str, kind: str) -> Module:
        """Return a module of a kind that is not there yet."""
        name = kind_of(module, kind)
        label = "" if module == CATALOGUE[name].title else module
        return Module(id=fresh_id({one.id: one for one in self.patch.modules}, name), type=name, label=label)

    def do_add(self, read: dict[str, str]) -> None:
        self.change(AddModule(module=self.add(*new_module(read))))

    def do_insert(self, read: dict[str, str]) -> None:
        sources = self.places(read["before"], self.output)
        targets = [at for one in listed(read["after"]) for at in self.places(one, lambda words: self.inputs(words)[0])]
        lines = [line for line in self.patch.connections if met(line.source, sources) and met(line.target, targets)]
        new = self.add(*new_module(read))
        self.change(InsertModule(module=new, lines=tuple(Ends.of(one) for one in lines)))

    def places(self, words: str, port: Callable[[str], Port]) -> list[str]:
        """Return a module, of which any place is meant, or the one port that words name."""
        known = [one.id for one in self.patch.modules if one.title == words]
        return known or [str(port(words))]

    def do_remove(self, read: dict[str, str]) -> None:
        self.change(RemoveModules(modules=(self.module(read["module"]).id,), bridge=False))

    def do_replace(self, read: dict[str, str]) -> None:
        kind = NOUNS[read["noun"]] if "noun" in read else TITLES[read["type"]]
        self.change(ReplaceModule(module=self.module(read["module"]).id, type=kind))

    def do_replace_named(self, read: dict[str, str]) -> None:
        module = self.module(read["module"]).id
        self.do_replace(read)
        label = "" if read["name"] == self.patch.by_id[module].declaration.title else read["name"]
        self.change(RenameModule(module=module, label=label))

    def do_duplicate(self, read: dict[str, str], connected: bool = True) -> None:
        there = set(self.patch.by_id)
        self.change(DuplicateModules(modules=(self.module(read["module"]).id,), connected=connected))
        (new,) = (one for one in self.patch.modules if one.id not in there)
        if new.title != read["copy"]:
            self.change(RenameModule(module=new.id, label=read["copy"]))

    def do_duplicate_alone(self, read: dict[str, str]) -> None:
        self.do_duplicate(read | {"copy": read["copy"].removesuffix(" without its connections")}, connected=False)

    def do_rename(self, read: dict[str, str]) -> None:
        if read["before"] in [one.label for one in self.patch.sections] and self.voice == "brief":
            return self.do_section_rename(read)
        self.change(RenameModule(module=self.module(read["before"]).id, label=read["after"]))

    def do_set(self, read: dict[str, str]) -> None:
        module = self.module(read["module"])
        settings = spoken_settings(module)
        pieces = (
            pieces_plain(read["settings"], settings)
            if self.voice == "plain"
            else pieces_brief(read["settings"], settings)
        )
        for words, value in pieces:
            name = settings[words]
            self.change(SetValue(module=module.id, setting=name, value=value_of(module, name, value)))

    def do_swap(self, read: dict[str, str]) -> None:
        module = self.module(read["module"])
        name = spoken_settings(module)[read["setting"]]
        self.change(SetValue(module=module.id, setting=name, value=value_of(module, name, read["new"])))

    def do_voices(self, read: dict[str, str]) -> None:
        self.change(SetVoices(voices=int(read["voices"])))

    do_voices_one = do_voices

    def do_connect(self, read: dict[str, str]) -> None:
        self.change(*(Connect(line=line) for line in self.lines(read)))

    do_connect_depth = do_steer = do_connect

    def do_depth(self, read: dict[str, str]) -> None:
        for line in self.lines(read):
            scale = line.scaled_by or "nothing"
            self.change(ChangeLine(line=Ends.of(line), depth=line.depth, scaled_by=scale))

    do_steer_now = do_depth

    def do_follow(self, read: dict[str, str]) -> None:
        source, target = Port.of(self.module(read["source"]).id, "pitch"), self.module(read["target"])
        pitches = [one.name for one in target.declaration.inputs if one.kind == "pitch"]
        if len(pitches) != 1:
            raise UnclearError(f"{target.title} could follow a pitch at {pitches}")
        self.change(Connect(line=Connection(source=source, target=Port.of(target.id, pitches[0]))))

    def do_disconnect(self, read: dict[str, str]) -> None:
        self.change(*(Disconnect(line=Ends.of(line)) for line in self.lines(read)))

    def do_end(self, read: dict[str, str]) -> None:
        source = self.output(read["source"])
        (old,), (new,) = self.inputs(read["old"]), self.inputs(read["new"])
        to = Ends(source=source, target=new)
        self.change(MoveEnd(line=Ends(source=source, target=old), to=to))
        if "depth" in read:
            self.change(ChangeLine(line=to, depth=amount(read["depth"], self.declared(new).depth_unit)))

    do_end_steers = do_end_depth = do_end

    def do_beginning(self, read: dict[str, str]) -> None:
        (target,) = self.inputs(read["target"])
        old, new = (self.output(read[one]) for one in ("old", "new"))
        self.change(MoveEnd(line=Ends(source=old, target=target), to=Ends(source=new, target=target)))

    def do_off(self, read: dict[str, str]) -> None:
        self.change(*(ChangeLine(line=Ends.of(line), off=True) for line in self.lines(read)))

    def do_on(self, read: dict[str, str]) -> None:
        self.change(*(ChangeLine(line=Ends.of(line), off=False) for line in self.lines(read)))

    def do_group(self, read: dict[str, str]) -> None:
        named = names_in(read["modules"], self.names())
        modules = tuple(self.module(one).id for one in named)
        known = [one.id for one in self.patch.sections if one.label == read["section"]]
        self.change(*(TakeApart(section=one) for one in known), GroupModules(modules=modules, label=read["section"]))

    def do_section_rename(self, read: dict[str, str]) -> None:
        (known,) = (one.id for one in self.patch.sections if one.label == read["before"])
        self.change(ChangeSection(section=known, label=read["after"]))

    def do_section_apart(self, read: dict[str, str]) -> None:
        (known,) = (one.id for one in self.patch.sections if one.label == read["section"])
        self.change(TakeApart(section=known))


def met(port: Port, places: list[str]) -> bool:
    """Tell whether a port is one of some places, or of a module that is one."""
    return port.module in places or str(port) in places


def listed(text: str) -> list[str]:
    """Return what is listed one by one."""
    return re.split(r", (?!left and right)| and (?!right)", text)


def matched(template: str, text: str, names: list[str]) -> dict[str, str]:
    """Return what stands in a text where a template has its arguments; names are read as wholes."""
    called = "|".join(re.escape(one) for one in names) or "(?!)"
    nouns = "|".join(re.escape(one) for one in sorted(NOUNS, key=len, reverse=True))
    known = {
        "kind": rf"(?:(?:{nouns}) named |an? |)",
        "scaling": "(?:, scaled by .*)?",
        "settings": ".*",
        "depth": AMOUNT,
        "module": ".*?" if "+ {module}" in template or "{kind}" in template else called,
    }
    pattern = "".join(
        re.escape(literal) + (f"(?P<{name}>{known.get(name, '.*?')})" if name is not None else "")
        for literal, name, _, _ in Formatter().parse(template)
    )
    found = re.fullmatch(pattern, text)
    if found is None:
        raise UnclearError(f"“{text}” is not “{template}”")
    return found.groupdict()


def new_module(read: dict[str, str]) -> tuple[str, str]:
    """Return what a new module is called and of what kind it is, in words."""
    if "kind" in read:
        return read["module"], read["kind"]
    typed = re.fullmatch(r"(.*) \(([^()]*)\)", read["module"])
    return (typed[1], typed[2]) if typed and typed[2] in TITLES else (read["module"], "")


def kind_of(title: str, kind: str) -> str:
    """Return the type of a module by its words: “a filter named”, “filter”, or what it is called itself."""
    noun = kind.strip().removesuffix(" named")
    return NOUNS.get(noun) or TITLES.get(noun) or TITLES[title.lower()]


def spoken_settings(module: Module) -> dict[str, str]:
    """Return the settings of a module by what people call them."""
    inputs = module.declaration.inputs_by_name
    found: dict[str, str] = {}
    for name in module.all_settings:
        words = inputs[name].words if name in inputs else spoken(name)
        if words in found:
            raise UnclearError(f"two settings of {module.title} are called {words}")
        found[words] = name
    return found


def pieces_plain(text: str, settings: dict[str, str]) -> list[tuple[str, str]]:
    """Return what is set to what: “’s cutoff to 420 Hz, its resonance to 0.2 and its slope to 24 dB per octave”."""
    pieces = [one.strip() for one in re.split(r"’s |, its | and its ", text)[1:]]
    known = sorted(settings, key=len, reverse=True)
    names = [next((one for one in known if piece.startswith(f"{one} to ")), piece) for piece in pieces]
    return [(one, piece[len(one) + len(" to ") :]) for one, piece in zip(names, pieces, strict=True)]


def pieces_brief(text: str, settings: dict[str, str]) -> list[tuple[str, str]]:
    """Return what is set to what: “cutoff 420 Hz, resonance 0.2”; what begins with no setting belongs to the last."""
    found: list[tuple[str, str]] = []
    for piece in text.split(", "):
        known = [one for one in sorted(settings, key=len, reverse=True) if piece.startswith(f"{one} ")]
        if known and not (found and isinstance(number_in(piece), float)):
            found.append((known[0], piece[len(known[0]) + 1 :]))
        elif found:
            found[-1] = (found[-1][0], f"{found[-1][1]}, {piece}")
    return found


def number_in(text: str) -> float | None:
    """Return the number that a text is."""
    try:
        return float(text.replace(",", "").replace("−", "-"))
    except ValueError:
        return None


def value_of(module: Module, name: str, text: str) -> Value:
    """Return the value that a text means for a setting."""
    choice = module.declaration.choices.get(name)
    if choice:
        found = [one for one in choice.options if choice.shown(one) == text]
        if len(found) == 1 and not choice.own:
            return found[0]
        raise UnclearError(f"“{text}” is none of {choice.options}")
    if isinstance(module.all_settings[name], tuple):
        return () if text == "nothing" else tuple(float(number_in(one) or 0.0) for one in text.split(", "))
    return amount(text, module.declaration.rulers[name].unit)


def amount(text: str, unit: str) -> float:
    """Return the number that a text means in a unit."""
    found = NUMBER.match(text.removeprefix("× "))
    number = number_in(found[1].removeprefix("+")) if found else None
    if found is None or number is None:
        raise UnclearError(f"“{text}” is no amount")
    if text.endswith(" ms") and unit == "s":
        return number * 0.001
    return number


def names_in(text: str, names: list[str]) -> list[str]:
    """Return the names that are listed: “Reed, Bell and Horn”, or “Reed + Bell”."""
    found: list[str] = []
    while text:
        name = next((one for one in names if text == one or re.match(re.escape(one) + r"(, | and | \+ )", text)), None)
        if name is None:
            raise UnclearError(f"“{text}” begins with no name")
        found.append(name)
        text = re.sub(r"^(, | and | \+ )", "", text[len(name) :])
    return found
