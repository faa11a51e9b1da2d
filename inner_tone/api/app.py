"""The application: the interface for programs, and the pages for people."""

from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.responses import FileResponse
from starlette.exceptions import HTTPException
from starlette.staticfiles import StaticFiles

from inner_tone.api import catalogue, lessons, patches, renders, sections, steps
from inner_tone.api.problems import ProblemDetails, add_handlers
from inner_tone.api.studio import Studio
from inner_tone.store.database import Sessions

PAGES = Path(__file__).resolve().parent.parent.parent / "web" / "dist"


def create_app(sessions: Sessions | None = None) -> FastAPI:
    """Return the application; without sessions it serves only to describe itself."""
    responses: dict[int | str, dict[str, object]] = {
        404: {"model": ProblemDetails},
        409: {"model": ProblemDetails},
        422: {"model": ProblemDetails},
    }
    app = FastAPI(title="Inner Tone", version="1", docs_url=None, redoc_url=None, responses=responses)
    app.state.sessions = sessions
    app.state.studio = Studio()
    add_handlers(app)
    for module in (lessons, steps, patches, sections, renders, catalogue):
        app.include_router(module.router)
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
