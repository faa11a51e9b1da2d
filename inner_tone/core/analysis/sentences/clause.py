"""Clauses: what is claimed of a sound, each with the facts that it rests on."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from inner_tone.core.message import Message


@dataclass(frozen=True)
class Clause:
    """One claim: its code, what is said of it, how that is joined on in a sentence, and its facts.

    Frequencies are in Hz, times in s, levels in dB; `docs/sentences.md` says what each code claims.
    """

    code: str
    said: Message
    facts: Mapping[str, Any] = field(default_factory=dict)
    joint: str = "; "

    @property
    def text(self) -> str:
        """What it says, in words."""
        return str(self.said)


def sentence(clauses: Sequence[Clause]) -> str:
    """Return what some clauses say together, as one sentence."""
    if not clauses:
        return ""
    first, *rest = clauses
    return f"{first.text}{''.join(one.joint + one.text for one in rest)}."


def facts_of(clauses: Sequence[Clause]) -> dict[str, Any]:
    """Return the facts of some clauses, with the codes of what is claimed."""
    return {
        "claims": [one.code for one in clauses],
        **{key: value for one in clauses for key, value in one.facts.items()},
    }
