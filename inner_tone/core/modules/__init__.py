"""The module types. To add one, add its file here; everything else follows from its declaration."""

from inner_tone.core.modules import amplifier, envelope, filter, oscillator, output, player
from inner_tone.core.modules.declaration import ModuleType

MODULE_TYPES: tuple[ModuleType, ...] = tuple(
    module.MODULE for module in (player, oscillator, filter, envelope, amplifier, output)
)
CATALOGUE: dict[str, ModuleType] = {module.name: module for module in MODULE_TYPES}
OPERATION: dict[str, int] = {module.name: number for number, module in enumerate(MODULE_TYPES)}
