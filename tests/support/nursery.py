"""The application with all that it loads at its start, so that a process forked from here serves at once."""

from multiprocessing.connection import Connection

from inner_tone.api.serve import serve
from inner_tone.work.template import load

load()


def serve_and_tell(database: str, port: int, told: Connection) -> None:
    """Serve until told to stop; the address is sent once requests are taken."""

    def ready(address: str) -> None:
        told.send(address)
        told.close()

    serve(database, port, ready, plays_at_once=False)
