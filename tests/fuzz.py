"""Requests of every kind to every route, made up by Schemathesis from the OpenAPI document, by everybody.

`python -m tests.fuzz [EXAMPLES]` tells how many it sent, and fails for an error of the server and for an answer that
the document does not speak of. https://schemathesis.readthedocs.io/
"""

import os
import re
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from inner_tone.api.access import COOKIE, TOKEN_HEADER, page_token
from inner_tone.api.accounts import DemoAccount
from inner_tone.demo.seed import JONAS, MAREN
from inner_tone.store.server import running
from tests.support import plain
from tests.support.application import Application, client_of
from tests.support.database import HASTY, own_folder, share

CHECKS = (
    "not_a_server_error",
    "status_code_conformance",
    "content_type_conformance",
    "response_headers_conformance",
    "response_schema_conformance",
)
PEOPLE = (None, JONAS, MAREN)
ACCOUNT = "^/api/account"  # what signs people out comes last
USUAL = 25
PROGRAM = Path(sys.executable).with_name("schemathesis")


@dataclass(frozen=True)
class Tried:
    """What a run has come to: by whom, how many requests there were, whether all is well, and what was said."""

    who: str
    count: int
    well: bool
    said: str


def fuzzed(application: Application, examples: int, *, long: bool) -> Iterator[Tried]:
    """Yield what comes of requests by nobody, by a learner and by an educator.

    If there is time, the edges of every value are tried too: by those who may do most with all that can be sent, of
    which there are tens of thousands. Where there is not, those who may do least and most stand for all.
    """
    for who in PEOPLE if long else (None, MAREN):
        for words in (["--exclude-path-regex", ACCOUNT], ["--include-path-regex", ACCOUNT]):
            if long or who is None or words[0].startswith("--exclude"):
                yield tried(application, who, ["--phases", "fuzzing,stateful", "--max-examples", f"{examples}", *words])
            if long:
                kinds = [] if who is MAREN else ["--include-method", "GET", "--include-method", "DELETE"]
                yield tried(application, who, ["--phases", "coverage", *kinds, *words])


def tried(application: Application, who: DemoAccount | None, words: list[str]) -> Tried:
    """Return what comes of requests by somebody who signs in for them."""
    plain.get(f"{application.address}/openapi.json", timeout=120)  # the first to ask waits until it is written
    headers: list[str] = []
    if who is not None:
        token = client_of(application.address, who).cookies[COOKIE]
        headers = ["-H", f"Cookie: {COOKIE}={token}", "-H", f"{TOKEN_HEADER}: {page_token(token)}"]
    command = [
        str(PROGRAM), "run", f"{application.address}/openapi.json", "--checks", ",".join(CHECKS),
        "--suppress-health-check", "all", "--warnings", "off", "--continue-on-failure", "--request-timeout", "120",
        "--no-color", "--seed", "17", *words, *headers,
    ]  # fmt: skip
    with tempfile.TemporaryDirectory() as folder:
        done = subprocess.run(
            command, cwd=folder, env={**os.environ, "COLUMNS": "160"}, capture_output=True, text=True, check=False
        )
    counts = re.findall(r"(\d[\d,]*) generated", done.stdout)
    count = sum(int(one.replace(",", "")) for one in counts)
    return Tried(who.role if who else "nobody", count, done.returncode == 0 and count > 0, done.stdout + done.stderr)


def main() -> int:
    """Try everything; returns 0 if nothing was wrong."""
    examples = int(sys.argv[1]) if len(sys.argv) > 1 else USUAL
    with running(own_folder(), HASTY) as server:
        os.environ |= share(server)
        application = Application()
        wrong = 0
        for one in fuzzed(application, examples, long=True):
            print(f"{one.who}: {one.count} requests, {'all well' if one.well else 'NOT WELL'}", flush=True)
            if not one.well:
                wrong += 1
                print(one.said)
        application.stop()
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
