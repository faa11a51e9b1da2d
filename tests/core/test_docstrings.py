"""What other files use says what it is for; what only its own file uses may leave that to its name."""

import ast
import unittest
from collections import defaultdict
from pathlib import Path

from tests.support.application import ROOT

SOURCES = sorted((ROOT / "inner_tone").rglob("*.py"))


def module_of(path: Path) -> str:
    return ".".join(path.relative_to(ROOT).with_suffix("").parts).removesuffix(".__init__")


class DocstringTest(unittest.TestCase):
    def test_functions_that_another_file_imports_have_one(self) -> None:
        trees = {module_of(path): ast.parse(path.read_text()) for path in SOURCES}
        used: dict[str, set[str]] = defaultdict(set)
        for tree in trees.values():
            for node in ast.walk(tree):
                if isinstance(node, ast.ImportFrom) and node.module in trees:
                    used[node.module] |= {one.name for one in node.names}
        bare = [
            f"{module}.{node.name}"
            for module, tree in trees.items()
            for node in tree.body
            if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef) and node.name in used[module]
            if ast.get_docstring(node) is None
        ]
        self.assertEqual(bare, [])
        self.assertGreater(sum(map(len, used.values())), 1000)


if __name__ == "__main__":
    unittest.main()
