"""The command line, run in this process, which has loaded already what a command needs, or in one of its own."""

import io
import os
import subprocess
import sys
from contextlib import redirect_stderr, redirect_stdout
from dataclasses import dataclass
from unittest import mock

from inner_tone.cli.__main__ import main
from tests.support.application import ROOT


@dataclass(frozen=True)
class Answer:
    """What a command ended with and said."""

    returncode: int
    stdout: str
    stderr: str


def run_here(*words: str, given: str = "", **environment: str) -> Answer:
    """Run a command in this process; `given` is what it can read."""
    out, errors = io.StringIO(), io.StringIO()
    there = mock.patch.dict(os.environ, environment), mock.patch("sys.stdin", io.StringIO(given))
    with there[0], there[1], redirect_stdout(out), redirect_stderr(errors):
        try:
            status = main(words)
        except SystemExit as end:
            status = int(end.code or 0)
    return Answer(status, out.getvalue(), errors.getvalue())


def run_alone(*words: str) -> Answer:
    """Run a command in a process of its own, as whoever types it."""
    command = [sys.executable, "-m", "inner_tone.cli", *words]
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False)
    return Answer(done.returncode, done.stdout, done.stderr)
