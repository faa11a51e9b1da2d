"""A module that is called otherwise: its new name in the texts, the detours and the other steps that share it.

Only what stands within braces follows: what a person has written around it stays as it is.
"""

import re
from collections.abc import Mapping

from inner_tone.core.lesson.fields import FIELD, module_named
from inner_tone.core.lesson.step import Decision, Detour, StepContent
from inner_tone.core.patch.model import Patch

Labels = Mapping[str, tuple[str, str]]  # by the id of a module, its label before and after


def relabelled(before: Patch, after: Patch) -> Labels:
    """Return which modules that are in two patches, of the same type, are called otherwise."""
    pairs = [(before.by_id[one.id], one) for one in after.modules if one.id in before.by_id]
    return {new.id: (old.label, new.label) for old, new in pairs if old.type == new.type and old.label != new.label}


def with_labels(patch: Patch, labels: Labels) -> Patch:
    """Return a patch in which those modules have their new label that had the old one."""
    if not any(one.id in labels and one.label == labels[one.id][0] for one in patch.modules):
        return patch
    modules = tuple(
        one.model_copy(update={"label": labels[one.id][1]})
        if one.id in labels and one.label == labels[one.id][0]
        else one
        for one in patch.modules
    )
    return patch.model_copy(update={"modules": modules})


def shared(step: StepContent, labels: Labels) -> StepContent:
    """Return a step that shares some modules with one in which they have been given other names: here too."""
    patch = with_labels(step.patch, labels)
    changes = {
        "patch": patch,
        "built_on": step.built_on and with_labels(step.built_on, labels),
        "detours": tuple(with_labels_there(one, labels) for one in step.detours),
    }
    return with_names(step.patch, step.model_copy(update=changes))


def with_labels_there(detour: Detour, labels: Labels) -> Detour:
    """Return a detour in which modules have their new labels."""
    return detour.model_copy(update={"patch": with_labels(detour.patch, labels)})


def with_names(before: Patch, step: StepContent) -> StepContent:
    """Return a step whose texts call modules as its patch does; `before` is the patch that they were written for."""
    names = {
        old.title: step.patch.by_id[old.id].title
        for old in before.modules
        if old.id in step.patch.by_id
        and old.title != step.patch.by_id[old.id].title
        and module_named(before, old.title) is not None
    }
    if not names:
        return step
    texts = {one: in_fields(getattr(step, one), names) for one in ("why", "listen")}
    return step.model_copy(update=texts | {"decisions": tuple(redecided(one, names) for one in step.decisions)})


def in_fields(text: str, names: Mapping[str, str]) -> str:
    """Return a text whose fields and links have new names in the place of old ones."""
    by_old = {old.casefold(): new for old, new in names.items()}

    def renamed(match: re.Match[str]) -> str:
        field = match[1]
        for joint in (" of ", "the module "):
            head, found, name = field.rpartition(joint)
            if found and name.strip().casefold() in by_old:
                return f"{{{head}{joint}{by_old[name.strip().casefold()]}}}"
        return match[0]

    return FIELD.sub(renamed, text)


def redecided(decision: Decision, names: Mapping[str, str]) -> Decision:
    """Return a decision whose words, which the program has made, have new names."""

    def renamed(text: str) -> str:
        for old, new in names.items():
            text = re.sub(rf"(?<!\w){re.escape(old)}(?!\w)", lambda _, new=new: new, text)  # type: ignore[misc]
        return text

    texts = {one: renamed(getattr(decision, one)) for one in ("words", "early", "late", "note")}
    return decision.model_copy(update=texts)
