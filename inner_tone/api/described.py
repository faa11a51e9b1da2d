"""The OpenAPI document; what refuses something is a problem there, by RFC 9457."""

from threading import Lock
from typing import Any

from fastapi import FastAPI
from fastapi.responses import JSONResponse

from inner_tone.api.problems import MEDIA_TYPE, ProblemDetails

WORDS = {
    400: "It cannot be read, or its address means nothing.",
    401: "Nobody is signed in.",
    403: "Whoever asks may not do this.",
    404: "There is no such thing, or none that whoever asks may know of.",
    405: "This address does not take such requests.",
    409: "Somebody else was faster, or it was stopped.",
    410: "It was deleted meanwhile.",
    413: "It is larger than anything that is kept here.",
    421: "The application is not reached by this name.",
    422: "It cannot be used; the places that are wrong are named.",
    429: "There was too much of it in too short a time; Retry-After says when there is room again.",
    503: "It cannot be done just now; Retry-After says when to try again.",
}
REFUSALS: dict[int | str, dict[str, Any]] = {
    status: {"model": ProblemDetails, "description": words} for status, words in WORDS.items()
}


def describe(app: FastAPI) -> None:
    """Let an application hand out its OpenAPI document, and let that say of which type its problems are."""
    written = app.openapi

    def openapi() -> dict[str, Any]:
        if app.openapi_schema is None:
            document = written()
            shared = document["components"].setdefault("responses", {})
            for operations in document["paths"].values():
                for operation in operations.values():
                    for status in WORDS:
                        refusal = operation["responses"][f"{status}"]
                        if "application/json" not in refusal["content"]:
                            continue  # what people open answers with a page
                        refusal["content"][MEDIA_TYPE] = refusal["content"].pop("application/json")
                        name = f"Refusal{status}"
                        if shared.setdefault(name, refusal) == refusal:
                            operation["responses"][f"{status}"] = {"$ref": f"#/components/responses/{name}"}
        return written()

    app.openapi = openapi  # type: ignore[method-assign]
    lock = Lock()

    @app.get("/openapi.json", include_in_schema=False)
    def document() -> JSONResponse:  # in a thread: writing it takes seconds, which nobody else should wait for
        with lock:
            return JSONResponse(app.openapi())
