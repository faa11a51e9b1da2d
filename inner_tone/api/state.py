"""How the application is, for those who run it: whether it lives, whether it can work, and its figures."""

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import JSONResponse, Response
from prometheus_client import CONTENT_TYPE_LATEST, generate_latest
from sqlalchemy.exc import SQLAlchemyError

from inner_tone.api.access import client_of
from inner_tone.api.settings import Settings
from inner_tone.api.watch import Figures, may_watch
from inner_tone.store.database import Sessions, is_current
from inner_tone.store.errors import ForbiddenError

router = APIRouter(include_in_schema=False)


@router.get("/health")
async def health() -> dict[str, str]:
    """Tell that the process answers."""
    return {"status": "alive"}


@router.get("/ready")
async def ready(request: Request) -> JSONResponse:
    """Tell whether the database answers and has all migrations, and whether the processes that work are there."""
    parts = {
        "database": await run_in_threadpool(answers, request.app.state.sessions),
        "workers": request.app.state.workshop.is_ready,
    }
    all_well = all(parts.values())
    said = {name: "ready" if well else "not ready" for name, well in parts.items()}
    return JSONResponse({"status": "ready" if all_well else "not ready", **said}, 200 if all_well else 503)


def answers(sessions: Sessions) -> bool:
    """Tell whether the database answers and is up to date."""
    try:
        with sessions.begin() as session:
            return is_current(session)
    except SQLAlchemyError:
        return False


@router.get("/metrics")
async def metrics(request: Request) -> Response:
    """Return the figures of this process, to those who watch it."""
    settings: Settings = request.app.state.settings
    if not may_watch(client_of(request), settings.watchers):
        raise ForbiddenError("The figures are for those who run the application.")
    figures: Figures = request.app.state.figures
    return Response(generate_latest(figures.registry), media_type=CONTENT_TYPE_LATEST)
