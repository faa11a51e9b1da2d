"""What processes that play are forked from: all that they need is loaded here, once."""

from inner_tone.core.engine.warm import warm
from inner_tone.live import painter, worker

__all__ = ["painter", "worker"]

warm()
