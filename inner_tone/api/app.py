"""The application: the interface for programs, and the pages for people."""

import asyncio
from collections import Counter
from collections.abc import AsyncIterator, Sequence
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import Depends, FastAPI, Request
from fastapi.responses import FileResponse
from starlette.exceptions import HTTPException

from inner_tone.api import (
    accounts,
    attempts,
    bundles,
    catalogue,
    charts,
    classes,
    company,
    documents,
    editions,
    fields,
    handing,
    here,
    images,
    jobs,
    learners,
    lessons,
    live,
    patches,
    phrases,
    practice,
    public,
    recordings,
    renders,
    search,
    sections,
    series,
    shares,
    sounds,
    state,
    steps,
)
from inner_tone.api.access import Recent, from_our_pages, signed_in
from inner_tone.api.accounts import DemoAccount
from inner_tone.api.assets import Assets
from inner_tone.api.context import ROOM
from inner_tone.api.crowd import Crowd
from inner_tone.api.described import REFUSALS, describe
from inner_tone.api.doors import Doors
from inner_tone.api.limits import Limiter, Tries
from inner_tone.api.problems import add_handlers
from inner_tone.api.settings import Settings, settings_from
from inner_tone.api.watch import Figures, Watch
from inner_tone.live.stage import Stage
from inner_tone.store.database import Sessions
from inner_tone.store.notices import SIGNED_OUT
from inner_tone.work.handing import hand_out
from inner_tone.work.jobs import JobKind, Jobs
from inner_tone.work.mine import write_mine
from inner_tone.work.node import Node
from inner_tone.work.opening import open_to_anyone
from inner_tone.work.progress import write_progress
from inner_tone.work.publishing import publish
from inner_tone.work.serial import write_series
from inner_tone.work.template import Template
from inner_tone.work.workshop import Workshop

PAGES = Path(__file__).resolve().parent.parent.parent / "web" / "dist"


FOR_THE_SIGNED_IN = (
    lessons.router,
    bundles.router,
    here.router,
    lessons.templates,
    search.router,
    shares.router,
    editions.router,
    public.router,
    jobs.router,
    steps.router,
    series.router,
    practice.router,
    handing.router,
    attempts.steps,
    attempts.own,
    learners.router,
    learners.answers,
    classes.router,
    classes.members,
    patches.router,
    phrases.router,
    documents.router,
    sections.router,
    recordings.router,
    company.router,
    sounds.router,
    images.router,
    renders.router,
    charts.router,
    fields.router,
    catalogue.router,
)


KINDS: dict[str, JobKind] = {
    "publish": publish,
    "progress": write_progress,
    "hand-out": hand_out,
    "open": open_to_anyone,
    "mine": write_mine,
    "series": write_series,
}


@asynccontextmanager
async def lifespan(app: FastAPI) -> AsyncIterator[None]:
    """Let the processes that play begin, if they are not to wait for somebody who plays; end them at the end."""
    node: Node = app.state.node
    node.wire.on(SIGNED_OUT, lambda _: app.state.recent.forget())
    begin = [node.start()] + ([app.state.stage.start()] if app.state.plays_at_once else [])
    starting = [asyncio.create_task(one) for one in begin]
    app.state.jobs.start()
    yield
    for one in starting:
        one.cancel()
    await app.state.jobs.stop()
    await node.stop()
    app.state.stage.stop()
    app.state.template.stop()


def create_app(
    sessions: Sessions | None = None,
    settings: Settings | None = None,
    demo: Sequence[DemoAccount] = (),
    template: Template | None = None,
) -> FastAPI:
    """Return the application; without sessions it serves only to describe itself.

    `demo` are accounts that it offers to everybody; `template` is what the processes are forked from that it needs.
    """
    settings = settings or settings_from()
    app = FastAPI(
        lifespan=lifespan,
        title="Inner Tone",
        version="1",
        openapi_url=None,
        docs_url=None,
        redoc_url=None,
        responses=REFUSALS,
        dependencies=[Depends(from_our_pages)],
    )
    app.state.sessions = sessions
    app.state.settings = settings
    app.state.room = asyncio.Semaphore(ROOM)
    template = template or Template()
    app.state.template = template
    app.state.workshop = Workshop(template, settings.workers, settings.cost_seconds)
    app.state.under_way = Counter()
    if sessions:
        app.state.node = Node(sessions, app.state.workshop)
        app.state.jobs = Jobs(app.state.node, KINDS, settings.jobs)
    app.state.stage = Stage(template)
    app.state.figures = Figures(app.state.workshop, app.state.stage)
    app.state.plays_at_once = False
    app.state.limiter = Limiter(Tries(sessions)) if sessions else None
    app.state.recent = Recent(lambda: app.state.node.wire.hears)
    app.state.demo = list(demo)
    add_handlers(app)
    app.add_middleware(Crowd)
    app.add_middleware(Doors, hosts=settings.hosts)
    app.add_middleware(Watch)
    app.include_router(state.router)
    app.include_router(accounts.router)
    app.include_router(live.router)
    app.include_router(public.pages)
    describe(app)
    for router in FOR_THE_SIGNED_IN:
        app.include_router(router, dependencies=[Depends(signed_in)])
    if PAGES.is_dir():
        serve_pages(app)
    return app


def serve_pages(app: FastAPI) -> None:
    """Serve the built interface: its files as they are, and its one page for every other address."""
    files = {str(file.relative_to(PAGES)) for file in PAGES.iterdir() if file.is_file()}
    app.mount("/assets", Assets(directory=PAGES / "assets"))

    @app.get("/{path:path}", include_in_schema=False)
    def page(request: Request, path: str) -> FileResponse:
        if path.startswith("api/"):
            raise HTTPException(404, "There is no such address.")
        if path in files:
            return FileResponse(PAGES / path)
        return FileResponse(PAGES / "index.html", headers={"Cache-Control": "no-cache"})
