"""Figures that the tests measure, collected for docs/accuracy.md (written by `python -m tests.accuracy`)."""

import json
from pathlib import Path

FOLDER = Path(__file__).resolve().parents[2] / "var" / "figures"


def record(subject: str, figure: str, asked: str, measured: str) -> None:
    """Note a figure, what is asked of it, and what was measured."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    name = "".join(letter if letter.isalnum() else "-" for letter in f"{subject}-{figure}")[:120]
    row = {"subject": subject, "figure": figure, "asked": asked, "measured": measured}
    (FOLDER / f"{name}.json").write_text(json.dumps(row, ensure_ascii=False))
