"""Sounds that samplers play: what they are is kept once, by its digest; each account has them under names of its own.

A patch names a sound by its digest, so whoever has the patch can play it: to know the digest is to have been given it.
"""

import uuid
from collections.abc import Collection, Mapping
from typing import Any

from sqlalchemy import String, cast, delete, exists, func, or_, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import InstrumentedAttribute, Session, joinedload

from inner_tone.core.errors import InnerToneError
from inner_tone.store.errors import NotFoundError
from inner_tone.store.models import (
    Account,
    Attempt,
    AttemptHistory,
    Edition,
    KeptSection,
    Lesson,
    OwnSound,
    Sound,
    Step,
    StepHistory,
    now,
)

NAMED_IN: tuple[InstrumentedAttribute[Any], ...] = (
    Step.content,
    StepHistory.content,
    Edition.lesson,
    Lesson.start,
    KeptSection.fragment,
    Attempt.patch,
    AttemptHistory.patch,
)


def own_sounds(session: Session, account: Account) -> list[OwnSound]:
    """Return the sounds that somebody has, by their names."""
    query = select(OwnSound).where(OwnSound.account_id == account.id).options(joinedload(OwnSound.sound))
    return list(session.scalars(query.order_by(func.lower(OwnSound.name), OwnSound.key)))


def own_sound(session: Session, account: Account, key: str) -> OwnSound:
    """Return a sound that somebody has; raises NotFoundError."""
    found = session.get(OwnSound, (account.id, key), options=[joinedload(OwnSound.sound)])
    if found is None:
        raise NotFoundError("You have no such sound.")
    return found


def sound_as_had(session: Session, account: Account, key: str) -> OwnSound:
    """Return a sound as somebody has it themselves, or else as whoever had it first has it; raises NotFoundError."""
    query = select(OwnSound).where(OwnSound.key == key).options(joinedload(OwnSound.sound))
    found = session.scalars(query.order_by(OwnSound.account_id != account.id, OwnSound.added_at).limit(1)).first()
    if found is None:
        raise NotFoundError("There is no such sound.")
    return found


def flac_of(session: Session, keys: Collection[str]) -> dict[str, bytes]:
    """Return sounds by their keys, as FLAC; those that are not there are left out."""
    found = session.execute(select(Sound.key, Sound.flac).where(Sound.key.in_(keys)))
    return {key: flac for key, flac in found}


def keep(
    session: Session,
    account_id: uuid.UUID,
    key: str,
    flac: bytes,
    facts: Mapping[str, Any],
    about: Mapping[str, str],
    minutes: float,
) -> OwnSound:
    """Let somebody have a sound; one that they have already stays what it is.

    `about` is its name, source and licence. Raises InnerToneError where that would be more than so many minutes.
    """
    known = session.get(OwnSound, (account_id, key))
    if known is not None:
        return known
    if seconds_of(session, account_id) + float(facts["seconds"]) > 60.0 * minutes:
        raise InnerToneError(
            f"You have {minutes:g} minutes of sounds with this one, or more, and that is all there is room for. "
            "Delete one that you no longer play."
        )
    made = {"key": key, "seconds": facts["seconds"], "flac": flac, "facts": dict(facts), "added_at": now()}
    session.execute(insert(Sound).values(made).on_conflict_do_nothing())
    had = {"account_id": account_id, "key": key, **about, "added_at": now()}
    session.execute(insert(OwnSound).values(had).on_conflict_do_nothing())
    return session.get_one(OwnSound, (account_id, key))


def seconds_of(session: Session, account_id: uuid.UUID) -> float:
    """Return how long all sounds of an account are together."""
    query = select(func.sum(Sound.seconds)).join(OwnSound, OwnSound.key == Sound.key)
    return float(session.scalar(query.where(OwnSound.account_id == account_id)) or 0.0)


def give_up(session: Session, account: Account, key: str) -> None:
    """Take a sound from somebody; what nobody has, and no patch plays, is forgotten. Raises NotFoundError."""
    session.delete(own_sound(session, account, key))
    session.flush()
    forget_unheard(session, [key])


def forget_unheard(session: Session, keys: Collection[str]) -> None:
    """Forget those of some sounds that nobody has any longer, and that no patch that is kept plays."""
    for key in keys:
        named = [exists().where(cast(column, String).contains(key)) for column in NAMED_IN]
        had = exists().where(OwnSound.key == key)
        if not session.scalar(select(or_(had, *named))):
            session.execute(delete(Sound).where(Sound.key == key))
