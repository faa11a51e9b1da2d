"""Compares one's own patch, or a recording, with a target; plays what an outside instrument would."""

from pathlib import Path
from typing import Any

from inner_tone.cli.documents import patch_file, phrase_file
from inner_tone.core import nearness
from inner_tone.core.advice import Advice
from inner_tone.core.analysis.compare import Comparison
from inner_tone.core.errors import InnerToneError
from inner_tone.core.outside import INSTRUMENTS, recorded
from inner_tone.core.patch.match import match
from inner_tone.formats.audio import read_sound, write_wav

LONGEST_SECONDS = 60.0
RATE = 48_000.0


def matched(mine: Path, target: Path, phrase: Path) -> dict[str, Any]:
    """Return how a patch stands to a target, wiring and sound, as JSON data; raises InnerToneError, OSError."""
    own, wanted, played = patch_file(mine), patch_file(target), phrase_file(phrase)
    wiring = match(own, wanted)
    goal = nearness.target_for(wanted, played)
    sound = nearness.render_compared(goal, own, played)
    advice = [] if sound.same else nearness.advice_for(goal, own, played)
    return {
        "wiring": {
            "same": wiring.same,
            "remaining": [{"kind": one.kind, "text": one.text} for one in wiring.by_importance],
        },
        "sound": {"same": sound.same, **figures(sound)},
        "advice": [said(one) for one in advice],
    }


def compared(target: Path, phrase: Path, recording: Path) -> dict[str, Any]:
    """Return how near a recording is to a target, as JSON data; raises InnerToneError, OSError."""
    wanted, played = patch_file(target), phrase_file(phrase)
    try:
        channels, rate = read_sound(recording.read_bytes(), LONGEST_SECONDS)
    except InnerToneError as error:
        raise InnerToneError(f"{recording}: {error}") from error
    found = nearness.recording_compared(wanted, played, channels, rate)
    told = found.same or found.cannot_tell is not None
    advice = [] if told else nearness.advice_for_recording(wanted, played, channels, rate)
    return {
        "same": found.same,
        "confidence": found.confidence,
        "cannot_tell": nearness.REASONS[found.cannot_tell] if found.cannot_tell else None,
        **figures(found),
        "advice": [said(one) for one in advice],
    }


def figures(found: Comparison) -> dict[str, float | None]:
    names = ("pitch_cents", "partials_db", "envelope_db", "spectrum_db")
    values = {name: getattr(found, name) for name in names}
    return {name: None if value is None else round(value, 3) for name, value in values.items()}


def said(one: Advice) -> dict[str, str]:
    """Return advice as JSON data."""
    return {"module": one.module, "setting": one.setting, "text": one.text}


def play_outside(name: str, patch: Path, phrase: Path, out: Path) -> None:
    """Write what an outside instrument gives of a patch; raises InnerToneError, OSError."""
    if name not in INSTRUMENTS:
        raise InnerToneError(f"There is no instrument “{name}”. There are {', '.join(INSTRUMENTS)}.")
    write_wav(out, recorded(name, patch_file(patch), phrase_file(phrase)).T, RATE)
