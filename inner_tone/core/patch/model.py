"""The patch: modules joined by connections from outputs to inputs."""

from functools import cached_property
from typing import Annotated, Any, Literal

from pydantic import Field, StrictFloat, StrictInt, StrictStr

from inner_tone.core.documents import Document
from inner_tone.core.modules import CATALOGUE
from inner_tone.core.modules.declaration import ModuleType, Value
from inner_tone.core.patch.port import Port

MOST_VOICES = 16
MOST_SETTINGS = 100  # of a module: more than any type has

Name = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_-]{0,39}$")]
Label = Annotated[str, Field(max_length=60)]

LONGEST_ROW = 256  # numbers: more than any row has
Numbers = Annotated[tuple[StrictInt | StrictFloat, ...], Field(max_length=LONGEST_ROW, fail_fast=True)]
Setting = StrictInt | StrictFloat | StrictStr | Numbers


class Module(Document):
    """One module of a patch: its type, the educator's name for it, and the settings that differ from the defaults."""

    id: Name
    type: str
    label: Label = ""
    settings: Annotated[dict[str, Setting], Field(max_length=MOST_SETTINGS)] = Field(default_factory=dict)

    @property
    def declaration(self) -> ModuleType:
        """The declaration of the module's type."""
        return CATALOGUE[self.type]

    @property
    def title(self) -> str:
        """What people call the module: the educator's name for it, or its type's."""
        return self.label or (self.declaration.title if self.type in CATALOGUE else self.type)

    @property
    def main(self) -> Port:
        """The output that stands for it, of a module that has one."""
        main = self.declaration.main
        assert main is not None, self.type
        return Port.of(self.id, main.name)

    def number(self, name: str) -> float:
        """Return the value of a setting that is a number."""
        value = self.all_settings[name]
        assert isinstance(value, int | float), name
        return float(value)

    def row(self, name: str) -> tuple[float, ...]:
        """Return a row of numbers as far as it is in use: what is not written is the ruler's default."""
        declared = self.declaration.rows[name]
        written = self.all_settings[name]
        assert isinstance(written, tuple)
        return tuple(declared.padded(written)[: int(self.number(declared.counted_by)) if declared.counted_by else None])

    @cached_property
    def all_settings(self) -> dict[str, Value]:
        """Every setting with its value, defaults included."""
        return self.declaration.defaults | self.settings


class Connection(Document):
    """A line from an output to an input; `depth` is in the input's unit. One that is `off` stays, and does nothing."""

    source: Port = Field(alias="from")
    target: Port = Field(alias="to")
    depth: Annotated[float, Field(ge=-1e5, le=1e5)] = 1.0
    scaled_by: Port | None = None
    off: Literal[True] | None = None

    @property
    def ends(self) -> tuple[Port, Port]:
        """The output and the input."""
        return self.source, self.target

    @property
    def modules(self) -> tuple[str, str]:
        """The modules at both ends."""
        return self.source.module, self.target.module

    @property
    def read(self) -> tuple[Port, ...]:
        """The outputs that it reads."""
        return (self.source, self.scaled_by) if self.scaled_by else (self.source,)


class SectionPort(Document):
    """An input or an output of a section: a port of one of its modules under a name of its own."""

    name: Annotated[str, Field(min_length=1, max_length=60)]
    port: Port


class Section(Document):
    """A named group of modules, with named inputs and outputs of its own. Closed, the map shows it as one card."""

    id: Name
    label: Annotated[str, Field(min_length=1, max_length=60)]
    modules: Annotated[tuple[Name, ...], Field(max_length=200)]
    open: bool = True
    inputs: Annotated[tuple[SectionPort, ...], Field(max_length=200)] = ()
    outputs: Annotated[tuple[SectionPort, ...], Field(max_length=200)] = ()


class Patch(Document):
    """An instrument: modules and the connections between them, some of the modules grouped in sections."""

    format: Literal["inner-tone/patch"] = "inner-tone/patch"
    version: Literal[1] = 1
    title: Annotated[str, Field(max_length=200)] = ""
    voices: Annotated[int, Field(ge=1, le=MOST_VOICES)] = 1
    modules: Annotated[tuple[Module, ...], Field(max_length=200)] = ()
    connections: Annotated[tuple[Connection, ...], Field(max_length=1000)] = ()
    sections: Annotated[tuple[Section, ...], Field(max_length=100)] = ()

    @cached_property
    def by_id(self) -> dict[str, Module]:
        """The modules by their identifiers."""
        return {module.id: module for module in self.modules}

    @property
    def live(self) -> "Patch":
        """The patch with only the connections that do something."""
        if not any(line.off for line in self.connections):
            return self
        return self.model_copy(update={"connections": tuple(line for line in self.connections if not line.off)})

    def to_json(self) -> dict[str, Any]:
        """Return the patch as JSON data, settings only where they are given."""
        return self.model_dump(mode="json", by_alias=True, exclude_none=True)
