"""Lessons as texts: what is said and what is built stand in the order in which they are taught.

A source begins with `title:`, `summary:` and `target:` (what the lesson is heading for), and `start:` if it goes on
from the end of another. Each step has a heading; what follows is its text, with what to listen for behind `> `. What
is built and set stands in blocks:

    ```patch              changes of the patch (see `core/patch/notation.py`)
    ```phrase "Name" tempo=96 beats=8
                          notes (start, length, note, velocity), movements (wheel 0:0 4:1), `with reeds level=-6`
    ```lenses             a lens a line: wave amp.out cycles=0; and: against before, moment note 2
    ```marks              1 bell: drinks the highs · - breath.out -> amp.level: opens · 2 spectrum bell.out 385: last
    ```plate wave amp.out cycles=0
                          behind: before · strip: bell.cutoff 100 400 1600 · moment: whole · its caption
    ```detour Far too slow
                          its text, then ---, then changes of the patch, and perhaps a phrase behind another ---
    ```done wiring        what counts as done: by sound, wiring, both, free; tolerance=2
    ```finds drone        what the checkup finds here, which is meant: the words of the text that speak of it
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from inner_tone.core.accompaniments import accompaniments
from inner_tone.core.errors import InnerToneError
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.step import StepContent
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.notation import notated, sentences, value_of
from inner_tone.core.phrase import Phrase
from inner_tone.core.units import midi_of_note

HEAD = re.compile(r"^(title|summary|target|start|series): (.+)$")
BLOCK = re.compile(r"^```(\w+) ?(.*)$")
OPTION = re.compile(r'(\w+)=("[^"]*"|\S+)')
LINE_MARK = re.compile(r"^(\S+) -> (\S+)$")


class SourceError(InnerToneError):
    """A source that cannot be read: which lesson and step, and what is wrong."""


@dataclass
class Source:
    """A lesson as it was read: its document, where it starts from, and what the checkup is meant to find in each step.

    For each step `meant` has the codes of findings with the words in the text that speak of them.
    """

    name: str
    document: LessonDocument
    start: str = ""
    meant: list[dict[str, str]] = field(default_factory=list)


@dataclass
class Said:
    """What is said of a step so far."""

    title: str
    extra: bool = False
    text: list[str] = field(default_factory=list)
    blocks: list[tuple[str, str, list[str]]] = field(default_factory=list)


def read_source(name: str, text: str, known: Mapping[str, Source]) -> Source:
    """Return the lesson that a text is; `known` are those that it may start from. Raises SourceError."""
    head, steps = parted(text)
    start = head.get("start", "")
    if start and start not in known:
        raise SourceError(f"{name} starts from “{start}”, which does not come before it.")
    begin = known[start].document.steps[-1] if start else None
    contents: list[StepContent] = []
    meant: list[dict[str, str]] = []
    for number, said in enumerate(steps, 1):
        try:
            before = contents[-1] if contents else begin
            content, found = step_of(said, before, head["title"])
        except (InnerToneError, KeyError, ValueError) as error:
            raise SourceError(f"{name}, step {number}, “{said.title}”: {error}") from error
        contents.append(content)
        meant.append(found)
    document = LessonDocument(
        title=head["title"],
        summary=head["summary"],
        target_first=True,
        target_note=head["target"],
        start=begin.patch if begin else None,
        steps=tuple(contents),
    )
    return Source(name, document, start, meant)


def parted(text: str) -> tuple[dict[str, str], list[Said]]:
    """Return what stands at the head of a source, and what is said of each step."""
    head: dict[str, str] = {}
    steps: list[Said] = []
    block: tuple[str, str, list[str]] | None = None
    for line in text.splitlines():
        if block is not None:
            if line.strip() == "```":
                steps[-1].blocks.append(block)
                block = None
            else:
                block[2].append(line)
        elif line.startswith("# "):
            title = line[2:].strip()
            steps.append(Said(title.removesuffix("{extra}").strip(), title.endswith("{extra}")))
        elif not steps:
            if found := HEAD.match(line):
                head[found[1]] = found[2].strip()
        elif opened := BLOCK.match(line):
            block = (opened[1], opened[2].strip(), [])
        else:
            steps[-1].text.append(line)
    return head, steps


def step_of(said: Said, before: StepContent | None, title: str) -> tuple[StepContent, dict[str, str]]:
    """Return a step, given the one before it, and what the checkup is meant to find in it."""
    patch = before.patch if before else Patch(title=title)
    phrase = before.phrase if before else Phrase()
    step: dict[str, Any] = {"title": said.title, "extra": said.extra, "lenses": lenses_before(before)}
    step |= texts_of(said.text)
    later: list[tuple[str, str, list[str]]] = []
    meant: dict[str, str] = {}
    for kind, given, lines in said.blocks:
        if kind == "patch":
            patch = notated("\n".join(lines), patch)
        elif kind == "phrase":
            phrase = phrase_of(given, lines, phrase)
        elif kind == "finds":
            meant |= {given: " ".join(lines).strip()}
        elif kind == "done":
            by, *options = given.split()
            step["aim"] = {"by": by} | options_in(" ".join(options))
        else:
            later.append((kind, given, lines))
    patch = patch.model_copy(update={"title": title})
    here = {"patch": patch, "phrase": phrase}
    plates: list[tuple[str, list[str]]] = []
    detours: list[dict[str, Any]] = []
    for kind, given, lines in later:
        if kind == "lenses":
            step |= lenses_of(lines)
        elif kind == "marks":
            step["marks"] = [mark_of(one) for one in lines if one.strip()]
        elif kind == "plate":
            plates.append((given, lines))
        elif kind == "detour":
            detours.append(detour_of(f"detour-{len(detours) + 1}", given, lines, patch, phrase))
        else:
            raise SourceError(f"nobody knows what “{kind}” is.")
    scenes = {one["name"]: one for one in detours} | (
        {"before": {"patch": before.patch, "phrase": before.phrase}} if before else {}
    )
    step["plates"] = [plate_of(n, given, lines, here, scenes) for n, (given, lines) in enumerate(plates, 1)]
    step |= {"patch": patch.to_json(), "phrase": dumped(phrase), "detours": [as_data(one) for one in detours]}
    return StepContent.model_validate(step), meant


def dumped(phrase: Phrase) -> dict[str, Any]:
    """Return a phrase as data."""
    return phrase.model_dump(mode="json", by_alias=True)


def as_data(detour: Mapping[str, Any]) -> dict[str, Any]:
    phrase = detour["phrase"]
    return {**detour, "patch": detour["patch"].to_json(), "phrase": dumped(phrase) if phrase else None}


def lenses_before(before: StepContent | None) -> Any:
    """Return the lenses that a step goes on with."""
    return before.lenses.model_dump(mode="json") if before and before.lenses else None


def texts_of(lines: list[str]) -> dict[str, str]:
    """Return the why and what to listen for."""
    heard = [line.removeprefix(">").strip() for line in lines if line.startswith(">")]
    rest = "\n".join(line for line in lines if not line.startswith(">")).strip()
    return {"why": joined(rest), "listen": " ".join(heard)}


def joined(text: str) -> str:
    """Return a text with its lines joined to paragraphs; lists keep their lines."""
    parts = re.split(r"\n\s*\n", text)
    return "\n\n".join(
        part if part.lstrip().startswith(("- ", "|")) else re.sub(r"\s*\n\s*", " ", part) for part in parts
    )


def options_in(text: str) -> dict[str, Any]:
    """Return what is said as name=value."""
    return {name: value_of(value) for name, value in OPTION.findall(text)}


def phrase_of(given: str, lines: list[str], before: Phrase) -> Phrase:
    """Return a phrase; with + before its name it is the one before with something new."""
    name = re.match(r'^(\+ ?)?(?:"([^"]*)")?', given)
    goes_on = bool(name and name[1])
    data: dict[str, Any] = dumped(before) if goes_on else {"notes": [], "gestures": [], "company": []}
    data |= options_in(given.partition('"')[2].partition('"')[2] if '"' in given else given)
    if name and name[2]:
        data["title"] = name[2]
    for said in sentences("\n".join(lines)):
        word, *rest = said.split()
        if word == "with":
            part = next(one for one in accompaniments() if one.id == rest[0])
            more = options_in(" ".join(rest[1:]))
            data["company"].append({**part.model_dump(mode="json", by_alias=True, exclude_none=True), **more})
        elif word == "alone":
            data["company"] = []
        elif ":" in (rest[0] if rest else ""):
            points = [[float(one) for one in pair.split(":")] for pair in rest]
            kept = [one for one in data["gestures"] if one["control"] != word]
            data["gestures"] = [*kept, {"control": word, "points": points}]
        else:
            start, length, note, *velocity = said.split()
            pitch = midi_of_note(note)
            if pitch is None:
                raise SourceError(f"“{note}” is no note.")
            one = {"start": float(start), "length": float(length), "pitch": pitch}
            data["notes"].append(one | ({"velocity": float(velocity[0])} if velocity else {}))
    return Phrase.model_validate(data)


def view_of(said: str) -> dict[str, Any]:
    """Return what a lens is set to: its kind, its taps, its settings."""
    kind, *rest = said.split()
    taps = [one for one in rest if "." in one and "=" not in one]
    settings = options_in(" ".join(one for one in rest if "=" in one))
    flags = {name: value == "yes" if value in ("yes", "no") else value for name, value in settings.items()}
    return {"kind": kind, "taps": taps, **flags}


def lenses_of(lines: list[str]) -> dict[str, Any]:
    """Return the lenses of a step, what stands behind them, and the moment that they look at."""
    found: dict[str, Any] = {"lenses": {"slots": []}}
    for said in sentences("\n".join(lines)):
        word, _, rest = said.partition(" ")
        if word == "against":
            found["lenses"]["against"] = rest
        elif word == "moment":
            found["moment"] = moment_of(rest)
        else:
            view = view_of(said)
            kind, taps = view.pop("kind"), view.pop("taps")
            found["lenses"]["slots"].append({"kind": kind, "taps": taps, "settings": view})
    return found


def moment_of(said: str) -> dict[str, Any]:
    """Return a moment: whole, a note by its number, or a stretch in seconds."""
    words = said.split()
    if words[0] == "whole":
        return {"kind": "whole"}
    if words[0] == "note":
        return {"kind": "note", "note": int(words[1])}
    return {"kind": "stretch", "begin_s": float(words[0]), "end_s": float(words[1])}


def mark_of(said: str) -> dict[str, Any]:
    """Return a mark: its number or none, its place, and its purpose."""
    place, _, purpose = said.strip().partition(": ")
    number, _, where = place.partition(" ")
    mark: dict[str, Any] = {"purpose": purpose.strip(), "at": place_of(where)}
    return mark | ({} if number == "-" else {"number": int(number)})


def place_of(where: str) -> dict[str, Any]:
    """Return the place of a mark."""
    if line := LINE_MARK.match(where):
        return {"kind": "line", "from": line[1], "to": line[2]}
    words = where.split()
    if words[0] == "beat":
        return {"kind": "moment", "beat": float(words[1])}
    if len(words) == 1:
        return {"kind": "module", "module": words[0]}
    lens, tap, x, *y = words
    return {"kind": "lens", "lens": lens, "tap": tap, "x": float(x)} | ({"y": float(y[0])} if y else {})


def plate_of(
    number: int, given: str, lines: list[str], here: Mapping[str, Any], scenes: Mapping[str, Any]
) -> dict[str, Any]:
    """Return a plate; `scenes` are what can stand behind it: what is before the step, and its detours."""
    recipe: dict[str, Any] = {"view": view_of(given), **here}
    caption = []
    for line in lines:
        word, _, rest = line.strip().partition(": ")
        if word == "behind":
            recipe["behind"] = behind_of(rest, scenes)
        elif word == "of":
            recipe |= {"patch": scenes[rest]["patch"], "phrase": scenes[rest]["phrase"] or here["phrase"]}
        elif word == "strip":
            where, *values = rest.split()
            module, _, name = where.partition(".")
            recipe["strip"] = {"module": module, "setting": name, "values": [value_of(one) for one in values]}
        elif word == "moment":
            recipe["moment"] = moment_of(rest)
        else:
            caption.append(line.strip())
    recipe |= {"patch": recipe["patch"].to_json(), "phrase": dumped(recipe["phrase"])}
    return {"id": f"plate-{number}", "caption": " ".join(caption).strip(), "recipe": recipe}


def behind_of(said: str, scenes: Mapping[str, Any]) -> dict[str, Any]:
    """Return what stands behind a plate: before, a detour by its name, a tap, the company or all together."""
    if said == "company":
        return {"legend": "the company", "company": "others"}
    if said == "together":
        return {"legend": "all together", "company": "together"}
    if said.startswith("tap "):
        _, tap, *words = said.split()
        return {"legend": " ".join(words) or "what goes in", "tap": tap}
    scene = scenes[said]
    legend = "the step before" if said == "before" else said
    phrase = scene["phrase"]
    return {"legend": legend, "patch": scene["patch"].to_json()} | ({"phrase": dumped(phrase)} if phrase else {})


def detour_of(identity: str, name: str, lines: list[str], patch: Patch, phrase: Phrase) -> dict[str, Any]:
    """Return a detour: its text, how its patch differs, and its phrase if it has one of its own."""
    note, *parts = "\n".join(["", *lines]).split("\n---\n")
    changed = notated(parts[0], patch) if parts else patch
    own = None
    if len(parts) > 1:
        given, *rest = parts[1].strip().splitlines()
        own = phrase_of(given, rest, phrase)
    return {"id": identity, "name": name, "note": joined(note.strip()), "patch": changed, "phrase": own}
