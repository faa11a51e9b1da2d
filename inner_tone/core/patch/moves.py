"""Moves: what people do at the bench, as data that can be sent, kept and offered. `edit` makes them."""

from typing import Annotated, Literal

from pydantic import Field

from inner_tone.core.documents import Document
from inner_tone.core.patch.model import MOST_VOICES, Connection, Label, Module, Name, Patch, Setting
from inner_tone.core.patch.port import Port

Names = Annotated[tuple[Name, ...], Field(min_length=1)]


class Ends(Document):
    """The two ends of a connection."""

    source: Port = Field(alias="from")
    target: Port = Field(alias="to")

    @classmethod
    def of(cls, line: Connection) -> "Ends":
        """Return the ends of a connection."""
        return cls(source=line.source, target=line.target)


class AddModule(Document):
    """Put a module in, alone."""

    kind: Literal["add"] = "add"
    module: Module


class InsertModule(Document):
    """Put a module in so that some connections run through it."""

    kind: Literal["insert"] = "insert"
    module: Module
    lines: Annotated[tuple[Ends, ...], Field(min_length=1)]


class RemoveModules(Document):
    """Take modules out; with `bridge`, what went through them goes on without them."""

    kind: Literal["remove"] = "remove"
    modules: Names
    bridge: bool = True


class ReplaceModule(Document):
    """Put a module of another type in the place of one; whatever fits stays connected and set."""

    kind: Literal["replace"] = "replace"
    module: Name
    type: str


class DuplicateModules(Document):
    """Put copies of modules in; with `connected`, fed and feeding as the originals are."""

    kind: Literal["duplicate"] = "duplicate"
    modules: Names
    connected: bool = True


class RenameModule(Document):
    """Give a module another name; an empty one gives it its type's."""

    kind: Literal["rename"] = "rename"
    module: Name
    label: Label


class SetValue(Document):
    """Set one of a module's settings."""

    kind: Literal["set"] = "set"
    module: Name
    setting: str
    value: Setting


class Connect(Document):
    """Draw a connection; one between the same ends gives way to it."""

    kind: Literal["connect"] = "connect"
    line: Connection


class Disconnect(Document):
    """Take a connection away."""

    kind: Literal["disconnect"] = "disconnect"
    line: Ends


class MoveEnd(Document):
    """Let a connection begin or end elsewhere."""

    kind: Literal["move-end"] = "move-end"
    line: Ends
    to: Ends


class ChangeLine(Document):
    """Give a connection another depth, another scale, or switch it off or on."""

    kind: Literal["line"] = "line"
    line: Ends
    depth: float | None = None
    scaled_by: Port | Literal["nothing"] | None = None
    off: bool | None = None


class GroupModules(Document):
    """Make a section of some modules, under an id of its own unless one is given."""

    kind: Literal["group"] = "group"
    modules: Names
    label: Label = ""
    section: Name | None = None


class TakeApart(Document):
    """Dissolve a section; its modules stay."""

    kind: Literal["take-apart"] = "take-apart"
    section: Name


class ChangeSection(Document):
    """Open, close or rename a section, or give one of its ports a name; an empty name hides the port."""

    kind: Literal["section"] = "section"
    section: Name
    label: Label | None = None
    open: bool | None = None
    port: Port | None = None
    name: Label = ""


class SetVoices(Document):
    """Say how many notes can sound at once."""

    kind: Literal["voices"] = "voices"
    voices: Annotated[int, Field(ge=1, le=MOST_VOICES)]


class Paste(Document):
    """Put in modules that were copied, with the connections among them."""

    kind: Literal["paste"] = "paste"
    fragment: Patch


Edit = Annotated[
    AddModule
    | InsertModule
    | RemoveModules
    | ReplaceModule
    | DuplicateModules
    | RenameModule
    | SetValue
    | Connect
    | Disconnect
    | MoveEnd
    | ChangeLine
    | GroupModules
    | TakeApart
    | ChangeSection
    | SetVoices
    | Paste,
    Field(discriminator="kind"),
]
