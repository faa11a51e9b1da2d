"""What an operator sees: a number for each request, a line in the log, and figures in Prometheus' text form.

https://prometheus.io/docs/instrumenting/exposition_formats/; names after https://prometheus.io/docs/practices/naming/
"""

import asyncio
import logging
import secrets
import time
from collections.abc import Callable
from contextvars import ContextVar
from ipaddress import ip_address, ip_network

from prometheus_client import CollectorRegistry, Counter, Gauge, Histogram
from starlette.datastructures import MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from inner_tone.api.problems import ending
from inner_tone.live.stage import Stage
from inner_tone.work.workshop import Workshop

ID_HEADER = "X-Request-ID"
SECONDS = (0.01, 0.03, 0.1, 0.3, 1.0, 3.0, 10.0, 30.0, 100.0)
UNANSWERED = 499  # as it is told of those who went before they were answered
NOWHERE = "none"  # of requests for addresses that no route has

log = logging.getLogger(__name__)
request_id: ContextVar[str] = ContextVar("request_id", default="")


class Figures:
    """The figures of one process."""

    def __init__(self, workshop: Workshop, stage: Stage) -> None:
        self.registry = CollectorRegistry()
        self.requests = Counter(
            "inner_tone_requests_total",
            "Requests that were answered, by route, method and status.",
            ("route", "method", "status"),
            registry=self.registry,
        )
        self.seconds = Histogram(
            "inner_tone_request_seconds",
            "How long requests took to be answered, by route.",
            ("route",),
            buckets=SECONDS,
            registry=self.registry,
        )
        self.work = Histogram(
            "inner_tone_work_seconds",
            "How long work was done in a process of its own, by kind and how it ended.",
            ("kind", "end"),
            buckets=SECONDS,
            registry=self.registry,
        )
        self.waiting("inner_tone_work_waiting", "Wishes that wait for a process.", lambda: workshop.line_length)
        self.waiting("inner_tone_work_under_way", "Processes that work just now.", lambda: workshop.busy)
        self.waiting("inner_tone_work_processes", "Processes that are there to work.", lambda: len(workshop.workers))
        self.waiting("inner_tone_live_sessions", "Sessions in which somebody plays.", lambda: len(stage.seats))
        workshop.observe = lambda kind, end, seconds: self.work.labels(kind, end).observe(seconds)

    def waiting(self, name: str, words: str, now: Callable[[], float]) -> None:
        """Add a figure that is looked up when somebody asks."""
        Gauge(name, words, registry=self.registry).set_function(now)


class Watch:
    """Gives each request a number, counts it, and writes a line about it."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let a request through, and note how it was answered."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        name = secrets.token_hex(8)
        request_id.set(name)
        began, status = time.monotonic(), UNANSWERED

        async def answer(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                MutableHeaders(scope=message)[ID_HEADER] = name
            await send(message)

        try:
            await self.app(scope, receive, answer)
        except asyncio.CancelledError:  # the server has been told to end, and waits no longer
            if status == UNANSWERED:
                await ending()(scope, receive, answer)
        finally:
            self.note(scope, status, time.monotonic() - began)

    def note(self, scope: Scope, status: int, seconds: float) -> None:
        """Count a request, and write a line about it; the address of whoever asked is nobody's business."""
        route = getattr(scope.get("route"), "path", NOWHERE)
        figures: Figures = scope["app"].state.figures
        figures.requests.labels(route, scope["method"], status).inc()
        figures.seconds.labels(route).observe(seconds)
        told = {"method": scope["method"], "route": route, "status": status, "milliseconds": round(1000 * seconds, 1)}
        level = logging.ERROR if status == 500 else logging.INFO  # a 503 says itself that it will pass
        log.log(level, "%s %s: %d", scope["method"], route, status, extra=told)


def may_watch(client: str, watchers: tuple[str, ...]) -> bool:
    """Tell whether the figures are for somebody at an address."""
    try:
        return any(ip_address(client) in ip_network(one, strict=False) for one in watchers)
    except ValueError:
        return False
