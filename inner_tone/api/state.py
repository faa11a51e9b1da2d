"""How the application is, for those who run it: whether it lives, and whether it can work."""

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import JSONResponse
from sqlalchemy.exc import SQLAlchemyError

from inner_tone.store.database import Sessions, is_current

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
