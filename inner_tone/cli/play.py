"""Plays events on a patch: the live engine, without clock or network."""

from pathlib import Path
from typing import Any

import numpy as np

from inner_tone.cli.documents import json_file, named, patch_file
from inner_tone.core.arrays import Floats
from inner_tone.core.engine.recorder import MOST_AT_ONCE
from inner_tone.core.engine.render import RATE, SILENCE, SILENCE_SECONDS, TAIL_SECONDS
from inner_tone.core.errors import DocumentError, InnerToneError, Problem, TapError, did_you_mean
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.port import Port
from inner_tone.formats.audio import write_wav
from inner_tone.live.messages import Happening, read_message
from inner_tone.live.session import Session


def play_files(patch_path: Path, events_path: Path, out: Path, taps: dict[str, Path], block: int, tempo: float) -> None:
    """Write what is heard in stereo and each tap in mono; raises InnerToneError or OSError."""
    if not 1 <= block <= MOST_AT_ONCE:
        raise InnerToneError(f"--block: {block} is not possible: from 1 to {MOST_AT_ONCE} samples can be asked for.")
    patch, data = patch_file(patch_path), json_file(events_path)
    try:
        events = events_in(data)
        heard, kept = played(patch, events, list(taps), block, tempo)
    except InnerToneError as error:
        raise named(events_path, error) from error
    write_wav(out, heard.T, RATE)
    for tap, path in taps.items():
        write_wav(path, kept[tap], RATE)


def events_in(data: Any) -> list[Happening]:
    """Return JSON data as events: a list, or an object whose `events` is one; raises DocumentError."""
    listed = data.get("events") if isinstance(data, dict) else data
    if not isinstance(listed, list):
        raise DocumentError([Problem("", "This is no list of events.", "Begin it with [.")])
    return [read_message(one, f"events[{number}]") for number, one in enumerate(listed)]


def played(
    patch: Patch, events: list[Happening], taps: list[str], block: int, tempo: float
) -> tuple[np.ndarray[tuple[int, ...], np.dtype[np.float32]], dict[str, Floats]]:
    """Return what is heard, shape (2, samples), and each tap, until all is silent after the last event.

    Raises TapError for a tap that the patch does not have, and InnerToneError for an event that is not possible.
    """
    graph = Graph(patch)
    for tap in taps:
        if not graph.has(Port(tap)):
            known = [port for port, _ in (*graph.outputs(), *graph.inputs())]
            raise TapError(f"There is nothing called “{tap}” to listen to. {did_you_mean(tap, known)}")
    session = Session(patch, tempo=tempo, taps=taps)
    for event in events:
        session.send(event)
    last = max((round((event.at_s or 0.0) * session.rate) for event in events), default=0)
    heard: list[Any] = []
    kept: dict[str, list[Floats]] = {tap: [] for tap in taps}

    def give(length: int) -> float:
        done, loudest = 0, 0.0
        while done < length:
            step = min(block, length - done)
            heard.append(session.pull(step))
            loudest = max(loudest, float(np.max(np.abs(heard[-1]))))
            for tap, signal in session.signals(taps, step).items():
                kept[tap].append(signal)
            done += step
        if session.problems:
            raise session.problems[0][1]
        return loudest

    give(last)
    step, left = round(SILENCE_SECONDS * session.rate), round(TAIL_SECONDS * session.rate)
    while left > 0:
        loudest = give(min(step, left))
        left -= step
        if loudest < SILENCE:
            break
    return np.concatenate(heard, axis=1), {tap: np.concatenate(parts) for tap, parts in kept.items()}
