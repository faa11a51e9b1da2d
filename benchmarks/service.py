"""A service that nobody can stop: what one account feels of what others do to it."""

import asyncio
import multiprocessing
import os
import statistics
import time
from contextlib import suppress
from pathlib import Path
from typing import Any

import httpx

from benchmarks.patches import voice
from inner_tone.api.access import COOKIE
from inner_tone.api.accounts import DemoAccount
from inner_tone.demo.foghorn import BLASTS, DISTANT
from inner_tone.demo.seed import MAREN
from tests.support.application import Application
from tests.support.figures import record
from tests.support.patches import phrase
from tests.support.processes import family

THREE = [
    DemoAccount(sign_in=f"hostile-{number}", name="Hostile", role="learner", password=f"a bad mood {number}")
    for number in range(3)
]
ABANDONED = 200
SECONDS = 30.0


def main() -> None:
    """Print the table."""
    application = Application()
    try:
        asyncio.run(abandoned(application))
    finally:
        application.stop()


def say(figure: str, asked: str, measured: str) -> None:
    """Print a figure and note it."""
    print(f"{figure}: {measured} (asked: {asked})")
    record("the service", figure, asked, measured)


def worst(number: int) -> dict[str, object]:
    """Return a wish that is as dear as may be, and no other's: sixteen voices for three minutes, sixteen lenses."""
    notes = [(0.0, 170.0, 40.0 + 3 * key + 0.01 * number) for key in range(16)]
    lens = {"kind": "spectrum", "taps": ["out.left"]}
    dear = phrase(*notes, beats=175.0).model_dump(mode="json")
    return {"patch": voice(voices=16).to_json(), "phrase": dear, "lenses": [lens] * 16}


async def abandon(client: httpx.AsyncClient, account: dict[str, Any], number: int) -> None:
    """Ask for much, and go away."""
    with suppress(httpx.HTTPError):
        await client.post("/api/renders", json=worst(number), timeout=0.3 + 0.01 * (number % 70), **account)


def storm(address: str, accounts: list[dict[str, Any]], seconds: float) -> None:
    """Abandon requests of several accounts, 200 at a time, until it is the end; a process of its own."""

    async def storming() -> None:
        end, number = time.monotonic() + seconds, 0
        limits = httpx.Limits(max_connections=None)
        async with httpx.AsyncClient(base_url=address, limits=limits, verify=False) as client:
            while time.monotonic() < end:
                wishes = range(number, number + ABANDONED)
                await asyncio.gather(*(abandon(client, accounts[one % len(accounts)], one) for one in wishes))
                number += ABANDONED
        print(f"{number} requests were abandoned")

    os.nice(5)  # it stands for other machines, which would not take processors from this one
    asyncio.run(storming())


async def abandoned(application: Application) -> None:
    """Three accounts abandon 200 requests, again and again, while a fourth opens pages and renders."""
    accounts = []
    for who in THREE:
        with application.client(who) as one:
            accounts.append({"headers": {**one.headers, "cookie": f"{COOKIE}={one.cookies[COOKIE]}"}})
    client = application.client(MAREN)
    own = httpx.AsyncClient(base_url=application.address, cookies=dict(client.cookies), headers=dict(client.headers))
    lesson = application.lesson_called("Foghorn")
    pages: list[float] = []
    renders: list[float] = []
    filled: list[int] = []
    rest = memory(application)
    hostile = multiprocessing.get_context("spawn").Process(target=storm, args=(application.address, accounts, SECONDS))
    hostile.start()
    await asyncio.sleep(2)
    end, number = time.monotonic() + SECONDS - 2, 0
    while time.monotonic() < end:
        number += 1
        start = time.perf_counter()
        (await own.get(f"/api/lessons/{lesson}", timeout=60)).raise_for_status()
        pages.append(time.perf_counter() - start)
        tempo = {**BLASTS.model_dump(mode="json"), "tempo": 96 + 0.01 * number}
        wish = {"patch": DISTANT.to_json(), "phrase": tempo, "lenses": [{"kind": "spectrum", "taps": ["out.left"]}]}
        start = time.perf_counter()
        (await own.post("/api/renders", json=wish, timeout=60)).raise_for_status()
        renders.append(time.perf_counter() - start)
        filled.append(memory(application))
        await asyncio.sleep(0.1)
    hostile.join()
    say(f"{ABANDONED} abandoned requests at a time: the page of another, the worst", "0.5 s", span(pages))
    say("its render of 5 s, the worst; median", "2 s", f"{span(renders)}; {statistics.median(renders):.2f} s")
    say("memory of all processes, the most (at rest)", "3 GB", f"{max(filled) / 1e9:.1f} GB ({rest / 1e9:.1f} GB)")
    await asyncio.sleep(20)
    say("the same twenty seconds later", "as at rest", f"{memory(application) / 1e9:.1f} GB")
    await own.aclose()


def span(times: list[float]) -> str:
    """Return the worst time."""
    return f"{max(times):.2f} s"


def memory(application: Application) -> int:
    """Return how many bytes the application's processes fill, each page counted once for those who share it."""
    assert application.process is not None
    total = 0
    for process in family(application.process):
        try:
            rollup = Path(f"/proc/{process}/smaps_rollup").read_text(encoding="ascii")
        except OSError:
            continue
        total += sum(int(line.split()[1]) * 1024 for line in rollup.splitlines() if line.startswith("Pss:"))
    return total
