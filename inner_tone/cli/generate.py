"""`bin/generate`: writes what is derived from the declarations, or checks that it is current.

The page about the modules, and the JSON Schemas of the open formats.
"""

import json
import sys
from collections.abc import Iterator
from pathlib import Path

from inner_tone.api.settings import PREFIX, Settings
from inner_tone.core.documents import Document
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.modules import MODULE_TYPES
from inner_tone.core.modules.declaration import ModuleType, Ruler
from inner_tone.core.patch.model import Patch
from inner_tone.core.phrase import Phrase
from inner_tone.core.units import with_unit
from inner_tone.formats.series import SeriesDocument

ROOT = Path(__file__).resolve().parents[2]

PAGE_HEAD = """# Modules

Every type of module, as it is declared in `inner_tone/core/modules`. Written by `bin/generate`; do not edit.
An input with a range has a base value, the setting of the same name; connections move it by their depth, in the
unit given.
"""

SETTINGS_HEAD = """# Settings

What an operator sets, in the environment. Written by `bin/generate` from `inner_tone/api/settings.py`; do not edit.
What is written wrongly is said at the start, with its name. `docs/operations.md` tells how to run the application.

| variable | by itself | |
|---|---|---|
"""


def modules_page() -> str:
    """Return docs/modules.md."""
    return PAGE_HEAD + "".join("".join(module_section(module)) for module in MODULE_TYPES)


def module_section(module: ModuleType) -> Iterator[str]:
    """Yield the section of the page about one module type."""
    yield f"\n## {module.name}\n\n**{module.summary}**\n\n{module.explanation}\n"
    if module.inputs:
        yield "\n| input | kind | range | moved in | |\n|---|---|---|---|---|\n"
    for port in module.inputs:
        scale = ruler_text(port.ruler) if port.ruler else ""
        yield f"| {port.name} | {port.kind} | {scale} | {port.depth_unit} | {port.help} |\n"
    if module.outputs:
        yield "\n| output | kind | |\n|---|---|---|\n"
    for output in module.outputs:
        yield f"| {output.name} | {output.kind} | {output.help} |\n"
    if module.settings:
        yield "\n| setting | values | |\n|---|---|---|\n"
    for number in module.numbers:
        yield f"| {number.name} | {ruler_text(number.ruler)} | {number.help} |\n"
    for row in module.rows.values():
        yield f"| {row.name} | up to {row.length} numbers, {ruler_text(row.ruler)} | {row.help} |\n"
    for choice in module.choices.values():
        options = ", ".join(f"**{one}**" if one == choice.default else str(one) for one in choice.options)
        yield f"| {choice.name} | {options} {choice.unit}".rstrip() + f" | {choice.help} |\n"


def ruler_text(ruler: Ruler) -> str:
    """Return a ruler's range and its default."""
    low, high = with_unit(ruler.low, ruler.unit), with_unit(ruler.high, ruler.unit)
    return f"{low} to {high}, **{with_unit(ruler.default, ruler.unit)}**"


def schema(model: type[Document]) -> str:
    """Return the JSON Schema of a document."""
    return json.dumps(model.model_json_schema(by_alias=True), indent=1, ensure_ascii=False) + "\n"


def settings_page() -> str:
    """Return docs/settings.md."""
    rows = [
        f"| `{PREFIX}{name.upper()}` | {default_text(field.default)} | {field.description} |\n"
        for name, field in Settings.model_fields.items()
    ]
    return SETTINGS_HEAD + "".join(rows)


def default_text(value: object) -> str:
    """Return what stands where nothing is set."""
    written = ",".join(value) if isinstance(value, tuple) else "" if value is None else f"{value}"
    return f"`{written}`" if written else ""


def derived() -> dict[Path, str]:
    """Return every file that is derived, with what should stand in it."""
    return {
        ROOT / "docs/modules.md": modules_page(),
        ROOT / "docs/settings.md": settings_page(),
        ROOT / "docs/schemas/patch.schema.json": schema(Patch),
        ROOT / "docs/schemas/phrase.schema.json": schema(Phrase),
        ROOT / "docs/schemas/lesson.schema.json": schema(LessonDocument),
        ROOT / "docs/schemas/series.schema.json": schema(SeriesDocument),
    }


def stale() -> list[Path]:
    """Return the files that are not current."""
    return [file for file, text in derived().items() if not file.exists() or file.read_text() != text]


def main() -> int:
    """Write what is stale."""
    for file in stale():
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_text(derived()[file])
        print(file.relative_to(ROOT))
    return 0


if __name__ == "__main__":
    sys.exit(main())
