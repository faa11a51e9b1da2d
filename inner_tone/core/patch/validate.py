"""Reads patches, and says of each thing that is wrong where it is and how to mend it."""

from collections import Counter
from collections.abc import Iterator, Sequence
from typing import Any

from inner_tone.core.documents import read
from inner_tone.core.errors import DocumentError, Problem, did_you_mean
from inner_tone.core.modules import CATALOGUE, MODULE_TYPES
from inner_tone.core.modules.declaration import Row, Ruler, Value
from inner_tone.core.patch.graph import is_single
from inner_tone.core.patch.model import Connection, Module, Patch
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.sections import overlaps
from inner_tone.core.units import with_unit


def read_patch(data: Any) -> Patch:
    """Return JSON data as a patch; raises DocumentError with every problem found."""
    return checked_patch(read(Patch, data))


def checked_patch(patch: Patch) -> Patch:
    """Return a patch whose structure is right if its facts are too; raises DocumentError."""
    problems = problems_of_patch(patch)
    if problems:
        raise DocumentError(problems)
    return patch


def problems_of_patch(patch: Patch) -> list[Problem]:
    """Return everything that is wrong with a patch whose structure is right."""
    return [*problems_of_modules(patch), *problems_of_connections(patch), *problems_of_sections(patch)]


def checked_port(patch: Patch, port: Port, *, outputs: bool) -> Patch:
    """Return a patch if it has an output, or else an input, called `port`; raises DocumentError."""
    problems = list(problem_of_port(patch, "port", port, outputs=outputs))
    if problems:
        raise DocumentError(problems)
    return patch


def problems_of_modules(patch: Patch) -> Iterator[Problem]:
    """Yield what is wrong with the modules by themselves."""
    ids = Counter(module.id for module in patch.modules)
    for number, module in enumerate(patch.modules):
        path = f"modules[{number}]"
        if ids[module.id] > 1:
            yield Problem(f"{path}.id", f"Another module is called “{module.id}” too.", "Give one of them another id.")
        if module.type not in CATALOGUE:
            remedy = did_you_mean(module.type, list(CATALOGUE))
            yield Problem(f"{path}.type", f"There is no module type “{module.type}”.", remedy)
        else:
            yield from problems_of_settings(f"{path}.settings", module)
    for single in (declared.name for declared in MODULE_TYPES if "single" in declared.traits):
        places = [n for n, module in enumerate(patch.modules) if module.type == single]
        if len(places) > 1:
            yield Problem(f"modules[{places[1]}]", f"A patch has only one {single}.", "Remove this one.")


def problems_of_settings(path: str, module: Module) -> Iterator[Problem]:
    """Yield what is wrong with the settings of a module whose type is known."""
    declaration = module.declaration
    for name, value in module.settings.items():
        here = f"{path}.{name}"
        if name in declaration.choices:
            choice = declaration.choices[name]
            if not choice.allows(value):
                yield Problem(here, f"“{value}” is not one of its choices.", choices_text(choice.options))
        elif name in declaration.rows:
            yield from problems_of_row(here, declaration.rows[name], value)
        elif name not in declaration.rulers:
            remedy = did_you_mean(name, list(declaration.defaults))
            yield Problem(here, f"{capital(declaration.noun)} has no setting “{name}”.", remedy)
        elif not isinstance(value, int | float):
            kind = "a row" if isinstance(value, tuple) else "a text"
            yield Problem(here, f"“{value}” is {kind}.", "It must be a number.")
        else:
            yield from problem_of_range(here, declaration.rulers[name], value)


def problems_of_row(path: str, row: Row, value: Value) -> Iterator[Problem]:
    """Yield what is wrong with a row of numbers."""
    if not isinstance(value, tuple):
        yield Problem(path, f"“{value}” is not a row.", "It must be a list of numbers.")
    elif len(value) > row.length:
        yield Problem(path, f"The row has {len(value)} numbers.", f"It may have at most {row.length}.")
    else:
        for place, number in enumerate(value):
            yield from problem_of_range(f"{path}[{place}]", row.ruler, number)


def problem_of_range(path: str, ruler: Ruler, value: float) -> Iterator[Problem]:
    """Yield a problem if a number lies off its ruler."""
    if not ruler.low <= value <= ruler.high:
        low, high = with_unit(ruler.low, ruler.unit), with_unit(ruler.high, ruler.unit)
        yield Problem(path, f"{with_unit(value, ruler.unit)} is out of range.", f"Choose from {low} to {high}.")


def problems_of_connections(patch: Patch) -> Iterator[Problem]:
    """Yield what is wrong with the connections, given the modules."""
    seen: set[tuple[str, str]] = set()
    for number, connection in enumerate(patch.connections):
        path = f"connections[{number}]"
        yield from problem_of_port(patch, f"{path}.from", connection.source, outputs=True)
        yield from problem_of_port(patch, f"{path}.to", connection.target, outputs=False)
        if connection.scaled_by is not None:
            yield from problem_of_port(patch, f"{path}.scaled_by", connection.scaled_by, outputs=True)
        if connection.ends in seen:
            yield doubled(path, connection)
        seen.add(connection.ends)


def problems_of_sections(patch: Patch) -> Iterator[Problem]:
    """Yield what is wrong with the sections, given the modules."""
    ids = Counter((*(module.id for module in patch.modules), *(section.id for section in patch.sections)))
    for number, section in enumerate(patch.sections):
        path = f"sections[{number}]"
        if ids[section.id] > 1:
            yield Problem(f"{path}.id", f"“{section.id}” is called so too.", "Give one of them another id.")
        for place, name in enumerate(section.modules):
            yield from problem_of_member(patch, f"{path}.modules[{place}]", name)
        yield from problem_of_overlap(patch, path, number)
        for place, port in enumerate(section.inputs):
            yield from problem_of_port(patch, f"{path}.inputs[{place}].port", port.port, outputs=False)
        for place, port in enumerate(section.outputs):
            yield from problem_of_port(patch, f"{path}.outputs[{place}].port", port.port, outputs=True)


def problem_of_member(patch: Patch, path: str, name: str) -> Iterator[Problem]:
    """Yield a problem if a module cannot be in a section."""
    if name not in patch.by_id:
        yield Problem(path, f"There is no module “{name}”.", did_you_mean(name, list(patch.by_id)))
    elif patch.by_id[name].type in CATALOGUE and is_single(patch.by_id[name]):
        yield Problem(path, f"The {patch.by_id[name].type} stands outside of all sections.", "Leave it out.")


def problem_of_overlap(patch: Patch, path: str, number: int) -> Iterator[Problem]:
    """Yield a problem if a section shares modules with one before it, and neither stands within the other."""
    section = patch.sections[number]
    for other in patch.sections[:number]:
        if overlaps(other, section):
            shared = next(name for name in section.modules if name in other.modules)
            message = f"It shares “{shared}” with “{other.id}”, and neither stands within the other."
            yield Problem(f"{path}.modules", message, "Leave what they share in one of them.")


def doubled(path: str, connection: Connection) -> Problem:
    """Return the problem of two connections between the same two ports."""
    message = f"{connection.source} is connected to {connection.target} twice."
    return Problem(path, message, "Keep one of them and add up their depths.")


def problem_of_port(patch: Patch, path: str, port: Port, *, outputs: bool) -> Iterator[Problem]:
    """Yield a problem if a port does not exist."""
    module = patch.by_id.get(port.module)
    if module is None:
        yield Problem(path, f"There is no module “{port.module}”.", did_you_mean(port.module, list(patch.by_id)))
    elif module.type in CATALOGUE:
        ports = module.declaration.outputs if outputs else module.declaration.inputs
        names = [one.name for one in ports]
        if port.name not in names:
            word = "output" if outputs else "input"
            message = f"{capital(module.declaration.noun)} has no {word} “{port.name}”."
            yield Problem(path, message, did_you_mean(port.name, names))


def choices_text(options: Sequence[str | int]) -> str:
    """Return the options as a remedy."""
    return "Choose " + ", ".join(str(option) for option in options[:-1]) + f" or {options[-1]}."


def capital(text: str) -> str:
    """Return a text as it stands at the beginning of a sentence."""
    return text[0].upper() + text[1:]
