"""A class on two nodes behind a proxy: how soon they are answered, also when one of the nodes is killed meanwhile."""

import asyncio
import time
from typing import Any

import httpx

from benchmarks.follow import Learner, at, prepared, share
from inner_tone.api.access import COOKIE, TOKEN_HEADER, page_token
from tests.support.application import Application
from tests.support.figures import record
from tests.support.proxy import Proxy

SECONDS = 60.0
TRUSTING: dict[str, Any] = {"trusted_proxies": "127.0.0.1", "workers": 2}
TRIES = 12
AGAIN_SECONDS = 0.2


class Patient(Learner):
    """Somebody whose page asks again where a proxy finds nobody who answers."""

    again = 0

    async def ask(self, method: str, path: str, **wish: Any) -> Any:
        """Ask, as often as the page does; what is noted is how long it took altogether."""
        begun = time.perf_counter()
        for count in range(TRIES):
            answer = await self.client.request(method, path, **wish)
            if answer.status_code not in (429, 502, 503, 504):
                break
            self.again += 1
            await asyncio.sleep(AGAIN_SECONDS * 2**count)
        self.times.append(time.perf_counter() - begun)
        if not answer.is_success:
            self.errors.append(f"{path}: {answer.status_code} {answer.text[:120]}")
        return answer.json()


def main() -> None:
    """Print the table."""
    for kill in (False, True):
        asyncio.run(class_on_two_nodes(kill=kill))


async def class_on_two_nodes(*, kill: bool) -> None:
    """200 learners are at one lesson for a minute: each opens a step, and goes on to it again and again."""
    one = Application(**TRUSTING)
    two = Application(database=one.database, **TRUSTING)
    proxy = Proxy([one.address, two.address])
    try:
        lesson, step, tokens = prepared(one)
        times: list[float] = []
        errors: list[str] = []
        learners = [Patient(client_of(proxy.address, token), lesson, step, times, errors) for token in tokens]
        works = [stay(learner, place, len(learners)) for place, learner in enumerate(learners)]
        dying = [kill_later(one)] if kill else []
        await asyncio.gather(*works, *dying)
        good = sum(time <= 0.3 for time in times)
        what = ", one node killed in the middle" if kill else ""
        say(
            f"{len(learners)} people on two nodes for a minute{what}: answers within 300 ms",
            "95 %",
            f"{share(good, len(times))}; median {1000 * at(times, 50):.0f} ms, 95 % {1000 * at(times, 95):.0f} ms",
        )
        say(
            f"their errors{what}; asked again",
            "0",
            f"{len(errors)}; {sum(learner.again for learner in learners)}",
        )
        for error in errors[:3]:
            print(error)
        for learner in learners:
            await learner.client.aclose()
    finally:
        proxy.stop()
        two.stop()
        one.stop()


async def stay(learner: Learner, place: int, count: int) -> None:
    """Open the step, and come back to it until the minute is over: half of the time is for looking and listening."""
    begun = time.monotonic()
    await asyncio.sleep(SECONDS / 2 * place / count)
    while time.monotonic() - begun < SECONDS:
        await learner.open()
        await asyncio.sleep(SECONDS / 4)


async def kill_later(application: Application) -> None:
    """Kill a node in the middle of the minute."""
    await asyncio.sleep(SECONDS / 2)
    await asyncio.to_thread(application.kill)


def client_of(address: str, token: str) -> httpx.AsyncClient:
    """Return somebody's way to the nodes."""
    return httpx.AsyncClient(
        base_url=address,
        timeout=120,
        cookies={COOKIE: token},
        headers={TOKEN_HEADER: page_token(token)},
        verify=False,
    )


def say(figure: str, asked: str, measured: str) -> None:
    """Print a figure and note it."""
    print(f"{figure}: {measured} (asked: {asked})")
    record("the service", figure, asked, measured)


if __name__ == "__main__":
    main()
