"""The checkup: the computed diagnosis of a patch that has played a phrase."""

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field

from inner_tone.core.checkup import (
    aliasing,
    envelopes,
    excess,
    lasting,
    level,
    pitch,
    sides,
    silence,
    stepping,
    unheard,
    wiring,
)
from inner_tone.core.checkup.finding import Code, Finding, Remedy
from inner_tone.core.checkup.scene import Jump, Scene
from inner_tone.core.engine.render import Render, render
from inner_tone.core.message import Message
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Patch
from inner_tone.core.phrase import Phrase

__all__ = ["Checkup", "Code", "Finding", "Jump", "Remedy", "checkup", "examined", "jumps_of", "taps_for"]

LOOKS: tuple[Callable[[Scene], Iterator[Finding]], ...] = (
    lasting.runaway,
    excess.too_quiet,
    level.clipping,
    lasting.drone,
    lasting.sounds_unplayed,
    unheard.unheard,
    stepping.steps_stand_still,
    stepping.masked_gates,
    stepping.lone_factors,
    pitch.pitch_not_followed,
    pitch.out_of_tune,
    pitch.out_of_hearing,
    envelopes.cut_short,
    envelopes.release_mismatch,
    level.clicks,
    level.dc_offset,
    excess.driven_too_far,
    sides.one_sided,
    aliasing.aliasing,
    wiring.unmoving,
    wiring.goes_nowhere,
)


@dataclass(frozen=True)
class Checkup:
    """What was found, the most important first. For a silent patch, `reach` names the modules that still sound.

    `silences` says of each module that gives no sound why, in a few words.
    """

    findings: tuple[Finding, ...]
    reach: tuple[str, ...] = ()
    silences: Mapping[str, Message] = field(default_factory=dict)


def taps_for(patch: Patch) -> tuple[str, ...]:
    """Return the ports that a render must keep whole for a checkup of it."""
    return level.level_taps(Graph(patch.live))


def jumps_of(patch: Patch, phrase: Phrase, render: Render) -> dict[str, Jump]:
    """Return what has to be kept of the taps that `taps_for` names."""
    return level.jumps_of(Graph(patch.live), phrase, render)


def checkup(patch: Patch, phrase: Phrase, render: Render, jumps: Mapping[str, Jump]) -> Checkup:
    """Return what the checkup finds in a patch that has played a phrase.

    Parameters
    ----------
    patch, phrase
        What was played.
    render
        Its render.
    jumps
        What `jumps_of` has found; where it has not looked, there are no clicks.
    """
    scene = Scene(Graph(patch.live), phrase, render, jumps)
    lost = tuple(silence.silence(scene))
    if lost:
        return Checkup(lost, silence.reach(scene), silence.silences(scene))
    found = once(finding for look in LOOKS for finding in look(scene))
    return Checkup(found, silences=silence.silences(scene))


def once(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """Return findings without those whose place and code another one has named already."""
    found: dict[tuple[str, str, str], Finding] = {}
    for one in findings:
        found.setdefault((one.code, one.module, one.port), one)
    return tuple(found.values())


def examined(patch: Patch, phrase: Phrase) -> Checkup:
    """Render a phrase for the sake of the checkup alone."""
    done = render(patch, phrase, taps=taps_for(patch))
    return checkup(patch, phrase, done, jumps_of(patch, phrase, done))
