"""Images in texts, each kept once by the digest of what it is."""

import uuid
from hashlib import sha256

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from inner_tone.core.errors import InnerToneError
from inner_tone.store.errors import NotFoundError
from inner_tone.store.models import KeptImage, now

MOST_BYTES = 200 * 1024 * 1024  # of all images of one account together


def keep_image(session: Session, owner_id: uuid.UUID, media_type: str, data: bytes) -> str:
    """Keep an image; returns its key. One that is there already stays what it is."""
    key = sha256(data).hexdigest()
    if session.get(KeptImage, key) is not None:
        return key
    used = session.scalar(select(func.sum(func.length(KeptImage.data))).where(KeptImage.owner_id == owner_id)) or 0
    if used + len(data) > MOST_BYTES:
        raise InnerToneError(
            f"You have kept {MOST_BYTES // 1024**2} megabytes of images, and that is all there is room for."
        )
    made = {
        "key": key,
        "owner_id": owner_id,
        "media_type": media_type,
        "data": data,
        "added_at": now(),
    }
    session.execute(insert(KeptImage).values(made).on_conflict_do_nothing())
    return key


def image(session: Session, key: str) -> KeptImage:
    """Return an image; raises NotFoundError."""
    found = session.get(KeptImage, key)
    if found is None:
        raise NotFoundError("There is no such image.")
    return found
