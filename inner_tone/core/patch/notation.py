"""Patches as short texts, in which changes can be read: what the accompaniments and the demo lessons are written in.

    reed: oscillator "Reed" wave=saw octave=-2      a module, which comes in, or takes the place of one
    reed: octave=-1                                 other settings of a module that is there
    breath.out -> amp.level                         a connection, with a depth of 1
    player.wheel -> bell.cutoff * 24 by breath.out  with its depth, and what it is scaled by
    amp.out -> out.left, out.right                  several at once
    - breath.out -> amp.level                       a connection goes
    - bell                                          a module goes, with its connections
    voices 4                                        how many notes sound at once
    section wind "Wind" closed: breath, amp         modules that stand in a section

Everything behind # is a remark.
"""

import re
from collections.abc import Iterator

from inner_tone.core.errors import InnerToneError
from inner_tone.core.modules import CATALOGUE
from inner_tone.core.patch.model import Connection, Module, Patch, Setting
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.sections import grouped, pruned, regrouped
from inner_tone.core.patch.validate import read_patch

PORT = r"[a-z][a-z0-9_-]*\.[a-z][a-z0-9_]*"
LINE = re.compile(rf"^({PORT}) -> ({PORT}(?:, {PORT})*)(?: \* (-?[0-9.]+))?(?: by ({PORT}))?( off)?$")
MODULE = re.compile(
    r'^([a-z][a-z0-9_-]*):(?: ([a-z]+)(?= |$))?(?: "([^"]*)")?((?: [a-z_0-9]+=(?:\[[^\]]*\]|"[^"]*"|\S+))*)$'
)
SECTION = re.compile(r'^section ([a-z][a-z0-9_-]*) "([^"]+)"( closed)?: ([a-z0-9_, -]+)$')
SETTING = re.compile(r'([a-z_0-9]+)=(\[[^\]]*\]|"[^"]*"|\S+)')


def notated(text: str, base: Patch | None = None) -> Patch:
    """Return the patch that a text makes of another one, or of nothing; raises InnerToneError with the line."""
    modules = {one.id: one for one in base.modules} if base else {}
    lines = {one.ends: one for one in base.connections} if base else {}
    voices = base.voices if base else 1
    groups: list[re.Match[str]] = []
    for said in sentences(text):
        if found := LINE.match(said.removeprefix("- ")):
            for line in connections(found):
                if said.startswith("- "):
                    if lines.pop(line.ends, None) is None:
                        raise InnerToneError(f"“{said}”: there is no such connection.")
                else:
                    lines[line.ends] = line
        elif found := SECTION.match(said):
            groups.append(found)
        elif said.startswith("- "):
            gone = said.removeprefix("- ")
            if modules.pop(gone, None) is None:
                raise InnerToneError(f"“{said}”: there is no such module.")
            lines = {ends: one for ends, one in lines.items() if gone not in {port.module for port in reaching(one)}}
        elif found := MODULE.match(said):
            module = made(found, modules)
            modules[module.id] = module
        elif said.startswith("voices "):
            voices = int(said.removeprefix("voices "))
        else:
            raise InnerToneError(f"“{said}” says nothing that can be done with a patch.")
    whole = {"voices": voices, "title": base.title if base else ""}
    patch = Patch(modules=tuple(modules.values()), connections=tuple(lines.values()), **whole)
    patch = pruned(patch.model_copy(update={"sections": base.sections if base else ()}))
    for identity, label, closed, members in (found.groups() for found in groups):
        patch = regrouped(grouped(patch, identity, label, members.split(", ")), identity, None, not closed, None, "")
    return read_patch(patch.to_json())


def sentences(text: str) -> Iterator[str]:
    """Yield what a text says, line by line, without remarks."""
    for line in text.splitlines():
        said = line.partition("#")[0].strip()
        if said:
            yield re.sub(r"\s+", " ", said)


def reaching(line: Connection) -> tuple[Port, ...]:
    """Return all ports that a connection reaches."""
    return line.target, *line.read


def connections(found: re.Match[str]) -> Iterator[Connection]:
    """Yield the connections of a line."""
    source, targets, depth, scale, off = found.groups()
    for target in targets.split(", "):
        data = {
            "from": source,
            "to": target,
            "depth": float(depth or 1),
            "scaled_by": scale,
            "off": True if off else None,
        }
        yield Connection.model_validate(data)


def made(found: re.Match[str], known: dict[str, Module]) -> Module:
    """Return the module of a line: a new one, or one that is there with other settings."""
    identity, kind, label, settings = found.groups()
    said = {name: value_of(value) for name, value in SETTING.findall(settings)}
    if kind is not None:
        if kind not in CATALOGUE:
            raise InnerToneError(f"“{found[0]}”: there is no module type “{kind}”.")
        return Module(id=identity, type=kind, label=label or "", settings=said)
    if identity not in known:
        raise InnerToneError(f"“{found[0]}”: there is no module “{identity}” yet; say its type.")
    old = known[identity]
    return old.model_copy(update={"settings": {**old.settings, **said}, "label": old.label if label is None else label})


def value_of(text: str) -> Setting:
    """Return a value as it is written."""
    if text.startswith("["):
        return tuple(number_of(one) for one in text[1:-1].replace(",", " ").split())
    if text.startswith('"'):
        return text[1:-1]
    try:
        return number_of(text)
    except ValueError:
        return text


def number_of(text: str) -> int | float:
    """Return a number, whole if it is written so; raises ValueError."""
    return int(text) if re.fullmatch(r"-?[0-9]+", text) else float(text)
