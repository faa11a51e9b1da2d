"""Files that jobs make: kept beside their job, and gone with it."""

from sqlalchemy.orm import Session

from inner_tone.store.models import Json, Made
from inner_tone.work.jobs import Finish, Running


def file_made(running: Running, name: str, media_type: str, data: bytes) -> Finish:
    """Return what keeps a file that a job has made, under a name."""

    def finish(session: Session) -> Json:
        session.add(Made(job_id=running.id, name=name, media_type=media_type, data=data))
        return {"file": name, "bytes": len(data)}

    return finish
