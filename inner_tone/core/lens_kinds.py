"""The kinds of lenses, for those who need no more of them than their names: those of the files in `lens/kinds`."""

from pathlib import Path
from pkgutil import iter_modules
from typing import TYPE_CHECKING, Literal

KINDS = tuple(file.name for file in iter_modules([str(Path(__file__).with_name("lens") / "kinds")]))

if TYPE_CHECKING:
    LensKind = str
else:
    LensKind = Literal[KINDS]
