"""Backups: the whole database in one file, as PostgreSQL's own tools write and read it.

https://www.postgresql.org/docs/15/app-pgdump.html: what is written is the state of one moment, while others go on
writing.
"""

import os
import subprocess
from collections.abc import Sequence
from pathlib import Path

from sqlalchemy import inspect, make_url
from sqlalchemy.exc import ArgumentError

from inner_tone.store.database import connect, migrate
from inner_tone.store.errors import DatabaseError
from inner_tone.store.server import BINARIES

MADE_AGAIN = ("answers",)  # what need not be kept


class BackupError(DatabaseError):
    """A backup that cannot be written or read."""


def backup(database: str, file: Path) -> int:
    """Write a database into a file, which is there as a whole or not at all; returns its bytes. Raises BackupError."""
    part = file.with_name(f".{file.name}.part")
    part.touch(mode=0o600)  # it holds what only its owners may read
    try:
        left_out = [f"--exclude-table-data={name}" for name in MADE_AGAIN]
        run(["pg_dump", "--format=custom", "--no-owner", "--no-privileges", *left_out, f"--file={part}"], database)
        with part.open("rb") as written:
            os.fsync(written.fileno())
        part.replace(file)
    finally:
        part.unlink(missing_ok=True)
    return file.stat().st_size


def restore(database: str, file: Path) -> None:
    """Put what a backup holds into an empty database, and bring it up to date; raises BackupError.

    All of it is put there, or nothing.
    """
    if not file.is_file():
        raise BackupError(f"There is no file {file}.")
    engine = connect(database)
    try:
        names = inspect(engine).get_table_names()
        if names:
            raise BackupError(f"The database “{engine.url.database}” is not empty. Restore into a new one.")
        into = f"--dbname={engine.url.database}"
        run(["pg_restore", "--exit-on-error", "--single-transaction", "--no-owner", into, str(file)], database)
        migrate(engine)
    finally:
        engine.dispose()


def run(command: Sequence[str], database: str) -> None:
    """Run one of PostgreSQL's programs on a database; no password stands where others can read it."""
    try:
        url = make_url(database)
    except ArgumentError as error:
        raise BackupError("That is not the address of a database.") from error
    told = {
        "PGHOST": url.host,
        "PGPORT": url.port and str(url.port),
        "PGUSER": url.username,
        "PGPASSWORD": url.password,
        "PGDATABASE": url.database,
    }
    environment = {**os.environ, **{name: str(value) for name, value in told.items() if value}}
    program, *words = command
    done = subprocess.run(
        [str(BINARIES / program), *words], env=environment, capture_output=True, text=True, check=False
    )
    if done.returncode != 0:
        last = (done.stderr.strip().splitlines() or ["it gives no reason"])[-1]
        raise BackupError(f"{program} has failed: {last}")
