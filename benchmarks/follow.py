"""Following: how often wiring, sound and recordings are judged rightly, what advice is worth, and how long it takes."""

import asyncio
import math
import os
import random
import statistics
import time
import uuid
from collections import Counter
from collections.abc import Awaitable, Callable
from typing import Any

import httpx
import numpy as np
from sqlalchemy import func, select

from inner_tone.api.access import COOKIE, TOKEN_HEADER, page_token
from inner_tone.core.analysis.compare import compared, target_of
from inner_tone.core.analysis.portrait import RATE
from inner_tone.core.arrays import Floats
from inner_tone.core.lesson.nearby import Task, nearness
from inner_tone.core.lesson.wording import followed
from inner_tone.core.nearness import (
    advice_for,
    middle_of,
    recording_compared,
    render_compared,
    sides_of,
    target_for,
)
from inner_tone.core.outside import INSTRUMENTS, recorded
from inner_tone.core.patch.difference import difference
from inner_tone.core.patch.match import Match, match
from inner_tone.core.patch.model import Patch
from inner_tone.demo import foghorn
from inner_tone.store import accounts, editions, lessons, written
from inner_tone.store.database import connect, sessions
from inner_tone.store.models import Account, StoredTake
from tests.support.alike import changed, renamed, rewritten
from tests.support.application import Application
from tests.support.figures import record
from tests.support.tones import one_note, tone, tuned
from tests.support.voices import AUDIBLE, PHRASE, Changed, heard_change, heard_voice, plain_change, random_voice
from tests.support.woven import rewoven, sums_of, woven

SCALE = float(os.environ.get("SCALE", "1"))  # of how many are tried; less for a look
SEED = 14
PATCHES, SOUNDS, ADVISED, RECORDINGS = (round(SCALE * count) for count in (500, 300, 150, 300))
LEARNERS = round(SCALE * 200)
PITCHES = round(SCALE * 240)
OPENING_S, TURNING_S = 10.0, 20.0
SEMITONES = tuple(semitones for semitones in range(-24, 25) if semitones)
UNTUNED = ("cutoff", "resonance", "attack", "wave")
TUNINGS = {"octave", "semitone", "fine", "ratio", "pitch"}


def main() -> None:
    """Print and record the figures."""
    wiring()
    sounds()
    pitches()
    advice()
    waiting()


def say(figure: str, asked: str, measured: str) -> None:
    """Print a figure and keep it for docs/accuracy.md."""
    print(f"{figure}: {measured} (asked: {asked})", flush=True)
    record("following", figure, asked, measured)


def share(hits: int, of: int) -> str:
    """Return how many of so many, with their share."""
    return f"{hits} of {of} ({100.0 * hits / max(of, 1):.1f} %)"


def wiring() -> None:
    """Rewritten patches must be the same; a real change must be found, and named exactly."""
    dice = random.Random(SEED)
    same, found, exact, slowest = 0, 0, 0, 0.0
    for _ in range(PATCHES):
        patch = random_voice(dice, dice.randint(5, 40))
        same += match(rewritten(patch, dice).patch, patch).same
    for _ in range(PATCHES):
        patch = random_voice(dice, dice.randint(5, 40))
        change = changed(patch, dice)
        mine = rewritten(change.patch, dice)
        begun = time.process_time()
        matched = match(mine.patch, patch)
        slowest = max(slowest, time.process_time() - begun)
        found += not matched.same
        exact += not matched.same and is_exact(change, matched, mine.names)
    say(f"random patches, rewritten (seed {SEED}), taken as the same", "all", share(same, PATCHES))
    say("random patches with one real change, found", "all", share(found, PATCHES))
    say("the change named exactly", "95 %", share(exact, PATCHES))
    say("longest match of up to 43 modules, of processor time", "200 ms", f"{1000 * slowest:.0f} ms")


def woven_rightly(dice: random.Random) -> bool:
    """Tell of one changed patch of many lines whether it is judged rightly, and what remains leads to the target."""
    target = patch = woven(dice)
    for _ in range(dice.randint(1, 4)):
        patch = rewoven(patch, dice)
    mine = renamed(patch, dice).patch
    found = match(mine, target)
    truth = sums_of(patch) == sums_of(target)
    return found.same == truth and match(followed(mine, found.remaining), target).same


def is_exact(change: Changed, found: Match, names: dict[str, str]) -> bool:
    """Tell whether all that is said to remain is the change, taken back."""
    first, *rest = found.remaining
    if change.kind == "set":
        said = {getattr(edit, "setting", "") for edit in first.edits}
        right = change.setting in said or {change.setting, *said} <= TUNINGS
        return not rest and right and first.module == names.get(change.module)
    if change.kind in ("depth", "line"):
        return not rest
    if change.kind == "extra":
        right = first.kind == "remove" and first.module == names.get(change.module)
        return right and len(rest) <= 2 and all(one.kind == "connect" for one in rest)
    new = found.names[change.module]
    lines = found.goal.connections
    near = {new} | {one for line in lines if new in line.modules for one in line.modules}
    near |= {one for line in lines if line.target.module in near for one in line.modules}
    return all(
        one.module == new or (one.kind in ("connect", "disconnect", "move-end") and one.module in near)
        for one in found.remaining
    )


def heard(patch: Patch) -> Floats:
    """Return how a patch sounds."""
    return middle_of(sides_of(patch, PHRASE))


def sounds() -> None:
    """The same sound at another level, later, in noise; and sounds of which one setting is just audibly another."""
    dice, chance = random.Random(SEED), np.random.default_rng(SEED)
    same = 0
    hits, tries = Counter[str](), Counter[str]()
    for number in range(SOUNDS):
        patch = heard_voice(dice)
        sound = heard(patch)
        target = target_of(sound, PHRASE)
        late = np.concatenate([np.zeros(dice.randrange(0, RATE // 5)), sound]) * 10.0 ** (dice.uniform(-12, 6) / 20)
        noise = chance.standard_normal(len(late)) * np.sqrt(np.mean(late**2)) * 10.0 ** (-50 / 20)
        same += compared(target, late + noise).same
        kind = AUDIBLE[number % len(AUDIBLE)]
        tries[kind] += 1
        hits[kind] += not compared(target, heard(heard_change(patch, dice, kind).patch)).same
    say("same sound, other level, late, noise at −50 dB: the same", "99 %", share(same, SOUNDS))
    by_kind = ", ".join(f"{kind} {hits[kind]} of {tries[kind]}" for kind in AUDIBLE)
    say("one setting just audibly changed: different", "95 %", f"{share(hits.total(), SOUNDS)}: {by_kind}")


def pitches() -> None:
    """How far a note is off must come out with its sign, and what changes another thing is no other pitch."""
    dice = random.Random(SEED + 4)
    right, worst, calm = 0, 0.0, 0
    for number in range(PITCHES):
        semitones = SEMITONES[number % len(SEMITONES)]
        patch, phrase = tone(dice), one_note(dice)
        found = render_compared(target_for(patch, phrase), tuned(dice, patch, semitones), phrase).pitch_cents
        off = abs(found - 100.0 * semitones) if found is not None else math.inf
        right, worst = right + (off <= 5.0), max(worst, off)
    for number in range(PITCHES):
        patch = heard_voice(dice)
        mine = plain_change(patch, dice, UNTUNED[number % len(UNTUNED)]).patch
        calm += abs(render_compared(target_for(patch, PHRASE), mine, PHRASE).pitch_cents or 0.0) < 30.0
    say(
        "notes that are ±1 to ±24 semitones off: within 5 cents",
        "all",
        f"{share(right, PITCHES)}, worst {worst:.1f} cents",
    )
    say("another cutoff, resonance, attack or wave: no other pitch", "all", share(calm, PITCHES))


def advice() -> None:
    """What is advised must be what was changed."""
    dice = random.Random(SEED + 1)
    first, three, times = 0, 0, []
    for number in range(ADVISED):
        patch = heard_voice(dice)
        change = heard_change(patch, dice, AUDIBLE[number % len(AUDIBLE)])
        target = target_for(patch, PHRASE)
        begun = time.perf_counter()
        said = [(one.module, one.setting) for one in advice_for(target, change.patch, PHRASE)]
        times.append(time.perf_counter() - begun)
        wanted = (change.module, change.setting)
        first += said[:1] == [wanted]
        three += wanted in said
    say("first advice names the changed setting", "80 %", share(first, ADVISED))
    say("one of the first three does", "95 %", share(three, ADVISED))
    say("advice for a phrase of 3.5 s, median; nine of ten", "5 s", f"{at(times, 50):.1f} s; {at(times, 90):.1f} s")


def recordings() -> None:
    """Simulated instruments that play the step, or something plainly else."""
    dice = random.Random(SEED + 2)
    right, wrongly_same, reasons = 0, 0, Counter[str]()
    for number in range(RECORDINGS):
        patch = heard_voice(dice)
        name = list(INSTRUMENTS)[number // 2 % len(INSTRUMENTS)]
        same = number % 2 == 0
        played = patch if same else plain_change(patch, dice, AUDIBLE[number // 2 % len(AUDIBLE)]).patch
        found = recording_compared(patch, PHRASE, recorded(name, played, PHRASE, number), 48_000.0)
        right += found.same == same and found.cannot_tell is None
        wrongly_same += found.same and not same
        if found.cannot_tell:
            reasons[found.cannot_tell] += 1
    told = ", ".join(f"{reason} {count}" for reason, count in reasons.items()) or "none"
    say("recordings of simulated instruments: right verdict", "95 %", share(right, RECORDINGS))
    say("recordings: falsely the same", "under 1 %", f"{share(wrongly_same, RECORDINGS)}; cannot tell: {told}")


def waiting() -> None:
    """How near one is, from the question to the answer, with the sound of the step known."""
    dice = random.Random(SEED + 3)
    times = []
    for _ in range(max(5, round(30 * SCALE))):
        patch = heard_voice(dice)
        start = Patch(modules=tuple(one for one in patch.modules if one.type in ("player", "output")))
        task = Task(start, patch, PHRASE, difference(start, patch))
        mine = heard_change(patch, dice, "cutoff").patch
        target = target_for(patch, PHRASE)
        target.portrait, target.partials  # noqa: B018 - known from an earlier question
        begun = time.perf_counter()
        nearness(task, mine, target)
        times.append(time.perf_counter() - begun)
    say("“How near am I?”, median; nine of ten", "1 s", f"{at(times, 50):.2f} s; {at(times, 90):.2f} s")


def at(values: list[float], percent: int) -> float:
    """Return a percentile."""
    return float(np.percentile(values, percent)) if values else 0.0


class Learner:
    """Somebody who opens a step, and turns a ruler now and then."""

    def __init__(
        self, client: httpx.AsyncClient, lesson: str, step: str, times: list[float], errors: list[str]
    ) -> None:
        self.client, self.lesson, self.step = client, lesson, step
        self.times, self.errors = times, errors

    async def ask(self, method: str, path: str, **wish: Any) -> Any:
        """Ask, and note how long it took."""
        begun = time.perf_counter()
        answer = await self.client.request(method, path, **wish)
        self.times.append(time.perf_counter() - begun)
        if not answer.is_success:
            self.errors.append(f"{path}: {answer.status_code} {answer.text[:120]}")
        return answer.json()

    async def open(self) -> dict[str, Any]:
        """Open the step at one's own bench: the lesson, what is one's own, the sound and the lenses."""
        lesson = await self.ask("GET", f"/api/practice/{self.lesson}")
        path = f"/api/practice/{self.lesson}/steps/{self.step}"
        await self.ask("GET", f"{path}/bench")
        attempt = await self.ask("POST", f"{path}/attempts", json={})
        step = next(one for one in lesson["steps"] if one["id"] == self.step)
        lenses = [{"kind": kind, "taps": ["out.left"]} for kind in ("wave", "spectrum")]
        behind = {"legend": "the target", "patch": step["content"]["patch"], "phrase": step["content"]["phrase"]}
        wish = {
            "patch": step["content"]["patch"],
            "phrase": step["content"]["phrase"],
            "lenses": lenses,
            "behind": behind,
        }
        found: dict[str, Any] = await self.ask("POST", "/api/renders", json=wish)
        return {"attempt": attempt, "take": found["key"], "lenses": lenses, "behind": behind}

    async def turn(self, opened: dict[str, Any], value: float) -> None:
        """Turn a ruler: it is kept, heard and seen."""
        setting = {"kind": "set", "module": "breath", "setting": "attack", "value": value}
        wish = {"since": {"take": opened["take"], "settings": [setting]}, "lenses": opened["lenses"]}
        await self.ask("POST", "/api/renders", json={**wish, "behind": opened["behind"]})


def class_at_once() -> None:
    """Let a class open a step at once."""
    asyncio.run(class_of_learners())


async def class_of_learners() -> None:
    """200 learners open the same step within ten seconds, then turn one ruler every ten seconds each."""
    application = Application()
    try:
        lesson, step, tokens = prepared(application)
        limits = httpx.Limits(max_connections=LEARNERS)
        times, errors, turns = [], [], []  # type: ignore[var-annotated]
        clients = [
            httpx.AsyncClient(
                base_url=application.address,
                timeout=120,
                limits=limits,
                cookies={COOKIE: token},
                headers={TOKEN_HEADER: page_token(token)},
                verify=False,
            )
            for token in tokens
        ]
        learners = [Learner(client, lesson, step, times, errors) for client in clients]
        opened = await spread(OPENING_S, [one.open for one in learners])
        engine = connect(application.database)
        with sessions(engine).begin() as session:
            renders = session.scalar(select(func.count()).select_from(StoredTake))
        engine.dispose()
        say("200 learners open a step in 10 s: answers in 500 ms", "95 %", within(times, 0.5))
        say("their renders; errors", "1; 0", f"{renders}; {len(errors)}")
        for one in learners:
            one.times = turns
        dice = random.Random(SEED)

        def turning(learner: Learner, at_bench: dict[str, Any]) -> Callable[[], Awaitable[None]]:
            async def turn() -> None:
                await learner.turn(at_bench, round(dice.uniform(0.01, 1.0), 4))

            return turn

        again = [turning(one, bench) for one, bench in zip(learners, opened, strict=True)]
        await spread(TURNING_S, [*again, *again])
        say(
            "each turns a ruler every 10 s: median; nine of ten",
            "—",
            f"{at(turns, 50):.2f} s; {at(turns, 90):.2f} s, {len(errors)} errors",
        )
        for client in clients:
            await client.aclose()
        for error in errors[:3]:
            print(error)
    finally:
        application.stop()


def within(times: list[float], limit: float) -> str:
    """Return how many answers came within a time, and the median."""
    good = sum(one <= limit for one in times)
    return f"{share(good, len(times))}, median {1000 * statistics.median(times):.0f} ms, longest {max(times):.1f} s"


async def spread(seconds: float, works: list[Callable[[], Awaitable[Any]]]) -> list[Any]:
    """Begin works one after the other over a time, and wait for all."""

    async def begin(place: int, work: Callable[[], Awaitable[Any]]) -> Any:
        await asyncio.sleep(seconds * place / len(works))
        return await work()

    return await asyncio.gather(*(begin(place, work) for place, work in enumerate(works)))


def prepared(application: Application) -> tuple[str, str, list[str]]:
    """Put a lesson and its learners into the database; returns the lesson, a step and the learners' tokens."""
    engine = connect(application.database)
    with sessions(engine).begin() as session:
        owner = accounts.create_account(
            session, f"owner-{uuid.uuid4().hex[:6]}", "Owner", "educator", "a long password"
        )
        lesson = lessons.create_lesson(session, owner.id, foghorn.LESSON)
        editions.publish(session, lesson.id, foghorn.LESSON, owner.id)
        step = written.steps_of(session, lesson.id)[3]
        model = accounts.create_account(session, f"l-{uuid.uuid4().hex[:8]}", "Learner", "learner", "a long password")
        learners = [
            Account(
                sign_in=f"l{number}-{uuid.uuid4().hex[:6]}",
                name=f"L {number}",
                role="learner",
                password_hash=model.password_hash,
            )
            for number in range(LEARNERS)
        ]
        session.add_all(learners)
        session.flush()
        tokens = [accounts.begin_sign_in(session, one, "a benchmark") for one in learners]
        found = str(lesson.id), str(step.id), tokens
    engine.dispose()
    return found


if __name__ == "__main__":
    main()
