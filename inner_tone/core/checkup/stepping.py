"""Steps that stand still, gates that hide each other, and factors that multiply nothing."""

from collections.abc import Iterator

from inner_tone.core.checkup.finding import Finding, Remedy
from inner_tone.core.checkup.scene import STILL, Scene
from inner_tone.core.message import Message, Name, Number, Opening, say
from inner_tone.core.patch.edit import fresh_id
from inner_tone.core.patch.model import Connection, Module
from inner_tone.core.patch.moves import AddModule, Connect, Disconnect, Edit, Ends, MoveEnd, RemoveModules, SetValue
from inner_tone.core.patch.placements import DRIVER
from inner_tone.core.patch.port import Port


def steps_stand_still(scene: Scene) -> Iterator[Finding]:
    """Yield a finding for each row of steps that is heard and does not go on, or whose steps are all off."""
    for module in scene.patch.modules:
        if module.id in scene.heard and (found := stands_still(scene, module)):
            yield found


def stands_still(scene: Scene, module: Module) -> Finding | None:
    """Return the finding that steps do not go on, or open no gate though one is waited for."""
    row = module.declaration.named("gates")
    if not row:
        return None
    clock = Port.of(module.id, module.declaration.named("advance"))
    lines = scene.graph.coming(clock)
    if not lines:
        message = say("check.stands-undriven", module=Name(module.title))
        remedy = Remedy(say("check.connect-a-clock-to"), with_clock(scene, clock))
        return standing(module, clock.name, message, say("check.no-connection"), remedy)
    if not scene.moves(clock):
        source = scene.title(lines[0].source)
        message = say("check.stands-unmoved", module=Name(module.title), source=source)
        return standing(
            module, clock.name, message, say("check.no-pulse"), Remedy(say("check.let-move", source=source))
        )
    waited_for = [line for line in scene.graph.leaving(module.id) if scene.graph.output_at(line.source).kind == "gate"]
    gates = module.row(row)
    if waited_for and not any(gate >= 0.5 for gate in gates):
        message = say("check.all-steps-of-are", module=Name(module.title))
        edit = SetValue(module=module.id, setting=row, value=(1.0,) * len(gates))
        return standing(
            module,
            row,
            message,
            say("check.steps-on", gates=len(gates)),
            Remedy(say("check.switch-all-its-steps"), (edit,)),
        )
    return None


def standing(module: Module, port: str, message: Message, measured: Message, remedy: Remedy) -> Finding:
    """Return the finding that steps stand still."""
    why = say("check.a-row-of-steps")
    return Finding("stands-still", module.id, port, message, measured, why, remedy)


def with_clock(scene: Scene, target: Port) -> tuple[Edit, ...]:
    """Return the edits that drive an input by the patch's clock, or by a new one."""
    present = scene.graph.first_of(DRIVER)
    clock = present or Module(id=fresh_id(scene.graph.modules, DRIVER), type=DRIVER)
    line = Connect(line=Connection(source=clock.main, target=target))
    return (line,) if present else (AddModule(module=clock), line)


def masked_gates(scene: Scene) -> Iterator[Finding]:
    """Yield a finding for each gate that two drivers hold open at once: then what the second opens is not heard."""
    for module in scene.patch.modules:
        for declared in module.declaration.inputs:
            port = Port.of(module.id, declared.name)
            lines = [line for line in scene.graph.coming(port) if line.depth > 0.0 and scene.moves(line.source)]
            whole = scene.measure(port)
            if declared.kind != "gate" or len(lines) < 2 or whole is None or not opens_for_long(lines):
                continue
            tops = [line.depth * scene.peak(line.source) for line in lines]
            if whole.greatest < max(tops) + 0.5 * min(tops):
                continue  # one closes before the other opens
            first, second = scene.port_title(lines[0].source), scene.port_title(lines[1].source)
            yield Finding(
                "masked-gate",
                module.id,
                port.name,
                say(
                    "check.and-hold-the-of",
                    first=Opening(first),
                    second=second,
                    port=port.name,
                    module=Name(module.title),
                ),
                say("check.drivers-up-to-at", lines=len(lines), greatest=Number(whole.greatest, 2)),
                say("check.while-one-holds-it"),
                Remedy(
                    say("check.let-one-of-them", module=Name(module.title), second=second),
                    (Disconnect(line=Ends.of(lines[1])),),
                ),
            )


def opens_for_long(lines: list[Connection]) -> bool:
    """Tell whether any of several drivers keeps a gate open, rather than striking it for a single sample."""
    return any(line.source.name != "strike" for line in lines)


def lone_factors(scene: Scene) -> Iterator[Finding]:
    """Yield a finding for each product of which only one factor is connected, and that stands still at 1."""
    for module in scene.patch.modules:
        factors = [way for way in module.declaration.ways if way.effect == "multiplies" and way.ruler]
        connected = [way for way in factors if scene.graph.coming(Port.of(module.id, way.name))]
        if module.id not in scene.heard or len(factors) < 2 or len(connected) > 1 or not multiplies(module):
            continue
        if not connected:
            yield from no_factor(scene, module, factors[0].name)
            continue
        free = next(way for way in factors if way not in connected)
        if abs(module.number(free.name) - 1.0) <= STILL:
            yield from lone_factor(scene, module, connected[0].name, free.name)


def no_factor(scene: Scene, module: Module, first: str) -> Iterator[Finding]:
    """Yield the finding that nothing at all comes into a product, which then stands still."""
    if scene.graph.into(module.id):
        return
    message = say("check.multiplies-nothing-nothing-comes", module=Name(module.title))
    why = say("check.what-looks-like-a")
    words = say("check.connect-its-factors-or", module=Name(module.title))
    remedy = Remedy(words, (RemoveModules(modules=(module.id,)),), say("check.take-out", module=Name(module.title)))
    yield Finding("lone-factor", module.id, first, message, say("check.no-connection"), why, remedy)


def multiplies(module: Module) -> bool:
    """Tell whether a module's factors are multiplied with each other as it is set."""
    choice = module.declaration.choices.get(module.declaration.named("operation"))
    return choice is None or module.all_settings[choice.name] == choice.default


def lone_factor(scene: Scene, module: Module, connected: str, free: str) -> Iterator[Finding]:
    """Yield the finding that a product has one factor, unless it is used to add; a hand's control is meant to weigh."""
    name = scene.port_title(scene.graph.coming(Port.of(module.id, connected))[0].source)
    terms = [Port.of(module.id, one.name) for one in module.declaration.inputs if not one.goes_through]
    added = [line for term in terms for line in scene.graph.coming(term)]
    by_hand = [line for line in added if scene.graph.declared(line.source.module).family == "play"]
    why = say("check.a-product-with-one")
    measured = say("check.at-no-connection", free=free)
    if by_hand:
        line = by_hand[0]
        other = scene.port_title(line.source)
        message = say("check.adds-to-and-multiplies", module=Name(module.title), other=other, name=name, free=free)
        to = Ends(source=line.source, target=Port.of(module.id, free))
        remedy = Remedy(say("check.lead-into", other=other, free=free), (MoveEnd(line=Ends.of(line), to=to),))
        yield Finding("lone-factor", module.id, line.target.name, message, measured, why, remedy)
    elif not added and not any(module.number(term.name) for term in terms):
        message = say("check.multiplies-by-nothing-its", module=Name(module.title), name=name, free=free)
        out = RemoveModules(modules=(module.id,))
        words = say("check.connect-the-second-factor", free=free, module=Name(module.title))
        remedy = Remedy(words, (out,), say("check.take-out", module=Name(module.title)))
        yield Finding("lone-factor", module.id, free, message, measured, why, remedy)
