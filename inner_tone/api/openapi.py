"""Writes the description of the HTTP interface, from which the interface's types are made."""

import json
import sys
from pathlib import Path

from inner_tone.api.app import create_app


def main() -> None:
    """Write OpenAPI to the file named on the command line, only if it has changed."""
    file = Path(sys.argv[1])
    text = json.dumps(create_app().openapi(), indent=1, ensure_ascii=False) + "\n"
    if not file.exists() or file.read_text() != text:
        file.write_text(text)


if __name__ == "__main__":
    main()
