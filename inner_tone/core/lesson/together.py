"""Two people at one step: what each has changed, brought together; where both have changed the same, they decide.

A step is a set of facts, as a patch is. Of each fact the side that has changed it wins. Where both have, each in its
own way, that is a clash: what stands there already is not overwritten, and nothing is taken over, until somebody
chooses.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from hashlib import sha256
from re import compile as expression
from typing import Any, Literal, TypeVar

from merge3 import Merge3

from inner_tone.core.documents import Document
from inner_tone.core.lesson.aim import Aim
from inner_tone.core.lesson.lenses import StepLenses
from inner_tone.core.lesson.mark import StepMark, each_once, key_of, numbers_apart, text_with_numbers, with_numbers
from inner_tone.core.lesson.plate import Plate
from inner_tone.core.lesson.step import Detour, StepContent
from inner_tone.core.lesson.wording import Wording
from inner_tone.core.patch.edit import fresh_id, renamed, with_lines
from inner_tone.core.patch.merge import Merger, merged
from inner_tone.core.patch.model import Connection, Module, Patch
from inner_tone.core.phrase import Companion, Gesture, Note, Phrase
from inner_tone.core.units import note_name, trimmed

Side = Literal["theirs", "mine"]
Choices = Mapping[str, Side]
Thing = TypeVar("Thing", bound=Document)

PIECE = expression(r"[^.!?\n]*(?:[.!?]+|\n|$)\s*")  # a sentence or a line, with the space behind it
MOST_SHOWN = 1_000
OPEN = object()
PARTS = ("number", "purpose")


@dataclass(frozen=True)
class Clash:
    """A fact that both sides have changed: what it is called, and what each would have there, in words.

    `key` names it with both sides, so that a choice holds only as long as both stay what they were.
    """

    key: str
    words: str
    theirs: str
    mine: str


@dataclass(frozen=True)
class Together:
    """A step with what both sides have changed; where they clash without a choice, theirs stands."""

    content: StepContent
    clashes: tuple[Clash, ...]


def together(base: StepContent, theirs: StepContent, mine: StepContent, choices: Choices | None = None) -> Together:
    """Return a step with two changes of it.

    Parameters
    ----------
    base
        The step that mine was changed from.
    theirs
        What it has become meanwhile, and is kept.
    mine
        What is to be kept now.
    choices
        Which side wins, by the keys of clashes.
    """
    meeting = Meeting(choices or {})
    content = meeting.step(base, theirs, mine)
    return Together(content, tuple(meeting.clashes))


@dataclass
class Meeting:
    """One meeting of two changes; notes the clashes that nobody has decided yet. `everywhere` is the usual choice."""

    choices: Choices
    everywhere: Side | None = None
    clashes: list[Clash] = field(default_factory=list)

    def wins(self, words: str, theirs: str, mine: str) -> bool:
        """Tell whether mine wins a clash; if nobody has chosen, it is noted, and does not."""
        digest = sha256("\0".join((words, theirs, mine)).encode()).hexdigest()[:24]
        side = self.choices.get(digest, self.everywhere)
        if side is None:
            self.clashes.append(Clash(digest, words, theirs[:MOST_SHOWN], mine[:MOST_SHOWN]))
        return side == "mine"

    def fact(self, words: str, three: Sequence[Any], text: Callable[[Any], str]) -> Any:
        """Return a fact, of three as at the beginning, there and here, as the side has it that has changed it.

        `text` says it in words.
        """
        _, theirs, mine = three
        found = unopposed(*three)
        if found is not OPEN:
            return found
        return mine if self.wins(words, text(theirs), text(mine)) else theirs

    def step(self, base: StepContent, theirs: StepContent, mine: StepContent) -> StepContent:
        """Return a step."""
        mine = with_own_numbers(base, theirs, mine)
        three = base, theirs, mine

        def of(name: str) -> tuple[Any, Any, Any]:
            return getattr(base, name), getattr(theirs, name), getattr(mine, name)

        titles = [(one.title, one.title_made) for one in three]
        title, made = self.own_or_made("Title", titles, quoted)
        orders = [(one.order, one.order_made) for one in three]
        ordered = "The order of the instructions"
        order, order_made = self.own_or_made(ordered, orders, lambda one: f"{len(one)} put in order")
        parts = {
            "title": title,
            "title_made": made,
            "why": self.text("Why", *of("why")),
            "listen": self.text("Listen for", *of("listen")),
            "patch": self.patch("", *of("patch")),
            "phrase": self.phrase(*of("phrase")),
            "lenses": self.fact("The lenses", of("lenses"), lenses_text),
            "moment": self.fact("What the lenses look at", of("moment"), lambda one: "as it is chosen in this step"),
            "aim": self.fact("What counts as done", of("aim"), aim_text),
            "marks": each_once(self.things(*of("marks"), key_of, self.mark, renamed_as=None)),
            "extra": self.fact("Whether the step is extra", of("extra"), lambda one: "extra" if one else "not extra"),
            "wording": self.things(*of("wording"), lambda one: one.key, self.wording, renamed_as=None),
            "order": order,
            "order_made": order_made,
            "plates": self.things(*of("plates"), lambda one: one.id, self.plate, with_id),
            "detours": self.things(*of("detours"), lambda one: one.id, self.detour, with_id),
            "decisions": either(*of("decisions")),
        }
        return theirs.model_copy(update=parts)

    def own_or_made(self, words: str, three: Sequence[tuple[Any, bool]], text: Callable[[Any], str]) -> Any:
        """Return a fact that the program makes until somebody writes it: what is written goes before what is made."""
        _, theirs, mine = three
        if theirs[1] != mine[1] and three[0] not in (theirs, mine):
            return mine if theirs[1] else theirs
        if theirs[1] and mine[1]:
            return theirs
        return self.fact(words, three, lambda one: text(one[0]))

    def text(self, words: str, base: str, theirs: str, mine: str) -> str:
        """Return a text with the sentences that each side has changed."""
        whole = unopposed(base, theirs, mine)
        if whole is not OPEN:
            return str(whole)
        found = []
        pieces_of = PIECE.findall
        for kind, *pieces in Merge3(pieces_of(base), pieces_of(theirs), pieces_of(mine)).merge_groups():
            if kind == "conflict":
                _, there, here = ("".join(one) for one in pieces)
                found.append(here if self.wins(words, quoted(there.strip()), quoted(here.strip())) else there)
            else:
                found.append("".join(pieces[0]))
        return "".join(found)

    def patch(self, where: str, base: Patch, theirs: Patch, mine: Patch) -> Patch:
        """Return a patch; what each side has brought in under the same id are two modules."""
        whole = unopposed(base, theirs, mine)
        if isinstance(whole, Patch):
            return whole
        mine = told_apart(base, theirs, mine)
        theirs = self.brought_back(where, base, theirs, mine)
        chosen: dict[str, Literal["early", "late"]] = {}
        found = merged(base, mine, theirs)
        while new := [one for one in found.conflicts if one.place not in chosen]:
            for one in new:
                words, both = f"{where}{one.words[:1].upper()}{one.words[1:]}", (one.late, one.early)
                if one.place == "patch":
                    words, both = f"{where}The patch as a whole: {one.early}", ("theirs", "mine")
                chosen[one.place] = "early" if self.wins(words, *both) else "late"
            found = merged(base, mine, theirs, chosen)
        return mine if chosen.get("patch") == "early" else found.patch

    def brought_back(self, where: str, base: Patch, theirs: Patch, mine: Patch) -> Patch:
        """Return their patch with those modules that are gone there, but are changed or connected anew by mine."""
        gone = [one for one in base.modules if one.id in mine.by_id and one.id not in theirs.by_id]
        back: list[Module] = []
        for module in gone:
            found = Merger(base, theirs, mine, {})
            found.removed(module.id, module, mine.by_id[module.id])
            if any(self.wins(f"{where}{one.words}", one.early, one.late) for one in found.conflicts):
                back.append(module)
        modules = (*theirs.modules, *back)
        present, names = {one.id for one in modules}, {one.id for one in back}
        lines = [one for one in base.connections if names & set(one.modules) and set(one.modules) <= present]
        return with_lines(theirs.model_copy(update={"modules": modules}), [*theirs.connections, *lines])

    def phrase(self, base: Phrase, theirs: Phrase, mine: Phrase) -> Phrase:
        """Return a phrase: its length and tempo, its notes, its movements."""
        whole = unopposed(base, theirs, mine)
        if isinstance(whole, Phrase):
            return whole
        ends = [(one.title, one.beats) for one in (base, theirs, mine)]
        title, beats = self.fact("The length of the phrase", ends, lambda one: f"{trimmed(one[1])} beats")
        tempo = self.fact(
            "The tempo", (base.tempo, theirs.tempo, mine.tempo), lambda one: f"{trimmed(one)} beats a minute"
        )
        gestures = self.things(
            base.gestures, theirs.gestures, mine.gestures, lambda one: one.control, self.gesture, renamed_as=None
        )
        parts = {
            "title": title,
            "beats": beats,
            "tempo": tempo,
            "notes": self.notes(base, theirs, mine),
            "gestures": gestures,
            "company": self.things(
                base.company, theirs.company, mine.company, lambda one: one.id, self.part, renamed_as=part_as
            ),
        }
        return theirs.model_copy(update=parts)

    def part(self, base: Companion | None, theirs: Companion, mine: Companion) -> Companion:
        """Return one of those who sound together with a phrase."""
        return self.fact(f"{theirs.name}, in company", (base, theirs, mine), lambda one: quoted(one.name))  # type: ignore[no-any-return]

    def notes(self, base: Phrase, theirs: Phrase, mine: Phrase) -> Any:
        """Return the notes: those that either side has put in or left alone; a note that both have moved clashes."""
        whole = unopposed(base.notes, theirs.notes, mine.notes)
        if whole is not OPEN:
            return whole
        gone_there, gone_here = set(base.notes) - set(theirs.notes), set(base.notes) - set(mine.notes)
        if gone_there & gone_here and set(theirs.notes) != set(mine.notes):
            return self.fact("The notes", (base.notes, theirs.notes, mine.notes), notes_text)
        found = either(base.notes, theirs.notes, mine.notes)
        return tuple(sorted(found, key=lambda one: (one.start, one.pitch)))

    def things(
        self,
        base: Sequence[Thing],
        theirs: Sequence[Thing],
        mine: Sequence[Thing],
        known_by: Callable[[Thing], str],
        both: Callable[[Any, Thing, Thing], Thing],
        renamed_as: Callable[[Thing, str], Thing] | None,
    ) -> tuple[Thing, ...]:
        """Return things that are known by a key; what one side has changed is not lost because the other took it out.

        Two that came in under the same key are two, if one of them can be renamed.
        """
        old, there, here = ({known_by(one): one for one in many} for many in (base, theirs, mine))
        found: dict[str, Thing] = {}
        for key in dict.fromkeys([*(here if [*there] == [*old] else there), *there, *here]):
            one, other = there.get(key), here.get(key)
            if one is None or other is None:
                left = one or other
                if left is not None and left != old.get(key):
                    found[key] = left
            elif key in old or renamed_as is None or one == other:
                found[key] = both(old.get(key), one, other)
            else:
                found[key] = one
                new = fresh_id({*old, *there, *here, *found}, key)
                found[new] = renamed_as(other, new)
        return tuple(found.values())

    def wording(self, base: Wording | None, theirs: Wording, mine: Wording) -> Wording:
        """Return how an instruction is worded."""
        return self.fact("The wording of an instruction", (base, theirs, mine), lambda one: quoted(one.text))  # type: ignore[no-any-return]

    def mark(self, base: StepMark | None, theirs: StepMark, mine: StepMark) -> StepMark:
        """Return a mark: its number, and what its place is for."""
        numbers, purposes = ([getattr(one, name) if one else None for one in (base, theirs, mine)] for name in PARTS)
        number = self.fact("The number of a mark", numbers, lambda one: str(one or "none"))
        purpose = self.fact("The purpose of a place", purposes, lambda one: quoted(one or ""))
        gone = number is None and not purpose
        return theirs if gone else theirs.model_copy(update={"number": number, "purpose": purpose})

    def gesture(self, base: Gesture | None, theirs: Gesture, mine: Gesture) -> Gesture:
        """Return a movement of the phrase."""
        name = theirs.control.replace("lever:", "lever ")
        return self.fact(f"The movement of the {name}", (base, theirs, mine), lambda one: f"{len(one.points)} points")  # type: ignore[no-any-return]

    def plate(self, base: Plate | None, theirs: Plate, mine: Plate) -> Plate:
        """Return a picture: its caption, and what it is drawn of."""
        captions = [(one.caption, one.drafted) if one else ("", "") for one in (base, theirs, mine)]
        caption, drafted = self.fact("The caption of a picture", captions, lambda one: quoted(one[0]))
        recipes = [one.recipe if one else None for one in (base, theirs, mine)]
        recipe = self.fact(f"The picture “{caption[:60]}”", recipes, lambda one: "as it is drawn here")
        return theirs.model_copy(update={"caption": caption, "drafted": drafted, "recipe": recipe})

    def detour(self, base: Detour | None, theirs: Detour, mine: Detour) -> Detour:
        """Return a detour: its name, its note and its patch."""
        base = base or theirs
        where = f"Detour “{theirs.name}”: "
        parts = {
            "name": self.fact(f"{where}its name", (base.name, theirs.name, mine.name), quoted),
            "note": self.text(f"{where}its note", base.note, theirs.note, mine.note),
            "patch": self.patch(where, base.patch, theirs.patch, mine.patch),
            "phrase": self.fact(f"{where}its phrase", (base.phrase, theirs.phrase, mine.phrase), phrase_text),
        }
        return theirs.model_copy(update=parts)


def unopposed(base: Any, theirs: Any, mine: Any) -> Any:
    """Return what stands where at most one side has changed something, or both in the same way; else OPEN."""
    if mine in (base, theirs):
        return theirs
    return mine if theirs == base else OPEN


def part_as(part: Companion, new: str) -> Companion:
    """Return a part under another id."""
    return part.model_copy(update={"id": new})


def mine_beside(base: StepContent, theirs: StepContent, mine: StepContent) -> StepContent:
    """Return the step that comes behind theirs, if mine is to be a step of its own: theirs, with all that mine says."""
    return Meeting({}, everywhere="mine").step(base, theirs, mine)


def told_apart(base: Patch, theirs: Patch, mine: Patch) -> Patch:
    """Return my patch in which what I have brought in has ids that nothing of theirs has, unless it is the same."""
    names: dict[str, str] = {}
    for module in mine.modules:
        new = module.id not in base.by_id and module.id in theirs.by_id
        if new and (module != theirs.by_id[module.id] or lines_at(mine, module.id) != lines_at(theirs, module.id)):
            names[module.id] = fresh_id({*base.by_id, *theirs.by_id, *mine.by_id, *names.values()}, module.id)
    if not names:
        return mine
    return mine.model_copy(
        update={
            "modules": tuple(one.model_copy(update={"id": names.get(one.id, one.id)}) for one in mine.modules),
            "connections": tuple(renamed(line, names) for line in mine.connections),
            "sections": tuple(
                one.model_copy(update={"modules": tuple(names.get(name, name) for name in one.modules)})
                for one in mine.sections
            ),
        }
    )


def with_own_numbers(base: StepContent, theirs: StepContent, mine: StepContent) -> StepContent:
    """Return my step in which the marks that I have set have numbers that no mark of theirs has; my texts follow."""
    new = numbers_apart(base.marks, theirs.marks, mine.marks)
    if not new:
        return mine
    texts = {name: text_with_numbers(getattr(mine, name), new) for name in ("why", "listen")}
    return mine.model_copy(update=texts | {"marks": with_numbers(mine.marks, new)})


def lines_at(patch: Patch, module: str) -> set[Connection]:
    """Return the connections of a module."""
    return {line for line in patch.connections if module in line.modules}


def with_id(thing: Any, identity: str) -> Any:
    """Return a thing under another id."""
    return thing.model_copy(update={"id": identity})


def either(base: Sequence[Thing], theirs: Sequence[Thing], mine: Sequence[Thing]) -> tuple[Thing, ...]:
    """Return things that are told apart only by what they are: without those that either side has taken out."""
    gone = [one for one in base if one not in theirs or one not in mine]
    kept = [one for one in theirs if one not in gone]
    return (*kept, *(one for one in mine if one not in base and one not in theirs))


def quoted(text: str) -> str:
    """Return a text as it is told."""
    return f"“{text}”" if text else "nothing"


def aim_text(aim: Aim | None) -> str:
    """Return what counts as done in words."""
    return f"by {aim.by}, {trimmed(aim.tolerance)} times as far off as usual" if aim else "as usual"


def lenses_text(lenses: StepLenses | None) -> str:
    """Return lenses in words."""
    return ", ".join(one.kind for one in lenses.slots) if lenses else "none of its own"


def phrase_text(phrase: Phrase | None) -> str:
    """Return the phrase of a detour in words."""
    return notes_text(phrase.notes) if phrase else "that of the step"


def notes_text(notes: Sequence[Note]) -> str:
    """Return notes in words: each with the beat at which it begins."""
    said = [f"{note_name(one.pitch)} at {trimmed(one.start)}" for one in sorted(notes, key=lambda one: one.start)]
    return ", ".join(said) or "none"
