"""`bin/inner-tone`: renders, compares and examines patches, measures sounds, draws plates, serves the application."""

import argparse
import json
import sys
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any, NoReturn, get_args

from inner_tone.core.errors import InnerToneError
from inner_tone.core.lens_kinds import LensKind

BAD_INPUT = 2
INTERRUPTED = 130
MOST_DAYS = 366


class Parser(argparse.ArgumentParser):
    """A parser that complains in one sentence."""

    def error(self, message: str) -> NoReturn:
        """Say what is wrong with the call and end with status 2."""
        print(f"{self.prog}: {message[0].upper()}{message[1:]}. See {self.prog} --help.", file=sys.stderr)
        raise SystemExit(BAD_INPUT)


def parser() -> Parser:
    """Return the parser of all commands."""
    top = Parser(
        prog="inner-tone",
        description="Lessons in sound synthesis: render, compare and examine patches, serve the application.",
    )
    commands = top.add_subparsers(required=True, metavar="COMMAND", parser_class=Parser)

    add_players(commands)

    difference = commands.add_parser("difference", help="print the instructions that turn one patch into another")
    difference.add_argument("before", type=Path)
    difference.add_argument("after", type=Path)
    difference.set_defaults(run=run_difference)

    checkup = commands.add_parser("checkup", help="print what is probably not meant in a patch that plays a phrase")
    checkup.add_argument("--patch", type=Path, required=True)
    checkup.add_argument("--phrase", type=Path, required=True)
    checkup.set_defaults(run=run_checkup)

    measure = commands.add_parser("measure", help="print what there is to measure of a sound in a WAV file")
    measure.add_argument("sound", type=Path)
    measure.add_argument("--note", metavar="NOTE", help="the note that it should be, as A2, to number its partials by")
    measure.set_defaults(run=run_measure)

    look = commands.add_parser("look", help="print what a lens shows of a patch that plays a phrase, and what it says")
    look.add_argument("--patch", type=Path, required=True)
    look.add_argument("--phrase", type=Path, required=True)
    look.add_argument("--tap", action="append", required=True, metavar="MODULE.OUTPUT", help="again for several")
    look.add_argument("--lens", required=True, choices=get_args(LensKind))
    look.add_argument("--note", type=int, metavar="N", help="which note is looked at (default: the one that says most)")
    look.add_argument("--against", type=Path, metavar="PATCH", help="another patch that stands behind")
    look.set_defaults(run=run_look)

    plate = commands.add_parser("plate", help="draw a plate of a lesson's bundle again, as SVG, PNG or CSV")
    plate.add_argument("bundle", type=Path)
    plate.add_argument("--plate", metavar="STEP/NAME", help="which one, as 3/plate-1; not needed if there is one only")
    plate.add_argument("--out", type=Path, required=True, metavar="FILE.svg|png|csv")
    plate.set_defaults(run=run_plate)

    add_following(commands)

    add_operating(commands)
    return top


def tap_argument(text: str) -> tuple[str, Path]:
    """Return the port and the file of a tap on the command line."""
    port, equals, path = text.partition("=")
    if not equals or not path or "." not in port:
        raise argparse.ArgumentTypeError(f"“{text}” is not of the form MODULE.OUTPUT=WAV")
    return port, Path(path)


def add_operating(commands: Any) -> None:
    """Add the commands of those who run the application."""
    account = commands.add_parser("account", help="make an account, or give one another password")
    account.add_argument("sign_in", metavar="SIGN-IN-NAME")
    add_database(account)
    account.add_argument("--name", help="how a new account is called (default: as it signs in)")
    account.add_argument("--role", choices=["educator", "learner"], help="what a new account is")
    account.set_defaults(run=run_account)

    invite = commands.add_parser("invite", help="print a code by which somebody may make one account")
    add_database(invite)
    invite.add_argument("--role", choices=["educator", "learner"], required=True)
    invite.add_argument("--days", type=int, default=14, help="how long the code counts (default 14)")
    invite.set_defaults(run=run_invite)

    backup = commands.add_parser("backup", help="write the whole database into a file, while others go on writing")
    backup.add_argument("file", type=Path, metavar="FILE")
    add_database(backup)
    backup.set_defaults(run=run_backup)

    restore = commands.add_parser("restore", help="put what a backup holds into an empty database")
    restore.add_argument("file", type=Path, metavar="FILE")
    add_database(restore)
    restore.set_defaults(run=run_restore)

    serve = commands.add_parser(
        "serve", help="serve the application, with a database that is running; docs/settings.md has what can be set"
    )
    add_database(serve)
    serve.add_argument("--workers", type=int, metavar="N", help="processes that work (default: one for each processor)")
    serve.add_argument("--port", type=int, help="0 takes a free one (default)")
    serve.set_defaults(run=run_serve)


def add_database(command: Parser) -> None:
    """Let a command be told where the database is."""
    command.add_argument(
        "--database",
        metavar="URL",
        help="its address; better in the environment, as INNER_TONE_DATABASE, where no list of processes shows a "
        "password",
    )


def add_players(commands: "argparse._SubParsersAction[Parser]") -> None:
    """Add the commands that play a patch into a file."""
    render = commands.add_parser("render", help="play a phrase on a patch into a 32-bit float WAV file")
    render.add_argument("--patch", type=Path, required=True)
    render.add_argument("--phrase", type=Path, required=True)
    render.add_argument("--out", type=Path, required=True)
    render.add_argument("--tap", action="append", default=[], metavar="MODULE.OUTPUT=WAV", type=tap_argument)
    render.add_argument("--rate", type=float, default=48_000.0, help="samples per second (default 48000)")
    render.add_argument("--most", type=float, metavar="SECONDS", help="refuse what could keep a core busy for longer")
    render.set_defaults(run=run_render)

    play = commands.add_parser("play", help="play events on a patch, as if live, into a 32-bit float WAV file")
    play.add_argument("--patch", type=Path, required=True)
    play.add_argument("--events", type=Path, required=True, help="a JSON list of what happens when: see docs/live.md")
    play.add_argument("--out", type=Path, required=True)
    play.add_argument("--tap", action="append", default=[], metavar="MODULE.OUTPUT=WAV", type=tap_argument)
    play.add_argument("--block", type=int, default=256, help="how many samples are asked for at once (default 256)")
    play.add_argument("--tempo", type=float, default=96.0, help="beats per minute (default 96)")
    play.set_defaults(run=run_play)


def add_following(commands: Any) -> None:
    """Add the commands that compare what somebody has made with a target."""
    match = commands.add_parser("match", help="print how near one's own patch is to a target, and what to turn")
    match.add_argument("--mine", type=Path, required=True)
    match.add_argument("--target", type=Path, required=True)
    match.add_argument("--phrase", type=Path, required=True)
    match.set_defaults(run=run_match)

    compare = commands.add_parser("compare", help="print how near a recording of an instrument is to a target patch")
    compare.add_argument("--target", type=Path, required=True)
    compare.add_argument("--phrase", type=Path, required=True)
    compare.add_argument("--recording", type=Path, required=True, metavar="WAV|FLAC")
    compare.set_defaults(run=run_compare)

    instrument = commands.add_parser(
        "instrument", help="play a patch on a simulated outside instrument, into a WAV file"
    )
    instrument.add_argument("name", metavar="NAME", help="drifting, other-curves or worn")
    instrument.add_argument("--patch", type=Path, required=True)
    instrument.add_argument("--phrase", type=Path, required=True)
    instrument.add_argument("--out", type=Path, required=True)
    instrument.set_defaults(run=run_instrument)


def run_render(wishes: argparse.Namespace) -> None:
    """Render and write the WAV files."""
    from inner_tone.cli.render import render_files  # noqa: PLC0415 - the engine takes time to load

    render_files(wishes.patch, wishes.phrase, wishes.out, dict(wishes.tap), wishes.rate, wishes.most)


def run_play(wishes: argparse.Namespace) -> None:
    """Play what happens into files."""
    from inner_tone.cli.play import play_files  # noqa: PLC0415 - the engine takes time to load

    play_files(wishes.patch, wishes.events, wishes.out, dict(wishes.tap), wishes.block, wishes.tempo)


def run_difference(wishes: argparse.Namespace) -> None:
    """Print the instructions as JSON."""
    from inner_tone.cli import documents  # noqa: PLC0415 - as all that follows: a command loads what it needs
    from inner_tone.core.patch.difference import difference  # noqa: PLC0415

    found = difference(documents.patch_file(wishes.before), documents.patch_file(wishes.after))
    shown: list[dict[str, Any]] = [{"kind": one.kind, "text": one.text, "module": one.module} for one in found]
    print(json.dumps({"instructions": shown}, ensure_ascii=False, indent=1))


def run_checkup(wishes: argparse.Namespace) -> None:
    """Print the findings as JSON."""
    from inner_tone.cli import documents  # noqa: PLC0415
    from inner_tone.core.checkup import examined  # noqa: PLC0415 - the engine takes time to load

    found = examined(documents.patch_file(wishes.patch), documents.phrase_file(wishes.phrase)).findings
    shown: list[dict[str, Any]] = [
        {
            "code": one.code,
            "module": one.module,
            "port": one.port,
            "message": str(one.message),
            "measured": str(one.measured),
            "remedy": str(one.remedy.words),
        }
        for one in found
    ]
    print(json.dumps({"findings": shown}, ensure_ascii=False, indent=1))


def run_measure(wishes: argparse.Namespace) -> None:
    """Print the measurement as JSON."""
    from inner_tone.cli.measure import measure_file  # noqa: PLC0415

    print(json.dumps(measure_file(wishes.sound, wishes.note), ensure_ascii=False, indent=1))


def run_look(wishes: argparse.Namespace) -> None:
    """Print what a lens shows as JSON."""
    from inner_tone.cli.look import look_at  # noqa: PLC0415 - the engine takes time to load

    shown = look_at(wishes.patch, wishes.phrase, wishes.lens, wishes.tap, wishes.note, wishes.against)
    print(json.dumps(shown, ensure_ascii=False, indent=1))


def run_plate(wishes: argparse.Namespace) -> None:
    """Draw a plate again."""
    from inner_tone.cli.plate import draw_plate  # noqa: PLC0415

    draw_plate(wishes.bundle, wishes.plate, wishes.out)


def run_match(wishes: argparse.Namespace) -> None:
    """Print how near a patch is as JSON."""
    from inner_tone.cli.follow import matched  # noqa: PLC0415 - the engine takes time to load

    print(json.dumps(matched(wishes.mine, wishes.target, wishes.phrase), ensure_ascii=False, indent=1))


def run_compare(wishes: argparse.Namespace) -> None:
    """Print how near a recording is as JSON."""
    from inner_tone.cli.follow import compared  # noqa: PLC0415

    print(json.dumps(compared(wishes.target, wishes.phrase, wishes.recording), ensure_ascii=False, indent=1))


def run_instrument(wishes: argparse.Namespace) -> None:
    """Play an outside instrument."""
    from inner_tone.cli.follow import play_outside  # noqa: PLC0415

    play_outside(wishes.name, wishes.patch, wishes.phrase, wishes.out)


def run_account(wishes: argparse.Namespace) -> None:
    """Make an account, or change its password."""
    from inner_tone.cli.account import set_account  # noqa: PLC0415

    print(set_account(database_of(wishes), wishes.sign_in, wishes.name, wishes.role))


def run_invite(wishes: argparse.Namespace) -> None:
    """Print the code of an invitation."""
    from inner_tone.cli.invite import invited  # noqa: PLC0415

    if not 1 <= wishes.days <= MOST_DAYS:
        raise InnerToneError(f"An invitation counts for 1 to {MOST_DAYS} days.")
    print(invited(database_of(wishes), wishes.role, wishes.days))


def run_backup(wishes: argparse.Namespace) -> None:
    """Write a backup."""
    from inner_tone.store.backup import backup  # noqa: PLC0415

    size = backup(database_of(wishes), wishes.file)
    print(f"{wishes.file} holds the whole database, in {size / 1e6:.1f} MB.")


def run_restore(wishes: argparse.Namespace) -> None:
    """Read a backup."""
    from inner_tone.store.backup import restore  # noqa: PLC0415

    restore(database_of(wishes), wishes.file)
    print(f"All that {wishes.file} holds is in the database.")


def run_serve(wishes: argparse.Namespace) -> None:
    """Serve until told to stop."""
    from inner_tone.api.serve import serve  # noqa: PLC0415
    from inner_tone.api.settings import settings_from  # noqa: PLC0415

    serve(settings_from(database=database_of(wishes), port=wishes.port, workers=wishes.workers))


def database_of(wishes: argparse.Namespace) -> str:
    """Return where the database is; raises InnerToneError if nobody has said so."""
    from inner_tone.api.settings import settings_from  # noqa: PLC0415

    database = settings_from(database=wishes.database).database
    if not database:
        raise InnerToneError("It is not said where the database is. Set INNER_TONE_DATABASE, or give --database.")
    return database


def main(arguments: Sequence[str] | None = None) -> int:
    """Run a command; returns the exit status."""
    wishes = parser().parse_args(arguments)
    run: Callable[[argparse.Namespace], None] = wishes.run
    try:
        run(wishes)
    except KeyboardInterrupt:
        print("inner-tone: Stopped; nothing was written.", file=sys.stderr)
        return INTERRUPTED
    except InnerToneError as error:
        print(f"inner-tone: {error}", file=sys.stderr)
        return BAD_INPUT
    except OSError as error:
        print(f"inner-tone: {error.filename}: {error.strerror}.", file=sys.stderr)
        return BAD_INPUT
    return 0


if __name__ == "__main__":
    sys.exit(main())
