"""Live fields in a step's text: {the cutoff of Bell mouth} reads 420 Hz, and follows the patch.

A field is written as people would say it, within braces. It names a setting of a module by the module's name, something
of the phrase, or, with “measured”, something that is found in the sound of a module. In the same way a text links to
what belongs to its step: {picture 1}, {the detour Far too slow}, {the module Bell mouth}, {mark 1}.
"""

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import partial
from typing import Literal

import numpy as np

from inner_tone.core.analysis.excerpt import Excerpt
from inner_tone.core.analysis.loudness import loudness_lufs
from inner_tone.core.analysis.sentences.level import shortest
from inner_tone.core.analysis.sentences.words import note_text, pitch_text, time_text
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.lens.moment import span_of
from inner_tone.core.lesson.mark import is_there
from inner_tone.core.lesson.step import StepContent
from inner_tone.core.message import LOWEST_NOTE_HZ
from inner_tone.core.modules.declaration import spoken
from inner_tone.core.patch.instructions import called, value_text
from inner_tone.core.patch.model import Module, Patch
from inner_tone.core.patch.port import Port
from inner_tone.core.phrase import Phrase
from inner_tone.core.units import decibels, midi_of, note_name, trimmed

FIELD = re.compile(r"\{([^{}\n]{1,160})\}")
CODE = re.compile(r"```.*?(?:```|\Z)|`[^`\n]*`", re.DOTALL)  # what is shown as it is written
SETTING = re.compile(r"the (?P<what>.+?) of (?P<whose>.+)")
MEASURED = "measured "
NOTE = "note of the "
MARK = re.compile(r"mark (?P<number>[1-9]\d?)")
PICTURE = re.compile(r"picture (?P<number>[1-9]\d{0,2})")
LINK = re.compile(r"the (?P<kind>detour|module) (?P<name>.+)")


def pitch_of(seen: Excerpt) -> str | None:
    """Return a sound's pitch in words, if it has one."""
    return pitch_text(seen.fundamental_hz) if seen.has_pitch and seen.fundamental_hz else None


def peak_of(seen: Excerpt) -> str | None:
    """Return a sound's peak in dB."""
    return f"{trimmed(decibels(seen.peak))} dB"


def loudness_of(seen: Excerpt) -> str | None:
    """Return a sound's loudness in LUFS."""
    return f"{trimmed(loudness_lufs(seen.signal[np.newaxis], seen.rate))} LUFS"


def attack_of(seen: Excerpt) -> str | None:
    """Return the time of a sound's attack, if it has one that can be told."""
    found = seen.stages if not seen.beating else None
    if found is None or found.attack_s is None or found.wavers or found.attack_s < shortest(found):
        return None
    return time_text(found.attack_s)


def release_of(seen: Excerpt) -> str | None:
    """Return the time of a sound's release, if it ends."""
    found = seen.stages
    return time_text(found.release_s) if found and found.release_s is not None else None


MEASURES: dict[str, Callable[[Excerpt], str | None]] = {
    "pitch": pitch_of,
    "peak": peak_of,
    "loudness": loudness_of,
    "attack": attack_of,
    "release": release_of,
}


def fields_in(text: str) -> list[str]:
    """Return the fields of a text, each once, in their order; braces in code are code."""
    return list(dict.fromkeys(match.strip() for match in FIELD.findall(CODE.sub("", text))))


def module_named(patch: Patch, name: str) -> Module | None:
    """Return the only module of a patch that is called by a name, however its letters are written."""
    found = [module for module in patch.modules if module.title.casefold() == name.strip().casefold()]
    return found[0] if len(found) == 1 else None


def tap_of(field: str, patch: Patch) -> str | None:
    """Return the tap that a field has to be measured at, if it is one that is measured."""
    match = SETTING.fullmatch(field)
    if match is None or not match["what"].startswith(MEASURED):
        return None
    module = module_named(patch, match["whose"])
    main = module.declaration.main if module else None
    return Port.of(module.id, main.name) if module and main else None


def value_of(field: str, step: StepContent, sounds: Mapping[str, Sound]) -> str | None:
    """Return what a field of a step reads, or None if there is nothing that it could mean.

    `sounds` are those of the taps that `tap_of` names; they are measured at the step's moment.
    """
    if field in PHRASE:
        return PHRASE[field](step.phrase)
    if field.startswith(f"the {NOTE}"):
        return note_at(f"the {field.removeprefix(f'the {NOTE}')}", step.patch)
    match = SETTING.fullmatch(field)
    module = module_named(step.patch, match["whose"]) if match else None
    if match is None or module is None:
        return None
    what = match["what"]
    if what.startswith(MEASURED):
        measure, tap = MEASURES.get(what.removeprefix(MEASURED)), tap_of(field, step.patch)
        if measure is None or tap is None or tap not in sounds:
            return None
        span = span_of(step.moment, step.phrase)
        return measure(sounds[tap].excerpt(span.begin_s, span.end_s))
    names = {say(one): one for say in (str, spoken, partial(called, module)) for one in module.all_settings}
    return value_text(module, names[what], module.all_settings[names[what]]) if what in names else None


def note_at(field: str, patch: Patch) -> str | None:
    """Return the note at which a setting's frequency lies, if the field names one that is a frequency."""
    match = SETTING.fullmatch(field)
    module = module_named(patch, match["whose"]) if match else None
    if match is None or module is None:
        return None
    name = next((one for one in frequencies(module) if match["what"] in (spoken(one), called(module, one))), None)
    value = module.number(name) if name else 0.0
    return note_text(midi_of(value)) if value >= LOWEST_NOTE_HZ else None


def frequencies(module: Module) -> list[str]:
    """Return the settings of a module that are frequencies."""
    rulers = module.declaration.rulers
    return [one for one in module.all_settings if one in rulers and rulers[one].unit == "Hz" and rulers[one].low >= 0]


def meaningless(step: StepContent, sounds_of: Callable[[set[str]], Mapping[str, Sound]]) -> list[str]:
    """Return the fields and links of a step's texts that mean nothing; `sounds_of` returns the sounds of taps."""
    used = list(dict.fromkeys(field for text in texts_of(step) for field in fields_in(text)))
    taps = {tap for field in used if (tap := tap_of(field, step.patch))}
    sounds = sounds_of(taps) if taps else {}
    return [field for field in used if link_of(field, step) is None and value_of(field, step, sounds) is None]


def texts_of(step: StepContent) -> list[str]:
    """Return the texts of a step that can have fields."""
    return [step.why, step.listen]


@dataclass(frozen=True)
class Link:
    """What a link in a text leads to: a plate, a detour or a module by its id, a mark by its number; how it reads."""

    kind: Literal["plate", "detour", "module", "mark"]
    id: str
    text: str


def link_of(field: str, step: StepContent) -> Link | None:
    """Return what a field leads to, if it is a link: {picture 1}, {the detour Far too slow}, {the module Reed}."""
    number = PICTURE.fullmatch(field)
    if number and int(number["number"]) <= len(step.plates):
        return Link("plate", step.plates[int(number["number"]) - 1].id, f"picture {number['number']}")
    marked = MARK.fullmatch(field)
    if marked:
        there = any(is_there(one, step.patch, step.phrase) for one in step.marks if one.number == int(marked["number"]))
        return Link("mark", marked["number"], marked["number"]) if there else None
    named = LINK.fullmatch(field)
    if named is None:
        return None
    if named["kind"] == "module":
        module = module_named(step.patch, named["name"])
        return Link("module", module.id, module.title) if module else None
    for detour in step.detours:
        if detour.name.casefold() == named["name"].casefold():
            return Link("detour", detour.id, f"the detour {detour.name}")
    return None


def links_offered(step: StepContent) -> list[str]:
    """Return the links that a step's texts can have."""
    pictures = [f"picture {number}" for number in range(1, len(step.plates) + 1)]
    numbers = sorted(one.number for one in step.marks if one.number and is_there(one, step.patch, step.phrase))
    marks = [f"mark {number}" for number in numbers]
    modules = [one.title for one in step.patch.modules if module_named(step.patch, one.title)]
    return [
        *marks,
        *pictures,
        *(f"the detour {one.name}" for one in step.detours),
        *(f"the module {one}" for one in modules),
    ]


def notes_of(phrase: Phrase) -> str | None:
    """Return the notes of a phrase from low to high, if it has any."""
    pitches = sorted({note.pitch for note in phrase.notes})
    return ", ".join(note_name(pitch) for pitch in pitches) or None


PHRASE: dict[str, Callable[[Phrase], str | None]] = {
    "the tempo": lambda phrase: f"{trimmed(phrase.tempo)} beats a minute",
    "the beats": lambda phrase: trimmed(phrase.beats),
    "the notes": notes_of,
}


def offered(patch: Patch) -> list[str]:
    """Return the fields that a text about a patch can have: settings by their module, what is measured, the phrase."""
    found: list[str] = []
    for module in patch.modules:
        if module_named(patch, module.title) is None:
            continue
        found += [f"the {called(module, one)} of {module.title}" for one in module.all_settings]
        found += [f"the {NOTE}{called(module, one)} of {module.title}" for one in frequencies(module)]
        if module.declaration.main:
            found += [f"the {MEASURED}{measure} of {module.title}" for measure in MEASURES]
    return [*found, *PHRASE]
