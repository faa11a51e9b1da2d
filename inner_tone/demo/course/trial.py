"""Tries lessons as a scripted learner does: step by step to “done”, by nothing but the instructions.

Usage: python -m inner_tone.demo.course.trial [part of a name …]
"""

import sys
from collections.abc import Iterator

import numpy as np

from inner_tone.api.following import task_at
from inner_tone.core.analysis.loudness import loudness_lufs
from inner_tone.core.checkup import checkup, jumps_of, taps_for
from inner_tone.core.engine.render import Render, render
from inner_tone.core.errors import InnerToneError
from inner_tone.core.lens.recipe import charts, rendered, sentence
from inner_tone.core.lesson.fields import meaningless
from inner_tone.core.lesson.mark import REFERENCE, is_there
from inner_tone.core.lesson.nearby import nearness
from inner_tone.core.lesson.step import StepContent
from inner_tone.core.nearness import target_for
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.validate import checked_patch
from inner_tone.demo.course.build import course
from inner_tone.demo.course.source import Source

SOFTEST_LUFS = -36.0


def troubles(source: Source) -> Iterator[str]:
    """Yield all that is not as it should be in a lesson, each with its step."""
    for place, step in enumerate(source.document.steps):
        for said in (*following(source, place), *found_by_checkup(source, place), *unread(step), *texts(step)):
            yield f"{source.name}, step {place + 1}, “{step.title}”: {said}"


def following(source: Source, place: int) -> Iterator[str]:
    """Yield what keeps a learner from coming to a step's end by its instructions."""
    task = task_at(source.document, place)
    mine = task.start
    for said in task.said:
        try:
            mine = checked_patch(made(mine, said.edits).patch) if said.edits else mine
        except InnerToneError as error:
            yield f"“{said.text}” cannot be done: {error}"
            return
    if not task.said:
        yield "there is nothing to do"
    elif not nearness(task, mine, target_for(task.goal, task.phrase)).done:
        yield "it is not done when all instructions are done"


def found_by_checkup(source: Source, place: int) -> Iterator[str]:
    """Yield what the checkup finds and the text does not speak of, and what it speaks of that is not found."""
    step, meant = source.document.steps[place], source.meant[place]
    done = render(step.patch, step.phrase, taps=sorted(taps_for(step.patch)))
    found = {
        one.code: str(one.message)
        for one in checkup(step.patch, step.phrase, done, jumps_of(step.patch, step.phrase, done)).findings
    }
    for one, message in found.items():
        if one not in meant:
            yield f"the checkup finds “{one}”: {message}"
    text = f"{step.why} {step.listen}"
    for code, words in meant.items():
        if code not in found:
            yield f"the checkup does not find “{code}”"
        if not words or words not in text:
            yield f"of “{code}” the text does not speak: “{words}”"
    if "no-sound" not in meant:
        yield from level(step, done)


def level(step: StepContent, done: Render) -> Iterator[str]:
    """Yield whether a step is too soft to be heard beside the others; what is too loud the checkup finds."""
    both = np.stack([done.left, done.right])
    heard = loudness_lufs(both, done.rate)
    if heard < SOFTEST_LUFS:
        yield f"it is too soft: {heard:.1f} LUFS"


def unread(step: StepContent) -> Iterator[str]:
    """Yield fields, marks and plates that lead nowhere."""
    for one in meaningless(step, lambda taps: rendered(step.patch, step.phrase, taps)):
        yield f"“{one}” means nothing"
    numbers = {mark.number for mark in step.marks}
    for number in map(int, REFERENCE.findall(f"{step.why} {step.listen}")):
        if number not in numbers:
            yield f"there is no mark {number}"
    for mark in step.marks:
        if not is_there(mark, step.patch, step.phrase):
            yield f"the place of the mark “{mark.purpose}” is not there"
    for plate in step.plates:
        try:
            shown = charts(plate.recipe)
        except InnerToneError as error:
            yield f"{plate.id} cannot be drawn: {error}"
            continue
        if not all(chart.panels for chart in shown) or not sentence(plate.recipe, shown):
            yield f"{plate.id} shows nothing"


def texts(step: StepContent) -> Iterator[str]:
    """Yield what a step does not say."""
    for name, text in (("why", step.why), ("what to listen for", step.listen)):
        if len(text) < 40:
            yield f"it hardly says {name}"
    for one in step.detours:
        if len(one.note) < 30:
            yield f"the detour “{one.name}” says nothing"
    for plate in step.plates:
        if not plate.caption:
            yield f"{plate.id} has no caption"


def told(source: Source) -> None:
    """Print what each step of a lesson sounds like, for whoever listens by figures."""
    for number, step in enumerate(source.document.steps, 1):
        done = render(step.patch, step.phrase)
        both = np.stack([done.left, done.right])
        peak = 20.0 * np.log10(max(1e-6, float(np.max(np.abs(both)))))
        heard = f"{done.seconds:.1f} s, {loudness_lufs(both, done.rate):.1f} LUFS, peak {peak:.1f} dB"
        print(f"  {number}. {step.title}: {heard}")


def main(wanted: list[str]) -> int:
    """Try the lessons whose names have one of some words in them, or all; returns how much is wrong."""
    wrong = 0
    for name, source in course().items():
        if wanted and not any(word in name for word in wanted):
            continue
        print(f"{name}: {source.document.title}")
        told(source)
        for said in troubles(source):
            print(f"  ! {said}")
            wrong += 1
    return wrong


if __name__ == "__main__":
    sys.exit(min(1, main(sys.argv[1:])))
