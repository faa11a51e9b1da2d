"""The module types. Each file here that declares a `MODULE` and its `kernel` is one; all else follows from it.

After a file is added or a declaration changed, `bin/generate` writes anew what is derived from them.
"""

from importlib import import_module
from pkgutil import iter_modules

from inner_tone.core.modules.declaration import ModuleType

PLAYER, OUTPUT, LEVER = "player", "output", "lever"  # the types that the engine itself knows
FAMILIES = ("play", "source", "shape", "steer", "out")


def declared() -> list[ModuleType]:
    """Return every module type, by family and within it by name."""
    files = [import_module(f"{__name__}.{file.name}") for file in iter_modules(__path__)]
    found = [file.MODULE for file in files if hasattr(file, "MODULE")]
    return sorted(found, key=lambda module: (FAMILIES.index(module.family), module.name))


MODULE_TYPES: tuple[ModuleType, ...] = tuple(declared())
CATALOGUE: dict[str, ModuleType] = {module.name: module for module in MODULE_TYPES}
