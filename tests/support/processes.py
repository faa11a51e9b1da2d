"""Processes and those that came from them, as the system lists them."""

import os
from pathlib import Path


def family(root: int) -> list[int]:
    """Return a process and all that came from it and run."""
    parents: dict[int, list[int]] = {}
    for name in os.listdir("/proc"):
        if name.isdigit() and (found := state_of(int(name))) and found[0] != "Z":
            parents.setdefault(found[1], []).append(int(name))
    found_all, waiting = [], [root]
    while waiting:
        one = waiting.pop()
        found_all.append(one)
        waiting += parents.get(one, [])
    return found_all


def runs(process: int) -> bool:
    """Tell whether a process is there and has not ended."""
    found = state_of(process)
    return found is not None and found[0] != "Z"


def state_of(process: int) -> tuple[str, int] | None:
    """Return the state of a process and its parent, if it is there."""
    try:
        stat = Path(f"/proc/{process}/stat").read_text(encoding="utf-8", errors="replace")
    except OSError:
        return None
    state, parent = stat.rpartition(")")[2].split()[:2]
    return state, int(parent)
