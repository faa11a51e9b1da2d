"""Writes what the interface is built from: the description of HTTP, for its types, and the rules that it needs."""

import json
import sys
from pathlib import Path

from inner_tone.api.app import create_app
from inner_tone.api.rules import rules


def main() -> None:
    """Write OpenAPI and the rules to the files named on the command line, each only if it has changed."""
    for name, data in zip(sys.argv[1:], (create_app().openapi(), rules()), strict=True):
        file, text = Path(name), json.dumps(data, indent=1, ensure_ascii=False) + "\n"
        if not file.exists() or file.read_text() != text:
            file.write_text(text)


if __name__ == "__main__":
    main()
