"""Keeps the sound of saved steps, so that it outlives the process that rendered it."""

from sqlalchemy import delete, exists, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from inner_tone.store.models import Step, StoredRender, now

MOST_KEPT = 200


def belongs_to_step(session: Session, key: str) -> bool:
    """Tell whether some step, as it is saved, sounds like the render with this key."""
    return bool(session.scalar(select(exists().where(Step.render_key == key))))


def is_kept(session: Session, key: str) -> bool:
    """Tell whether a render's WAV file is kept, without reading it."""
    return bool(session.scalar(select(exists().where(StoredRender.key == key))))


def keep(session: Session, key: str, wav: bytes) -> None:
    """Keep a render's WAV file; those used longest ago give way when there are too many."""
    session.execute(insert(StoredRender).values(key=key, wav=wav, used_at=now()).on_conflict_do_nothing())
    surplus = select(StoredRender.key).order_by(StoredRender.used_at.desc()).offset(MOST_KEPT)
    session.execute(delete(StoredRender).where(StoredRender.key.in_(surplus)))


def wav_of(session: Session, key: str) -> bytes | None:
    """Return a kept WAV file, or None, and note that it was used."""
    found = session.get(StoredRender, key)
    if found is None:
        return None
    found.used_at = now()
    return found.wav
