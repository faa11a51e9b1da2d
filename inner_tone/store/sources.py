"""What lenses look at, by key: what takes were rendered from, and recordings."""

import uuid

from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from inner_tone.core.errors import InnerToneError
from inner_tone.core.patch.model import Patch
from inner_tone.core.phrase import Phrase
from inner_tone.store.errors import NotFoundError
from inner_tone.store.models import Recording, StoredTake, now

MOST_TAKES = 5_000
SWEEP_ONE_IN = 200  # how rarely it is looked whether there are too many


def keep_take(session: Session, key: str, patch: Patch, phrase: Phrase, node: str) -> None:
    """Note what a key stands for, and which node has made it; those used longest ago are forgotten."""
    last = {"used_at": now(), "node": node}
    made = {"key": key, "patch": patch.to_json(), "phrase": phrase.model_dump(mode="json"), **last}
    again = insert(StoredTake).values(made).on_conflict_do_update(index_elements=["key"], set_=last)
    session.execute(again)
    if int(key[:8], 16) % SWEEP_ONE_IN == 0:
        surplus = select(StoredTake.key).order_by(StoredTake.used_at.desc()).offset(MOST_TAKES)
        session.execute(delete(StoredTake).where(StoredTake.key.in_(surplus)))


def take_of(session: Session, key: str) -> tuple[Patch, Phrase] | None:
    """Return what a key stands for, if it is known."""
    found = session.get(StoredTake, key)
    return (Patch.model_validate(found.patch), Phrase.model_validate(found.phrase)) if found else None


def node_of(session: Session, key: str) -> str:
    """Return which node has made a take last."""
    return session.scalar(select(StoredTake.node).where(StoredTake.key == key)) or ""


def keep_recording(
    session: Session, owner_id: uuid.UUID, key: str, name: str, seconds: float, flac: bytes
) -> Recording:
    """Keep a recording; one that is there already stays what it is."""
    made = {"key": key, "name": name, "owner_id": owner_id, "seconds": seconds, "flac": flac, "added_at": now()}
    session.execute(insert(Recording).values(made).on_conflict_do_nothing())
    return recording(session, key)


def keep_within(
    session: Session, owner_id: uuid.UUID, key: str, name: str, seconds: float, flac: bytes, minutes: float
) -> Recording:
    """Keep a recording as above; raises InnerToneError where an account would have more than so many minutes."""
    if session.get(Recording, key) is None and seconds_of(session, owner_id) + seconds > 60.0 * minutes:
        raise InnerToneError(f"You have kept {minutes:g} minutes of recordings, and that is all there is room for.")
    return keep_recording(session, owner_id, key, name, seconds, flac)


def recording(session: Session, key: str) -> Recording:
    """Return a recording; raises NotFoundError."""
    found = session.get(Recording, key)
    if found is None:
        raise NotFoundError("There is no such recording.")
    return found


def seconds_of(session: Session, owner_id: uuid.UUID) -> float:
    """Return how long all recordings of an account are together."""
    total = session.scalar(select(func.sum(Recording.seconds)).where(Recording.owner_id == owner_id))
    return float(total or 0.0)
