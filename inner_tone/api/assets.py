"""The files of the interface: compressed when it is built, and kept by browsers for good."""

import mimetypes

from starlette.datastructures import Headers
from starlette.exceptions import HTTPException
from starlette.responses import Response
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

ENCODINGS = (("br", ".br"), ("gzip", ".gz"))
LONGEST_NAME = 255  # bytes of a file's name: about more the system is not asked
FOR_GOOD = "public, max-age=31536000, immutable"


class Assets(StaticFiles):
    """Files whose names change with what is in them, sent in the shortest form that whoever asks can read."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        """Return a file."""
        if any(len(part.encode()) > LONGEST_NAME for part in path.split("/")):
            raise HTTPException(404, "There is no such file.")
        accepted = Headers(scope=scope).get("accept-encoding", "")
        wanted = {one.split(";")[0].strip() for one in accepted.split(",")}
        for encoding, ending in ENCODINGS:
            if encoding in wanted and self.lookup_path(f"{path}{ending}")[1] is not None:
                answer = await super().get_response(f"{path}{ending}", scope)
                answer.headers["content-encoding"] = encoding
                kind = mimetypes.guess_type(path)[0] or "application/octet-stream"
                answer.headers["content-type"] = f"{kind}; charset=utf-8" if kind.startswith("text/") else kind
                return kept(answer)
        return kept(await super().get_response(path, scope))


def kept(answer: Response) -> Response:
    """Return an answer that is kept for good."""
    answer.headers["cache-control"] = FOR_GOOD
    answer.headers["vary"] = "Accept-Encoding"
    return answer
