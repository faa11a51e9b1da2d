"""One's own patch, changed as little as it needs to come down to the same as a target that has its names."""

from typing import NamedTuple

from inner_tone.core.modules.declaration import Value
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Connection, Module, Patch
from inner_tone.core.patch.named import least_changed, same_settings
from inner_tone.core.patch.plain import Path, Plain, Way, alike, heard, plain, rounded, shifted, written
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.sections import pruned

Lines = dict[tuple[Port, Port], Connection]


class Graft(NamedTuple):
    """A connection with another end, and the ways that are settled by it."""

    line: Connection
    settled: list[Way]


class LostError(Exception):
    """No way was found to keep what one's own patch does otherwise."""


class Nearest:
    """One's own patch on its way to come down to the same as a target with its names, as little changed as it needs."""

    def __init__(self, mine: Patch, wanted: Patch, as_built: bool) -> None:
        self.mine = mine
        self.as_built = as_built
        self.own, self.wanted_form = plain(mine, as_built=as_built), plain(wanted, as_built=as_built)
        self.wanted = wanted
        self.kept = self.own.dissolved - set(wanted.by_id) | (self.own.dissolved & self.wanted_form.dissolved)

    def goal(self) -> Patch | None:
        """Return the nearest patch that comes down to the same as the target; None if none was found this way."""
        try:
            built = self.built()
        except LostError:
            return None
        form = plain(built, as_built=self.as_built)
        return built if equal(heard(form, self.as_built), heard(self.wanted_form, self.as_built)) else None

    def built(self) -> Patch:
        """Return one's own patch with what differs changed. Raises LostError."""
        own, form = self.own, self.wanted_form
        modules: list[Module] = []
        for module in self.mine.modules:
            if module.id in form.types:
                modules.append(self.settled(module))
            elif module.id in own.dissolved:
                modules.append(module)
        modules += [
            module for module in self.wanted.modules if module.id in form.types and module.id not in self.mine.by_id
        ]
        lines = {line.ends: line for line in self.mine.connections}
        going = [way for way in own.lines if way not in form.lines]
        coming = [way for way in form.lines if way not in own.lines]
        for at in (-1, 0):
            self.regraft(lines, going, coming, at)
        for way in going:
            for path in own.paths[way]:
                lines.pop(self.exclusive(path, way).ends, None)
        for way, wanted in form.lines.items():
            there = own.lines.get(way)
            if way in coming:
                new = self.direct(lines, way)
                lines[new.ends] = new.model_copy(update={"depth": wanted})
            elif there is not None and not alike(there, wanted):
                self.deepen(lines, way, there, wanted)
        fed = {line.target.module for line in lines.values()}
        modules = [module for module in modules if module.id in fed or module.id not in own.dissolved]
        present = {module.id for module in modules}
        kept = [line for line in lines.values() if present.issuperset({*line.modules, *(p.module for p in line.read)})]
        return pruned(
            self.mine.model_copy(
                update={"voices": self.wanted.voices, "modules": tuple(modules), "connections": tuple(kept)}
            )
        )

    def direct(self, lines: Lines, way: Way) -> Connection:
        """Return a connection that is a line of the plain form and has ends that are free. Raises LostError."""
        source, *scale = way.factors
        drawn = [one for one in self.wanted.connections if way_matches(one, way)]
        drawn.append(Connection(source=source, target=way.target, scaled_by=scale[0] if scale else None))
        if scale:
            drawn.append(Connection(source=scale[0], target=way.target, scaled_by=source))
        found = next((one for one in drawn if one.ends not in lines), None)
        if found is None:
            raise LostError
        return found

    def regraft(self, lines: Lines, going: list[Way], coming: list[Way], at: int) -> None:
        """Let a connection at an end of paths lead elsewhere, or come from elsewhere, where that is all that they need.

        So what stands behind a mixer of one's own, or before it, comes in or goes at once for all that it adds up. The
        ways that are settled thereby are taken out of those that go and come.
        """
        through: dict[tuple[Port, Port], list[Way]] = {}
        for way in self.own.lines:
            for path in self.own.paths[way]:
                if len(path) > 1:
                    through.setdefault(path[at].ends, []).append(way)
        for ends, users in through.items():
            whole = set(users) <= set(going) and all(len(self.own.paths[way]) == 1 for way in users)
            if ends not in lines or not whole:
                continue
            graft = next((one for way in coming if (one := self.graft(lines, ends, users, way, coming, at))), None)
            if graft is not None:
                del lines[ends]
                lines[graft.line.ends] = graft.line
                going[:] = [way for way in going if way not in users]
                coming[:] = [way for way in coming if way not in graft.settled]

    def graft(
        self, lines: Lines, ends: tuple[Port, Port], users: list[Way], way: Way, coming: list[Way], at: int
    ) -> Graft | None:
        """Return a connection with its end where a way that comes has it, if that settles all ways through it."""
        moved = [one._replace(target=way.target) if at else one._replace(factors=way.factors) for one in users]
        if not set(moved) <= set(coming) or len(set(moved)) < len(users) or (not at and len(way.factors) > 1):
            return None
        pairs = zip(moved, users, strict=True)
        ratios = {rounded(self.wanted_form.lines[new] / self.own.lines[old]) for new, old in pairs}
        if len(ratios) > 1:
            return None
        line = lines[ends]
        change = {"target": way.target} if at else {"source": way.factors[0], "scaled_by": None}
        depth = line.depth * float(ratios.pop())  # type: ignore[arg-type]
        new_line = line.model_copy(update={**change, "depth": depth})
        return None if new_line.ends in lines else Graft(new_line, moved)

    def exclusive(self, path: Path, way: Way) -> Connection:
        """Return a connection of a path that nothing else goes through; raises LostError."""
        for line in path:
            users = [
                one for one, paths in self.own.paths.items() if one in self.own.lines and any(line in p for p in paths)
            ]
            if all(one == way or one not in self.wanted_form.lines for one in users):
                return line
        raise LostError

    def deepen(self, lines: Lines, way: Way, there: float, wanted: float) -> None:
        """Give a line of the plain form another depth, by one of the connections of its path. Raises LostError."""
        paths = self.own.paths[way]
        direct = next((path[0] for path in paths if len(path) == 1), None)
        if direct is not None:
            lines[direct.ends] = direct.model_copy(update={"depth": direct.depth + wanted - there})
            return
        if len(paths) != 1:
            raise LostError
        line = self.exclusive(paths[0], way)
        lines[line.ends] = line.model_copy(update={"depth": line.depth * wanted / there})

    def settled(self, module: Module) -> Module:
        """Return a module of one's own with no more settings changed than it needs."""
        new = self.wanted.by_id[module.id]
        if new.type != module.type:
            return new.model_copy(update={"id": module.id, "label": module.label})
        goal = self.wanted_form.settings[module.id]
        if module.id in self.own.settings and same_settings(self.own.settings[module.id], goal):
            return module
        values = dict(new.all_settings)
        for name, value in values.items():
            amount = self.own.shifts.get(Port.of(module.id, name), 0.0)
            wanted = self.wanted_form.shifts.get(Port.of(module.id, name), 0.0)
            if (amount or wanted) and isinstance(value, int | float):
                law = module.declaration.inputs_by_name[name].law
                values[name] = shifted(law, shifted(law, float(value), wanted), -amount)
        settings = least_changed(module, values, lambda tried: self.comes_to(module, tried, goal))
        return module.model_copy(update={"settings": settings})

    def comes_to(self, module: Module, values: dict[str, Value], goal: dict[str, Value]) -> bool:
        """Tell whether settings of one's own module come down to those wanted."""
        moved = dict(values)
        for name, value in values.items():
            amount = self.own.shifts.get(Port.of(module.id, name), 0.0)
            if amount and isinstance(value, int | float):
                moved[name] = shifted(module.declaration.inputs_by_name[name].law, float(value), amount)
        counting = Graph(self.wanted.live).counting(self.wanted.by_id[module.id], moved)
        return same_settings(written(module, counting), goal)


def way_matches(line: Connection, way: Way) -> bool:
    """Tell whether a connection is a line of the plain form."""
    return line.target == way.target and tuple(sorted(line.read)) == way.factors


def equal(one: Plain, other: Plain) -> bool:
    """Tell whether two plain forms with the same names are the same."""
    if (one.voices, one.types) != (other.voices, other.types) or one.lines.keys() != other.lines.keys():
        return False
    if not all(alike(depth, other.lines[way]) for way, depth in one.lines.items()):
        return False
    return all(same_settings(values, other.settings[name]) for name, values in one.settings.items())
