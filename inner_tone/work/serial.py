"""A series as a bundle, as a job."""

import uuid

from sqlalchemy.orm import Session

from inner_tone.formats.series import SeriesBundle
from inner_tone.store import series
from inner_tone.store.models import Account
from inner_tone.work import errands
from inner_tone.work.bundling import gathered_series
from inner_tone.work.jobs import Finish, Running
from inner_tone.work.made import file_made


async def write_series(running: Running) -> Finish:
    """Return what keeps a series as a bundle; raises NotFoundError, and InnerToneError where something is gone."""
    series_id = uuid.UUID(running.wish["series_id"])

    def found(session: Session) -> SeriesBundle:
        owner = session.get_one(Account, running.account_id)
        return gathered_series(session, series.own_series(session, owner, series_id))

    bundle = await running.node.stored(found)
    await running.tell(0.3)
    data: bytes = await running.do(errands.bundled_series, bundle)
    return file_made(running, f"{bundle.series.title}.zip", "application/zip", data)
