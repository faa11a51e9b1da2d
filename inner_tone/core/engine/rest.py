"""Which outputs come to rest when the keys are up: then a voice that has died away can sleep until its next note.

A voice may sleep only if nothing but a key can make it sound again. An LFO that opens an amplifier now and then keeps
it awake, and so does a filter that may sing by itself.
"""

from inner_tone.core.engine.wiring import voiced_modules
from inner_tone.core.modules import LEVER, PLAYER
from inner_tone.core.modules.declaration import ModuleType
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Module
from inner_tone.core.patch.port import Port

RESTLESS = {"own-time", "random", "source"}
SINGING = 0.99


def comes_to_rest(graph: Graph) -> bool:
    """Tell whether everything that leads from the voices to what they share stands still when the keys are up."""
    return Rest(graph).of_all()


class Rest:
    """What is known of the outputs of a patch; what is being looked at counts as restless, so loops are."""

    def __init__(self, graph: Graph) -> None:
        self.graph = graph
        self.voiced = voiced_modules(graph)
        self.known: dict[Port, bool] = {}

    def of_all(self) -> bool:
        """Tell whether all that enters a module which exists for all voices together comes to rest."""
        return all(
            self.rests(port)
            for line in self.graph.patch.connections
            if line.target.module not in self.voiced
            for port in line.read
            if port.module in self.voiced
        )

    def rests(self, port: Port) -> bool:
        """Tell whether an output stays at one value from some time on after the keys are up."""
        if port not in self.known:
            self.known[port] = False
            self.known[port] = self.found(port)
        return self.known[port]

    def found(self, port: Port) -> bool:
        """Find out whether an output comes to rest."""
        module = self.graph.module(port)
        declared = module.declaration
        if module.type == PLAYER:
            return not self.graph.output_at(port).for_all  # the wheels move without a key
        if module.type == LEVER:
            return False
        if declared.opens:
            return self.is_shut(module, declared) or self.all_rest(module, declared)
        if "gate" in declared.inputs_by_name and "source" not in declared.traits:
            return self.inputs_rest(module, [port.name for port in declared.inputs if port.kind == "gate"])
        return not RESTLESS & declared.traits and not self.may_sing(module) and self.all_rest(module, declared)

    def may_sing(self, module: Module) -> bool:
        """Tell whether a module may sound by itself: with so much resonance, or with something that steers it."""
        if "sings" not in module.declaration.traits:
            return False
        ring = module.declaration.named("ring")
        return module.number(ring) >= SINGING or bool(self.graph.coming(Port.of(module.id, ring)))

    def is_shut(self, module: Module, declared: ModuleType) -> bool:
        """Tell whether what opens a module comes to rest at nothing: with no level of its own."""
        return module.number(declared.opens) == 0.0 and self.inputs_rest(module, [declared.opens])

    def all_rest(self, module: Module, declared: ModuleType) -> bool:
        """Tell whether everything that enters a module comes to rest."""
        return self.inputs_rest(module, [port.name for port in declared.inputs])

    def inputs_rest(self, module: Module, names: list[str]) -> bool:
        """Tell whether everything that enters some inputs comes to rest."""
        lines = [line for name in names for line in self.graph.coming(Port.of(module.id, name))]
        return all(self.rests(port) for line in lines for port in line.read)
