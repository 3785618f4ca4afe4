"""The command line. Whatever goes wrong is one sentence on standard error and exit code 2."""

from __future__ import annotations

import gc
import json
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, NoReturn

import typer

from anvilsong.core import say
from anvilsong.core.errors import AnvilsongError, BadInput, CannotRead
from anvilsong.core.job import Job, read_job
from anvilsong.core.said import Words
from anvilsong.core.spoken import spoken
from anvilsong.core.words import sentence

if TYPE_CHECKING:
    from anvilsong.config import Config
    from anvilsong.core.machine import Machine
    from anvilsong.core.torch.kit import Kit

app = typer.Typer(
    help=say.in_units(sentence("command.about")),
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
)


def read_config() -> Config:
    """The settings of the program; commands that need none do not wait for what reads them."""
    from anvilsong.config import read_config

    return read_config()


@app.command()
def serve(
    shop: Annotated[bool, typer.Option("--shop", help=say.in_units(sentence("command.shop")))] = False,
    https: Annotated[bool, typer.Option("--https", help=say.in_units(sentence("command.https")))] = False,
) -> None:
    """Serve the pages on ANVILSONG_HOST and ANVILSONG_PORT (or PORT) from the database file
    ANVILSONG_DATA.
    """
    gc.disable()  # nothing is dropped while all of it is loaded; the application enables it again
    from anvilsong.web.server import run

    config = read_config()
    if https:
        config = config.model_copy(update={"https": True})
    run(config.for_shop() if shop or config.shop else config, typer.echo)


@app.command()
def passphrase() -> None:
    """Set the passphrase of the shop's network anew: one line of standard input, or nothing for an invented
    one. Every device has to come in again.
    """
    from anvilsong.web.door import fresh_passphrase, set_passphrase

    if sys.stdin.isatty():
        given = typer.prompt(
            say.in_units(sentence("command.new_passphrase")), default="", hide_input=True, show_default=False
        )
    else:
        given = sys.stdin.readline().strip()
    words = given or fresh_passphrase()
    set_passphrase(read_config().beside, words)
    _say(sentence("command.passphrase_is", words=words) if not given else sentence("command.passphrase_set"))


@app.command()
def demo() -> None:
    """Load the invented workshop into the database file, if it is empty, and serve it."""
    gc.disable()  # as for serve
    from anvilsong.demo.workshop import load_demo
    from anvilsong.store.database import open_database, sessions

    engine = open_database(read_config().data)
    with sessions(engine).begin() as session:
        loaded = load_demo(session)
    engine.dispose()
    _say(sentence("command.demo_loaded") if loaded else sentence("command.demo_there"))
    serve()


@app.command()
def work() -> None:
    """Compute what the servers of a logbook on PostgreSQL ask for: parts, photographs, exports. Start as many
    as the machines bear; one that is stopped leaves its work to the others.
    """
    from anvilsong.store.places import OnServer
    from anvilsong.work.queue.doing import work as work_for

    place = read_config().data
    if not isinstance(place, OnServer):
        raise CannotRead(str(place), sentence("command.works_beside_server"))
    work_for(place, typer.echo)


@app.command()
def plan(
    job_file: Annotated[
        str, typer.Argument(metavar="JOB.json", help=say.in_units(sentence("command.job_file")))
    ],
) -> None:
    """Print the plan of a job as JSON."""
    gc.disable()  # it is over before much could be dropped
    from anvilsong.core.plan import make_plan

    job = read_job(_json(job_file))
    made = make_plan(job, *_owned(job)).model_dump(by_alias=True)
    typer.echo(json.dumps(spoken(made), indent=2, ensure_ascii=False))


@app.command()
def trace(
    file: Annotated[Path, typer.Argument(metavar="FILE", help=say.in_units(sentence("command.trace_file")))],
    amps_per_unit: Annotated[
        float | None, typer.Option(min=1e-9, max=1e9, help=say.in_units(sentence("command.amps_per_unit")))
    ] = None,
    rate_hz: Annotated[
        float | None, typer.Option(min=10, max=1e9, help=say.in_units(sentence("command.rate_hz")))
    ] = None,
) -> None:
    """Print what flows in a current trace, a table of a scope or logger or a WAV, as JSON."""
    from anvilsong.instruments.limits import TRACE_BYTES
    from anvilsong.instruments.trace import open_recording, read_trace

    reading = read_trace(open_recording(_file_bytes(file, TRACE_BYTES), amps_per_unit, rate_hz))
    typer.echo(json.dumps(spoken(reading.model_dump()), indent=2, ensure_ascii=False))


@app.command()
def sound(
    file: Annotated[Path, typer.Argument(metavar="FILE", help=say.in_units(sentence("command.sound_file")))],
) -> None:
    """Print what is heard of an arc in a recording as JSON."""
    from anvilsong.instruments.limits import SOUND_BYTES
    from anvilsong.instruments.sound import open_sound, read_sound

    reading = read_sound(open_sound(_file_bytes(file, SOUND_BYTES)))
    typer.echo(json.dumps(spoken(reading.model_dump()), indent=2, ensure_ascii=False))


def _file_bytes(file: Path, most: int) -> bytes:
    """A file's bytes, as far as any such file may be long."""
    if not file.is_file():
        raise CannotRead(str(file), sentence("command.no_such_file"))
    with file.open("rb") as opened:
        return opened.read(most + 1)


def _json(job_file: str) -> object:
    try:
        raw = sys.stdin.buffer.read() if job_file == "-" else Path(job_file).read_bytes()
        return json.loads(raw.decode("utf-8"))
    except json.JSONDecodeError as error:
        raise CannotRead(
            "The job", sentence("command.not_json_line", line=error.lineno, why=error.msg)
        ) from None
    except (ValueError, RecursionError):
        raise CannotRead("The job", sentence("command.not_json_utf_8")) from None


def _owned(job: Job) -> tuple[Machine, Kit]:
    """The machine and kit a job names, from the database file."""
    from anvilsong.core.machine import IDEAL
    from anvilsong.core.torch.kit import Kit

    if job.machine is None and job.kit is None:
        return IDEAL, Kit()
    from anvilsong.store import shop
    from anvilsong.store.database import open_database, sessions

    data = read_config().data
    if isinstance(data, Path) and not data.exists():
        field, name = ("machine", job.machine) if job.machine else ("kit", job.kit)
        raise BadInput.one(
            field, name, sentence("command.no_database_leave_out", place=str(data), field=field)
        )
    with sessions(open_database(data))() as session:
        return shop.find_machine(session, job.machine), shop.find_kit(session, job.kit)


@app.command()
def backup(file: Path) -> None:
    """Copy the database, whole and consistent, to FILE; also while it is in use."""
    from anvilsong.store.backup import backup_to
    from anvilsong.store.places import file_of

    _say(sentence("command.copied", file=str(backup_to(file_of(read_config().data), file))))


@app.command()
def restore(file: Path) -> None:
    """Put the backup FILE in the place of the database; also while it is in use. The database as it was is
    kept beside it.
    """
    from anvilsong.store.backup import restore_from
    from anvilsong.store.places import file_of

    data = file_of(read_config().data)
    if not data.exists():
        raise CannotRead(
            str(data),
            sentence("command.no_database_to_restore"),
        )
    _say(restore_from(data, file).said)


@app.command(name="export")
def export_(file: Path) -> None:
    """Write machines, kits, welders, jobs, plans, coupons and ticks to FILE as JSON."""
    from anvilsong.store.database import existing_database, sessions
    from anvilsong.store.export import export_to

    with sessions(existing_database(read_config().data))() as session:
        written = export_to(session, file)
    _say(sentence("command.wrote", what=written.said, file=str(file)))


@app.command(name="import")
def import_(
    file: Path,
    look: Annotated[bool, typer.Option("--look", help="Store nothing.")] = False,
) -> None:
    """Read what export wrote; what is already here stays."""
    from anvilsong.store.database import existing_database, sessions
    from anvilsong.store.exchange import import_from

    if not file.is_file():
        raise CannotRead(str(file), sentence("command.no_such_file"))
    came = import_from(sessions(existing_database(read_config().data)), file, look)
    if look:
        _say(sentence("command.would_come", what=came.said, file=str(file)))
    else:
        _say(sentence("command.read", what=came.said, file=str(file)))


def _say(words: Words) -> None:
    typer.echo(say.in_units(words))


def _refuse(words: Words) -> NoReturn:
    line = " ".join(say.in_units(words).split())
    print(line.encode("utf-8", "replace").decode("utf-8"), file=sys.stderr)
    raise SystemExit(2)


def main() -> None:
    """Entry point."""
    try:
        app()
    except AnvilsongError as error:
        _refuse(error.words)
    except OSError as error:
        from anvilsong.store.faults import store_fault

        if fault := store_fault(error):
            _refuse(fault.said)
        file, why = str(error.filename or "The file"), error.strerror or str(error)
        _refuse(sentence("command.file_cannot_be_used", file=file, why=why))
    except MemoryError:
        _refuse(sentence("command.no_memory"))
    except Exception as error:
        from anvilsong.store.faults import store_fault

        fault = store_fault(error)
        if fault is None:
            raise
        _refuse(say.joined(f"{read_config().data}: ", fault.said))


if __name__ == "__main__":
    main()
