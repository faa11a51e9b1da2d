"""Measures a sound in a file."""

from pathlib import Path
from typing import Any

from inner_tone.core.analysis.measure import Measurement, measured
from inner_tone.core.errors import InnerToneError
from inner_tone.core.units import frequency_of, midi_of, midi_of_note, note_name
from inner_tone.formats.audio import read_wav


def measure_file(path: Path, note: str | None) -> dict[str, Any]:
    """Return what was measured of a WAV file, as JSON data; raises InnerToneError or OSError."""
    expected = midi_of_note(note) if note is not None else None
    if note is not None and expected is None:
        raise InnerToneError(f"--note: “{note}” is not the name of a note. Write it like A2, C#4 or Eb3.")
    channels, rate = read_wav(path)
    return shown(measured(channels, rate, frequency_of(expected) if expected is not None else None), expected)


def shown(found: Measurement, expected: float | None) -> dict[str, Any]:
    """Return a measurement as JSON data; the cents are those from the expected note, else from the nearest."""
    midi = midi_of(found.pitch_hz) if found.pitch_hz else None
    note = expected if expected is not None else round(midi) if midi is not None else None
    stages = found.stages
    return {
        "pitch_hz": found.pitch_hz,
        "note": note_name(note) if note is not None else None,
        "cents": 100.0 * (midi - note) if midi is not None and note is not None else None,
        "partials": [{"number": one.number, "hz": one.frequency_hz, "db": one.level_db} for one in found.partials],
        "loudness_lufs": found.loudness_lufs,
        "peak_db": found.peak_db,
        "rms_db": found.rms_db,
        "dc": found.dc,
        "envelope": {
            "attack_s": stages.attack_s if stages else None,
            "decay_s": stages.decay_s if stages else None,
            "sustain_db": stages.sustain_db if stages else None,
            "release_s": stages.release_s if stages else None,
        },
        "sentence": found.sentence,
        "facts": found.facts,
    }
