"""The patch: modules joined by connections from outputs to inputs."""

from typing import Annotated, Any, Literal

from pydantic import Field, StrictFloat, StrictInt, StrictStr

from inner_tone.core.documents import Document
from inner_tone.core.modules import CATALOGUE
from inner_tone.core.modules.declaration import ModuleType, Value

MOST_VOICES = 16

Name = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_-]{0,39}$")]
PortName = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_-]{0,39}\.[a-z][a-z0-9_]{0,39}$")]

Setting = StrictInt | StrictFloat | StrictStr | tuple[StrictInt | StrictFloat, ...]


class Module(Document):
    """One module of a patch: its type, the educator's name for it, and the settings that differ from the defaults."""

    id: Name
    type: str
    label: Annotated[str, Field(max_length=60)] = ""
    settings: dict[str, Setting] = Field(default_factory=dict)

    @property
    def declaration(self) -> ModuleType:
        """The declaration of the module's type."""
        return CATALOGUE[self.type]

    @property
    def title(self) -> str:
        """What people call the module: the educator's name for it, or its type's."""
        return self.label or (self.declaration.title if self.type in CATALOGUE else self.type)

    @property
    def all_settings(self) -> dict[str, Value]:
        """Every setting with its value, defaults included."""
        return self.declaration.defaults | self.settings


class Connection(Document):
    """A line from an output to an input; `depth` is in the input's unit."""

    source: PortName = Field(alias="from")
    target: PortName = Field(alias="to")
    depth: Annotated[float, Field(ge=-1e5, le=1e5)] = 1.0
    scaled_by: PortName | None = None

    @property
    def ends(self) -> tuple[str, str]:
        """The output and the input, as `module.port`."""
        return self.source, self.target


class Patch(Document):
    """An instrument: modules and the connections between them."""

    format: Literal["inner-tone/patch"] = "inner-tone/patch"
    version: Literal[1] = 1
    title: Annotated[str, Field(max_length=200)] = ""
    voices: Annotated[int, Field(ge=1, le=MOST_VOICES)] = 1
    modules: Annotated[tuple[Module, ...], Field(max_length=200)] = ()
    connections: Annotated[tuple[Connection, ...], Field(max_length=1000)] = ()

    @property
    def by_id(self) -> dict[str, Module]:
        """The modules by their identifiers."""
        return {module.id: module for module in self.modules}

    def to_json(self) -> dict[str, Any]:
        """Return the patch as JSON data, settings only where they are given."""
        return self.model_dump(mode="json", by_alias=True, exclude_none=True)


def split_port(port: str) -> tuple[str, str]:
    """Return the module and the port of `module.port`."""
    module, _, name = port.partition(".")
    return module, name
