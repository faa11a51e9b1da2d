"""Errors as problem details (RFC 9457)."""

from collections.abc import Sequence
from typing import Literal

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from sqlalchemy.exc import DataError, OperationalError
from sqlalchemy.exc import TimeoutError as OutOfConnections
from starlette.exceptions import HTTPException

from inner_tone.api.limits import TooManyError
from inner_tone.core.documents import problems_in
from inner_tone.core.errors import DocumentError, InnerToneError, Problem, RenderStoppedError
from inner_tone.core.lesson.together import Clash
from inner_tone.store.errors import (
    ConflictError,
    ForbiddenError,
    GoneError,
    NotFoundError,
    NotSignedInError,
    OldPageError,
)
from inner_tone.store.jobs import TooManyJobsError
from inner_tone.work.errand import BusyError, WorkEndedError

MEDIA_TYPE = "application/problem+json"

ProblemType = Literal["about:blank", "old-page"]


class ProblemPlace(BaseModel):
    """One thing that is wrong with a document: where, what, and what to do."""

    path: str
    message: str
    remedy: str = ""


class ClashOut(BaseModel):
    """Something that two people have changed, each in their own way; `key` is what a choice is known by."""

    key: str
    words: str
    theirs: str
    mine: str


class ProblemDetails(BaseModel):
    """Problem details after RFC 9457, with the places of a document that are wrong."""

    type: ProblemType = "about:blank"
    title: str
    status: int
    detail: str
    current: int | None = None
    problems: list[ProblemPlace] = []
    clashes: list[ClashOut] = []


def problem(
    title: str,
    status: int,
    detail: str,
    places: Sequence[Problem] = (),
    current: int | None = None,
    kind: ProblemType = "about:blank",
    clashes: Sequence[Clash] = (),
) -> JSONResponse:
    """Return an answer that says what went wrong."""
    body = ProblemDetails(
        type=kind,
        title=title,
        status=status,
        detail=detail,
        current=current,
        problems=[ProblemPlace(path=p.path, message=p.message, remedy=p.remedy) for p in places],
        clashes=[ClashOut.model_validate(one, from_attributes=True) for one in clashes],
    )
    return JSONResponse(body.model_dump(exclude_none=True), status_code=status, media_type=MEDIA_TYPE)


def not_found(_: Request, error: Exception) -> JSONResponse:
    """Answer that something is not there."""
    return problem("Not found", 404, str(error))


def not_signed_in(_: Request, error: Exception) -> JSONResponse:
    """Answer that somebody has to sign in."""
    return problem("Not signed in", 401, str(error))


def forbidden(_: Request, error: Exception) -> JSONResponse:
    """Answer that somebody may not do that."""
    return problem("Not allowed", 403, str(error))


def old_page(_: Request, error: Exception) -> JSONResponse:
    """Answer that the page has to learn its token anew."""
    return problem("Old page", 403, str(error), kind="old-page")


def too_many(_: Request, error: Exception) -> JSONResponse:
    """Answer that there were too many tries."""
    assert isinstance(error, TooManyError)
    answer = problem("Too many tries", 429, str(error))
    answer.headers["Retry-After"] = str(error.seconds)
    return answer


def busy(error: Exception) -> JSONResponse:
    """Return an answer that somebody waits for too much already."""
    answer = problem("Too much at once", 429, str(error))
    answer.headers["Retry-After"] = "1"
    return answer


def work_ended(_: Request, error: Exception) -> JSONResponse:
    """Answer that what was asked for has come to no end."""
    answer = problem("Not done", 503, str(error))
    answer.headers["Retry-After"] = "1"
    return answer


def ending() -> JSONResponse:
    """Return an answer that nobody can wait for what was asked for, since the application ends."""
    words = "The application is ending and could not wait for this any longer. Try again in a moment."
    answer = problem("Not done", 503, words)
    answer.headers["Retry-After"] = "5"
    return answer


def conflict(_: Request, error: Exception) -> JSONResponse:
    """Answer that somebody else was faster, and what is to be decided, if that can be."""
    clashes = getattr(error, "clashes", ())
    return problem("Changed elsewhere", 409, str(error), current=getattr(error, "current", None), clashes=clashes)


def gone(_: Request, error: Exception) -> JSONResponse:
    """Answer that something has been deleted meanwhile."""
    return problem("Deleted meanwhile", 410, str(error))


def stopped(_: Request, error: Exception) -> JSONResponse:
    """Answer that what was asked for has been given up."""
    return problem("Stopped", 409, str(error))


def bad_document(_: Request, error: Exception) -> JSONResponse:
    """Answer that a document is wrong, with every place."""
    places = error.problems if isinstance(error, DocumentError) else ()
    return problem("This cannot be used", 422, str(error), places)


def bad_request(_: Request, error: Exception) -> JSONResponse:
    """Answer that a request does not have the form that it should."""
    assert isinstance(error, RequestValidationError)
    found = DocumentError(*problems_in(BaseModel, [one | {"loc": one["loc"][1:]} for one in error.errors()]))
    return problem("This cannot be used", 422, str(found), found.problems)


def http_error(_: Request, error: Exception) -> JSONResponse:
    """Answer what the framework itself refuses."""
    assert isinstance(error, HTTPException)
    if error.status_code == 400 and isinstance(error.__cause__, (ValueError, RecursionError)):
        return problem("No JSON", 400, "What was sent cannot be read: it is no JSON, or nested too deep to be meant.")
    return problem(str(error.detail), error.status_code, str(error.detail))


def database_gone(_: Request, error: Exception) -> JSONResponse:
    """Answer that the database cannot be reached just now."""
    return problem("Not kept", 503, "The database cannot be reached just now. Nothing was changed; try again.")


def cannot_be_kept(_: Request, error: Exception) -> JSONResponse:
    """Answer that the database cannot keep a value, as it is no text or too large a number."""
    return problem("This cannot be used", 422, "Something in it cannot be kept: a character or a number that is none.")


def no_connection(_: Request, error: Exception) -> JSONResponse:
    """Answer that too many wait for the database."""
    answer = problem("Not done", 503, "Too many are at work just now. Nothing was changed; try again.")
    answer.headers["Retry-After"] = "1"
    return answer


def failed(_: Request, error: Exception) -> JSONResponse:
    """Answer that something is wrong with us; the log says what, beside the number that every answer carries."""
    return problem("Not done", 500, "Something went wrong here. Whoever runs the application can see what it was.")


def add_handlers(app: FastAPI) -> None:
    """Let the application answer every error with problem details."""
    app.add_exception_handler(NotFoundError, not_found)
    app.add_exception_handler(GoneError, gone)
    app.add_exception_handler(NotSignedInError, not_signed_in)
    app.add_exception_handler(ForbiddenError, forbidden)
    app.add_exception_handler(OldPageError, old_page)
    app.add_exception_handler(TooManyError, too_many)
    app.add_exception_handler(ConflictError, conflict)
    app.add_exception_handler(RenderStoppedError, stopped)
    app.add_exception_handler(BusyError, lambda _, error: busy(error))
    app.add_exception_handler(TooManyJobsError, lambda _, error: busy(error))
    app.add_exception_handler(WorkEndedError, work_ended)
    app.add_exception_handler(InnerToneError, bad_document)
    app.add_exception_handler(RequestValidationError, bad_request)
    app.add_exception_handler(HTTPException, http_error)
    app.add_exception_handler(OperationalError, database_gone)
    app.add_exception_handler(DataError, cannot_be_kept)
    app.add_exception_handler(OutOfConnections, no_connection)
    app.add_exception_handler(Exception, failed)
