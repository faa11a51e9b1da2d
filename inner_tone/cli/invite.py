"""`inner-tone invite`: prints a code by which somebody may make an account."""

from datetime import timedelta

from inner_tone.store.database import connect, migrate, sessions
from inner_tone.store.invitations import invite


def invited(database: str, role: str, days: int) -> str:
    """Return the code of a new invitation."""
    engine = connect(database)
    migrate(engine)
    with sessions(engine).begin() as session:
        code = invite(session, role, timedelta(days=days))
    engine.dispose()
    return code
