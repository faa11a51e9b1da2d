"""Words to all nodes that serve a database; they are heard when, and only if, the transaction is committed."""

import json

from sqlalchemy import func, select
from sqlalchemy.orm import Session

CHANNEL = "inner_tone"
SIGNED_OUT = "signed out"


def tell(session: Session, kind: str) -> None:
    """Say something to all nodes."""
    session.execute(select(func.pg_notify(CHANNEL, json.dumps({"kind": kind}))))
