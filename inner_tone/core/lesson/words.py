"""The words that a step or a lesson is found by: its texts, what its modules are called, and their types."""

import re
from collections.abc import Iterator

from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.step import StepContent
from inner_tone.core.patch.model import Module

MARKS = re.compile(r"[*_`#{}\[\]]+")  # what Markdown and live fields add to the words


def step_words(step: StepContent) -> str:
    """Return all words of a step, its title first."""
    return "\n".join(part for part in parts_of(step) if part.strip())


def parts_of(step: StepContent) -> Iterator[str]:
    """Yield the texts of a step as they read, then its modules with their types, and its sections."""
    yield step.title
    yield from (MARKS.sub("", text) for text in (step.why, step.listen))
    for detour in step.detours:
        yield from (detour.name, detour.note)
    yield from (mark.purpose for mark in step.marks)
    yield from (plate.caption for plate in step.plates)
    yield "; ".join(named(module) for module in step.patch.modules)
    yield "; ".join(section.label for section in step.patch.sections)


def named(module: Module) -> str:
    """Return a module's name, with its type where that is another word."""
    kind = module.declaration.title
    return module.title if module.title.casefold() == kind.casefold() else f"{module.title}: {kind.lower()}"


def lesson_words(lesson: LessonDocument) -> str:
    """Return all words of a lesson, its title first."""
    described = MARKS.sub("", lesson.target_note)
    return "\n".join([lesson.title, lesson.summary, described, *map(step_words, lesson.steps)])
