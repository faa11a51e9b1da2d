"""Renders into files."""

import sys
from pathlib import Path

from inner_tone.cli.documents import patch_file, phrase_file
from inner_tone.core.cost import cost_of, refuse_if_dear
from inner_tone.core.engine.render import RATES, render, unwatched
from inner_tone.core.errors import InnerToneError
from inner_tone.formats.audio import stereo, write_wav


def render_files(
    patch_path: Path, phrase_path: Path, out: Path, taps: dict[str, Path], rate: float, most: float | None
) -> None:
    """Write what is heard in stereo and each tap in mono; raises InnerToneError or OSError.

    What could take longer than `most` seconds of one core is refused beforehand, if that is given.
    """
    if rate not in RATES:
        possible = ", ".join(f"{one:.0f}" for one in RATES)
        raise InnerToneError(f"--rate: {rate:g} is not a rate that can be rendered. Possible: {possible}.")
    watch = show_progress if sys.stderr.isatty() else unwatched
    patch, phrase = patch_file(patch_path), phrase_file(phrase_path)
    if most is not None:
        refuse_if_dear(cost_of(patch, phrase, taps, rate), seconds=most)
    done = render(patch, phrase, taps=list(taps), rate=rate, watch=watch)
    write_wav(out, stereo(done), rate)
    for tap, path in taps.items():
        write_wav(path, done.taps[tap], rate)


def show_progress(part: float) -> None:
    """Write how much is done to the terminal, each time over the last."""
    print(f"\r{part:4.0%}", end="\r", file=sys.stderr, flush=True)
