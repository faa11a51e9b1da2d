"""What is pure in the pages, called from here: the modules as they are, bundled once and run by Node."""

import functools
import json
import subprocess
from collections.abc import Iterable
from pathlib import Path
from tempfile import mkdtemp
from typing import Any

ROOT = Path(__file__).resolve().parents[2]
MAIN = """
import { text } from "node:stream/consumers";
const { answer } = await import(process.argv[1]);
process.stdout.write(await answer(await text(process.stdin)));
"""
TRIED = ROOT / "tests" / "pages" / "tried.ts"


@functools.cache
def bundle() -> Path:
    """Return the modules as one file that Node can read."""
    file = Path(mkdtemp()) / "tried.mjs"
    rolldown = ROOT / "web" / "node_modules" / ".bin" / "rolldown"
    wish: list[str | Path] = [rolldown, TRIED, "--platform", "node", "--format", "esm", "--file", file]
    subprocess.run(wish, check=True, capture_output=True, cwd=ROOT / "web")
    return file


def in_pages(name: str, cases: Iterable[Iterable[object]]) -> list[Any]:
    """Return what a function of the pages answers for each list of arguments."""
    wish = json.dumps({"name": name, "cases": [list(case) for case in cases]})
    node: list[str | Path] = ["node", "--input-type=module", "-e", MAIN, bundle()]
    done = subprocess.run(node, check=False, input=wish, capture_output=True, text=True, timeout=300)
    assert done.returncode == 0, done.stderr
    return list(json.loads(done.stdout))
