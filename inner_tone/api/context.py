"""What the routers share: the database sessions."""

import asyncio
from collections.abc import AsyncIterator
from typing import Annotated

from fastapi import Depends, Request
from fastapi.concurrency import contextmanager_in_threadpool
from sqlalchemy.orm import Session

from inner_tone.store.database import MOST_CONNECTIONS, Sessions

THREADS = 40  # at most as many requests are worked at, as Starlette has it
ROOM = MOST_CONNECTIONS - THREADS


async def database_session(request: Request) -> AsyncIterator[Session]:
    """Yield a session whose transaction is committed before the answer leaves.

    Whoever has one holds a connection while they wait for a thread. So no more of them are let in than leave a
    connection to each thread: else, with a whole class at once, all threads would wait for connections that are held by
    those who wait for threads.
    """
    makers: Sessions = request.app.state.sessions
    room: asyncio.Semaphore = request.app.state.room
    async with room, contextmanager_in_threadpool(makers.begin()) as session:
        yield session


Database = Annotated[Session, Depends(database_session, scope="function")]
