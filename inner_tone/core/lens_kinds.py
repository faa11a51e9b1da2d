"""The kinds of lenses, for those who need no more of them than their names."""

from typing import Literal

Kind = Literal["wave", "spectrum", "sweep", "level", "response", "frequency"]
