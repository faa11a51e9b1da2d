"""What the routers share: the database sessions and the studio."""

from collections.abc import Iterator
from typing import Annotated

from fastapi import Depends, Request
from sqlalchemy.orm import Session

from inner_tone.api.studio import Studio
from inner_tone.store.database import Sessions


def database_session(request: Request) -> Iterator[Session]:
    """Yield a session whose transaction is committed before the answer leaves."""
    makers: Sessions = request.app.state.sessions
    with makers.begin() as session:
        yield session


def studio_of(request: Request) -> Studio:
    """Return the application's studio."""
    studio: Studio = request.app.state.studio
    return studio


Database = Annotated[Session, Depends(database_session, scope="function")]
TheStudio = Annotated[Studio, Depends(studio_of)]
