"""The process that looks: it makes pictures of what sounds, and gives way to those that play."""

import contextlib
import json
import logging
import os
import pickle
import socket
from typing import Any

from inner_tone.core.analysis.closeup import on_cards
from inner_tone.live.frames import NUMBER
from inner_tone.live.look import Sight, charts_of
from inner_tone.work.line import received, send

GIVING_WAY = 5


def paint(line: socket.socket) -> None:
    """Answer each wish with pictures, until the other side has ended."""
    os.nice(GIVING_WAY)
    with line, contextlib.suppress(OSError):  # who asked may have ended meanwhile
        while (data := received(line)) is not None:
            number, about, sight = pickle.loads(data)
            send(line, NUMBER.pack(number) + json.dumps({**about, **seen(sight)}).encode())


def seen(sight: Sight) -> dict[str, Any]:
    """Return what is seen; nothing of what cannot be looked at."""
    try:
        charts = [chart and chart.model_dump(mode="json") for chart in charts_of(sight)]
    except Exception:  # a picture that cannot be made must not end those that can
        logging.exception("A picture could not be made.")
        charts = [None for _ in sight.views]
    measures = on_cards(sight.measures, sight.close, sight.stretch.rate)
    return {"kind": "pictures", "lenses": charts, "measures": measures}
