"""The application: the interface for programs, and the pages for people."""

import asyncio
from collections.abc import AsyncIterator, Sequence
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import Depends, FastAPI, Request
from fastapi.responses import FileResponse
from starlette.exceptions import HTTPException
from starlette.staticfiles import StaticFiles

from inner_tone.api import (
    accounts,
    attempts,
    catalogue,
    charts,
    editions,
    fields,
    here,
    images,
    learners,
    lessons,
    live,
    patches,
    phrases,
    practice,
    recordings,
    renders,
    search,
    sections,
    series,
    shares,
    steps,
)
from inner_tone.api.access import Recent, from_our_pages, signed_in
from inner_tone.api.accounts import DemoAccount
from inner_tone.api.context import ROOM
from inner_tone.api.limits import Limiter
from inner_tone.api.problems import ProblemDetails, add_handlers
from inner_tone.api.studio import Studio
from inner_tone.live.stage import Stage
from inner_tone.store.database import Sessions

PAGES = Path(__file__).resolve().parent.parent.parent / "web" / "dist"


FOR_THE_SIGNED_IN = (
    lessons.router,
    here.router,
    lessons.templates,
    search.router,
    shares.router,
    editions.router,
    steps.router,
    series.router,
    practice.router,
    attempts.steps,
    attempts.own,
    learners.router,
    learners.answers,
    patches.router,
    phrases.router,
    sections.router,
    recordings.router,
    images.router,
    renders.router,
    charts.router,
    fields.router,
    catalogue.router,
)


@asynccontextmanager
async def lifespan(app: FastAPI) -> AsyncIterator[None]:
    """Let the processes that play begin, if they are not to wait for somebody who plays; end them at the end."""
    starting = asyncio.create_task(app.state.stage.start()) if app.state.plays_at_once else None
    yield
    if starting is not None:
        starting.cancel()
    app.state.stage.stop()


def create_app(sessions: Sessions | None = None, demo: Sequence[DemoAccount] = ()) -> FastAPI:
    """Return the application; without sessions it serves only to describe itself.

    `demo` are accounts that it offers to everybody.
    """
    responses: dict[int | str, dict[str, object]] = {
        401: {"model": ProblemDetails},
        403: {"model": ProblemDetails},
        404: {"model": ProblemDetails},
        409: {"model": ProblemDetails},
        422: {"model": ProblemDetails},
    }
    app = FastAPI(
        lifespan=lifespan,
        title="Inner Tone",
        version="1",
        docs_url=None,
        redoc_url=None,
        responses=responses,
        dependencies=[Depends(from_our_pages)],
    )
    app.state.sessions = sessions
    app.state.room = asyncio.Semaphore(ROOM)
    app.state.studio = Studio()
    app.state.stage = Stage()
    app.state.plays_at_once = False
    app.state.limiter = Limiter()
    app.state.recent = Recent()
    app.state.demo = list(demo)
    add_handlers(app)
    app.include_router(accounts.router)
    app.include_router(live.router)
    for router in FOR_THE_SIGNED_IN:
        app.include_router(router, dependencies=[Depends(signed_in)])
    if PAGES.is_dir():
        serve_pages(app)
    return app


def serve_pages(app: FastAPI) -> None:
    """Serve the built interface: its files as they are, and its one page for every other address."""
    app.mount("/assets", StaticFiles(directory=PAGES / "assets"))

    @app.get("/{path:path}", include_in_schema=False)
    def page(request: Request, path: str) -> FileResponse:
        if path.startswith("api/"):
            raise HTTPException(404, "There is no such address.")
        file = (PAGES / path).resolve()
        if path and file.is_file() and file.is_relative_to(PAGES):
            return FileResponse(file)
        return FileResponse(PAGES / "index.html", headers={"Cache-Control": "no-cache"})
