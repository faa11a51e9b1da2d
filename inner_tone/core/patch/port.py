"""A port: an output or an input of a module, written as `module.port`."""

from collections.abc import Iterable
from typing import Any

from pydantic import GetCoreSchemaHandler
from pydantic_core import CoreSchema, core_schema

PATTERN = r"^[a-z][a-z0-9_-]{0,39}\.[a-z][a-z0-9_]{0,39}$"


class Port(str):
    """A port by its text, `module.port`, which is split but once."""

    __slots__ = ("module", "name")

    module: str
    name: str

    def __new__(cls, text: str) -> "Port":
        """Return the port that a text names; a port stays what it is."""
        if isinstance(text, Port):
            return text
        port = super().__new__(cls, text)
        port.module, _, port.name = text.partition(".")
        return port

    @classmethod
    def of(cls, module: str, name: str) -> "Port":
        """Return a port of a module."""
        port = super().__new__(cls, f"{module}.{name}")
        port.module, port.name = module, name
        return port

    def on(self, module: str) -> "Port":
        """Return the port of the same name on another module."""
        return Port.of(module, self.name)

    def __reduce__(self) -> tuple[Any, ...]:
        """Say how it is copied and sent to other processes."""
        return Port, (str(self),)

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        """Say how documents read it: a text of two names."""
        return core_schema.no_info_after_validator_function(cls, core_schema.str_schema(pattern=PATTERN))


def ports(texts: Iterable[str]) -> tuple[Port, ...]:
    """Return texts as ports."""
    return tuple(Port(text) for text in texts)
