"""What differs between two editions of a lesson, so that it can be read: steps, texts, instructions."""

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher
from typing import Literal

from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.step import StepContent
from inner_tone.core.patch.difference import difference
from inner_tone.core.patch.instructions import Instruction
from inner_tone.core.phrase import Phrase
from inner_tone.core.units import trimmed

Identified = Sequence[tuple[str, StepContent]]
# what is known by a key: how it is called, and what it is
Named = Mapping[str, tuple[str, object]]
PieceKind = Literal["same", "old", "new"]
StepKind = Literal["added", "removed", "changed", "moved"]

WORD = re.compile(r"\s+|\w+|[^\w\s]")
ELISION = 12  # words that stay on both sides of a change; what is farther away is left out


@dataclass(frozen=True)
class Piece:
    """A stretch of a text: in both, only in the old one, or only in the new one."""

    kind: PieceKind
    text: str


@dataclass(frozen=True)
class TextRevision:
    """A text that reads differently."""

    name: str
    pieces: tuple[Piece, ...]


@dataclass(frozen=True)
class StepRevision:
    """What has become of a step; places count from 0 and are missing where it does not stand.

    `instructions` lead from its old patch to its new one; `notes` say what else is different.
    """

    kind: StepKind
    title: str
    before: int | None
    after: int | None
    texts: tuple[TextRevision, ...] = ()
    instructions: tuple[Instruction, ...] = ()
    notes: tuple[str, ...] = ()


@dataclass(frozen=True)
class Revision:
    """What differs between two editions."""

    texts: tuple[TextRevision, ...]
    notes: tuple[str, ...]
    steps: tuple[StepRevision, ...]

    @property
    def is_empty(self) -> bool:
        """Whether nothing differs."""
        return not (self.texts or self.notes or self.steps)


def revision(old: LessonDocument, old_ids: Sequence[str], new: LessonDocument, new_ids: Sequence[str]) -> Revision:
    """Return what differs between two states of a lesson whose steps are known by their ids."""
    names = {"title": "Title", "summary": "Summary", "target_note": "Where it is heading"}
    texts = [changed_text(name, getattr(old, key), getattr(new, key)) for key, name in names.items()]
    notes = []
    if old.target_first != new.target_first:
        notes.append("It opens with its target now." if new.target_first else "It no longer opens with its target.")
    if old.start != new.start:
        notes.append("It starts from another patch.")
    before, after = (list(zip(*one, strict=True)) for one in ((old_ids, old.steps), (new_ids, new.steps)))
    steps = tuple(step_revisions(before, after))
    return Revision(tuple(one for one in texts if one), tuple(notes), steps)


def step_revisions(old: Identified, new: Identified) -> Iterator[StepRevision]:
    """Yield what has become of the steps, in the new order; those that are gone where they stood."""
    places_old = {identity: place for place, (identity, _) in enumerate(old)}
    places_new = {identity: place for place, (identity, _) in enumerate(new)}
    moved = out_of_order([identity for identity, _ in old], [identity for identity, _ in new])
    yield from gone(old, places_new, None)
    for place, (identity, step) in enumerate(new):
        if identity not in places_old:
            yield StepRevision("added", step.title, None, place)
        else:
            found = step_revision(old[places_old[identity]][1], step, places_old[identity], place, identity in moved)
            if found:
                yield found
        yield from gone(old, places_new, identity)


def gone(old: Identified, places_new: Mapping[str, int], behind: str | None) -> Iterator[StepRevision]:
    """Yield the steps that are no longer there and stood behind one that is, or before all of those."""
    here: str | None = None
    for place, (identity, step) in enumerate(old):
        if identity in places_new:
            here = identity
        elif here == behind:
            yield StepRevision("removed", step.title, place, None)


def out_of_order(old: Sequence[str], new: Sequence[str]) -> set[str]:
    """Return those of both lists that have to be moved to bring one into the order of the other."""
    common_old = [one for one in old if one in set(new)]
    common_new = [one for one in new if one in set(old)]
    matcher = SequenceMatcher(None, common_old, common_new, autojunk=False)
    kept = {one for block in matcher.get_matching_blocks() for one in common_old[block.a : block.a + block.size]}
    return set(common_old) - kept


def step_revision(old: StepContent, new: StepContent, before: int, after: int, moved: bool) -> StepRevision | None:
    """Return what is different about a step that is in both, if anything is."""
    names = {"title": "Title", "why": "Why", "listen": "Listen for"}
    texts = [changed_text(name, getattr(old, key), getattr(new, key)) for key, name in names.items()]
    said = tuple(one for one in texts if one)
    moves = tuple(difference(old.patch, new.patch))
    notes = tuple(step_notes(old, new))
    if not (said or moves or notes or moved):
        return None
    return StepRevision("moved" if moved else "changed", new.title, before, after, said, moves, notes)


def step_notes(old: StepContent, new: StepContent) -> Iterator[str]:
    """Yield what else is different about a step, in sentences."""
    if old.extra != new.extra:
        yield "It is extra now: the short edition leaves it out." if new.extra else "It is no longer extra."
    if old.phrase != new.phrase:
        yield f"It plays another phrase: {phrase_said(new.phrase)}."
    yield from things_said(
        {plate.id: (f"The former picture {number}", plate) for number, plate in enumerate(old.plates, 1)},
        {plate.id: (f"Picture {number}", plate) for number, plate in enumerate(new.plates, 1)},
        "is drawn or captioned anew",
    )
    yield from things_said(
        {one.name: (f"The detour “{one.name}”", (one.patch, one.phrase)) for one in old.detours},
        {one.name: (f"The detour “{one.name}”", (one.patch, one.phrase)) for one in new.detours},
        "goes elsewhere",
    )
    if old.marks != new.marks:
        yield "Other places are marked, or for other purposes."
    if (old.lenses, old.moment) != (new.lenses, new.moment):
        yield "It is looked at through other lenses."
    if old.wording != new.wording or old.order != new.order:
        yield "Its instructions are worded or ordered differently."


def phrase_said(phrase: Phrase) -> str:
    """Return what a phrase plays: how many notes, how fast, and what is moved meanwhile."""
    notes = f"{len(phrase.notes)} {'note' if len(phrase.notes) == 1 else 'notes'}"
    moved = [one.control.replace("lever:", "lever ") for one in phrase.gestures]
    said = f", and moves the {', the '.join(moved)}" if moved else ""
    others = f", in company of {', '.join(part.name for part in phrase.company)}" if phrase.company else ""
    return f"{notes} at {trimmed(phrase.tempo)} beats a minute{said}{others}"


def things_said(old: Named, new: Named, changed: str) -> Iterator[str]:
    """Yield which of some things are new, which are changed and which are gone."""
    for key, (name, thing) in new.items():
        if key not in old:
            yield f"{name} is new."
        elif old[key][1] != thing:
            yield f"{name} {changed}."
    for key, (name, _) in old.items():
        if key not in new:
            yield f"{name} is gone."


def changed_text(name: str, old: str, new: str) -> TextRevision | None:
    """Return how a text reads differently, word by word, if it does."""
    if old == new:
        return None
    words_old, words_new = WORD.findall(old), WORD.findall(new)
    runs: list[tuple[str, str]] = []  # what the old text has and the new one: the same, or two that differ
    for action, a, b, c, d in SequenceMatcher(None, words_old, words_new, autojunk=False).get_opcodes():
        here = "".join(words_old[a:b]), "".join(words_new[c:d])
        apart = action == "equal" and re.search(r"\w", here[0])  # a space alone does not set two changes apart
        if runs and not apart and differs(runs[-1]):
            runs[-1] = runs[-1][0] + here[0], runs[-1][1] + here[1]
        else:
            runs.append(here)
    return TextRevision(name, tuple(elided([piece for run in runs for piece in pieces_of(*run)])))


def differs(run: tuple[str, str]) -> bool:
    """Tell whether a run of words is another in the new text."""
    return run[0] != run[1]


def pieces_of(old: str, new: str) -> Iterator[Piece]:
    """Yield a run of words in pieces: as it was, then as it is."""
    if old == new:
        yield Piece("same", old)
        return
    if old:
        yield Piece("old", old)
    if new:
        yield Piece("new", new)


def elided(pieces: Sequence[Piece]) -> Iterator[Piece]:
    """Yield pieces of which the long ones that stay the same are cut to what is near a change."""
    for number, piece in enumerate(pieces):
        words = WORD.findall(piece.text)
        first, last = number == 0, number == len(pieces) - 1
        if piece.kind != "same" or len(words) <= (1 if first or last else 2) * ELISION + 4:
            yield piece
            continue
        head = "" if first else "".join(words[:ELISION])
        tail = "" if last else "".join(words[-ELISION:])
        yield Piece("same", f"{head} … {tail}".strip() if not (head and tail) else f"{head} … {tail}")
