"""Keeps the sound of saved steps, so that it outlives the process that rendered it."""

from datetime import timedelta

from sqlalchemy import delete, exists, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from inner_tone.core.engine.render import render_key
from inner_tone.core.lesson.step import StepContent
from inner_tone.core.modules.version import engine_version
from inner_tone.store.models import Step, StoredRender, now

JUST_USED = timedelta(hours=1)  # by somebody who undoes and does again, or by a node that has not been upgraded yet


def belongs_to_step(session: Session, key: str) -> bool:
    """Tell whether some step, as it is saved, sounds like the render with this key."""
    return bool(session.scalar(select(exists().where(Step.render_key == key))))


def is_kept(session: Session, key: str) -> bool:
    """Tell whether a render's WAV file is kept, without reading it."""
    return bool(session.scalar(select(exists().where(StoredRender.key == key))))


def keep(session: Session, key: str, wav: bytes, most: int) -> None:
    """Keep a render's WAV file; those used longest ago give way when there are more than so many."""
    made = {"key": key, "wav": wav, "used_at": now()}
    session.execute(insert(StoredRender).values(made).on_conflict_do_nothing())
    surplus = select(StoredRender.key).order_by(StoredRender.used_at.desc()).offset(most)
    session.execute(delete(StoredRender).where(StoredRender.key.in_(surplus)))


def clear_old(session: Session) -> int:
    """Clear away sounds that no step has any longer, unless they were just used; returns how many."""
    of_a_step = exists().where(Step.render_key == StoredRender.key)
    old = (~of_a_step, StoredRender.used_at < now() - JUST_USED)
    return len(session.scalars(delete(StoredRender).where(*old).returning(StoredRender.key)).all())


def follow_engine(session: Session, most: int) -> int:
    """Give up to so many steps the key that their sound has with this engine; returns how many there were."""
    old = select(Step).where(Step.engine != engine_version()).limit(most)
    steps = session.scalars(old.with_for_update(skip_locked=True)).all()
    for step in steps:
        content = StepContent.model_validate(step.content)
        step.render_key, step.engine = render_key(content.patch, content.phrase), engine_version()
    return len(steps)


def wav_of(session: Session, key: str) -> bytes | None:
    """Return a kept WAV file, or None, and note that it was used."""
    found = session.get(StoredRender, key)
    if found is None:
        return None
    found.used_at = now()
    return found.wav
