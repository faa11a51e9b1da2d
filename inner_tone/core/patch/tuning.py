"""How a source is tuned, and through which stages a course goes, whatever its settings are called."""

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.modules.declaration import Role
from inner_tone.core.modules.oscillator import MIDDLE_C_HZ
from inner_tone.core.modules.theory import CourseTheory, Stages
from inner_tone.core.patch.model import Module
from inner_tone.core.patch.port import Port


def pitch_of(module: Module) -> Port:
    """Return the input by which a source follows a pitch."""
    return Port.of(module.id, next(port.name for port in module.declaration.inputs if port.part == "pitch"))


def amount(module: Module, role: Role, otherwise: float = 0.0) -> float:
    """Return what a number that plays a role is set to, or something else where nothing does."""
    name = module.declaration.named(role)
    return module.number(name) if name else otherwise


def transposed(module: Module) -> float:
    """Return by how many semitones a source's settings move its pitch, apart from the pitch itself."""
    followed = {port.name for port in module.declaration.inputs}
    tunings = module.declaration.tunings.items()
    return sum(semitones * module.number(name) for name, semitones in tunings if name not in followed)


def frequency_hz(module: Module, pitch: Floats) -> Floats:
    """Return the frequencies in Hz that pitches in semitones from middle C have at a source, with nothing added."""
    ratio, offset = amount(module, "ratio", 1.0), amount(module, "offset")
    return np.asarray(MIDDLE_C_HZ * 2.0 ** ((pitch + transposed(module)) / 12.0) * ratio + offset)


def stages_of(module: Module) -> Stages:
    """Return the stages of a module that has such, as they are set."""
    theory = module.declaration.theory
    assert isinstance(theory, CourseTheory), module.type
    return theory.stages(module.all_settings)
