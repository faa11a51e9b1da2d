"""What is written down while the application runs: for people, or as one JSON object in a line."""

import logging
from typing import Literal

from pythonjsonlogger.json import JsonFormatter

from inner_tone.api.watch import request_id

OURS = "inner_tone"


class Numbered(logging.Filter):
    """Puts the number of the request that is answered to each line."""

    def filter(self, record: logging.LogRecord) -> bool:
        """Add the number; every line is written."""
        record.request = request_id.get()
        return True


def write_logs(kind: Literal["text", "json"]) -> None:
    """Write what is to be known to the standard error; as JSON, every request has a line."""
    handler = logging.StreamHandler()
    handler.addFilter(Numbered())
    if kind == "json":
        names = ["asctime", "levelname", "name", "message", "request"]
        short = {"asctime": "at", "levelname": "level", "name": "of"}
        handler.setFormatter(JsonFormatter(names, style="{", rename_fields=short))
    else:
        handler.setFormatter(logging.Formatter("{levelname}: {message} ({name}, request {request})", style="{"))
    logging.basicConfig(handlers=[handler], level=logging.WARNING, force=True)
    # where the database is gone we say so ourselves, in a line
    for name in ("procrastinate", "psycopg.pool"):
        logging.getLogger(name).setLevel(logging.CRITICAL)
    logging.getLogger(OURS).setLevel(logging.INFO if kind == "json" else logging.WARNING)
