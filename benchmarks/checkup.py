"""What the checkup costs beside the render that it looks at, and how long edits take."""

import json
import random
import statistics
from functools import partial
from pathlib import Path

from benchmarks.timing import beside, best_of
from inner_tone.core.checkup import Checkup, checkup, jumps_of, taps_for
from inner_tone.core.engine.render import Render, render
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.placements import placements
from inner_tone.core.patch.validate import read_patch
from inner_tone.core.phrase import Phrase, read_phrase
from tests.support.edits import patch_of, random_edits, tried
from tests.support.figures import record

EXAMPLES = Path(__file__).resolve().parents[1] / "docs" / "examples"


def main() -> None:
    """Print the tables."""
    print("The checkup beside the render of each example, in ms")
    shares = [share_of(file) for file in sorted(EXAMPLES.glob("*.patch.json"))]
    middle, most = statistics.median(shares), max(shares)
    print(f"  its share: median {middle:.1%}, at most {most:.1%}")
    record(
        "Speed", "the checkup beside the render that it looks at", "under 10 %", f"median {middle:.1%}, most {most:.1%}"
    )
    edits()


def share_of(file: Path) -> float:
    """Return what part of a render's time its checkup takes more, what it keeps and looks at together."""
    patch = read_patch(json.loads(file.read_text()))
    phrase = read_phrase(json.loads(file.with_name(file.name.replace(".patch.", ".phrase.")).read_text()))
    done = render(patch, phrase, taps=taps_for(patch))
    looked = partial(look, patch, phrase, done)
    rendering, looking = beside(partial(render, patch, phrase), looked)
    print(f"  {file.name.partition('.')[0]}: {1000 * rendering:.0f} and {1000 * looking:.1f}")
    return looking / rendering


def look(patch: Patch, phrase: Phrase, done: Render) -> Checkup:
    """Do what the checkup does."""
    return checkup(patch, phrase, done, jumps_of(patch, phrase, done))


def edits() -> None:
    """An edit of a large patch, and all the places that the palette offers."""
    patch = patch_of(40, 3)
    dice = random.Random(1)
    move = random_edits(patch, dice, 40)
    print(f"An edit of 40 modules: {1000 * best_of(20, partial(tried, patch, move)):.1f} ms")
    print(f"All placements in it: {1000 * best_of(20, partial(placements, Graph(patch), None)):.1f} ms")
