"""The application with all that it loads at its start, so that a process forked from here serves at once."""

from multiprocessing.connection import Connection
from typing import Any

from inner_tone.api.serve import serve
from inner_tone.api.settings import settings_from
from inner_tone.work.template import load

load()


def serve_and_tell(given: dict[str, Any], told: Connection) -> None:
    """Serve with some settings until told to stop; the address is sent once requests are taken."""

    def ready(address: str) -> None:
        told.send(address)
        told.close()

    serve(settings_from(**given), ready, plays_at_once=False)
