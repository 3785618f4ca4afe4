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

if TYPE_CHECKING:
    from anvilsong.config import Config
    from anvilsong.core.machine import Machine
    from anvilsong.core.torch.kit import Kit

app = typer.Typer(
    help="Anvilsong: settings for AC TIG welding of aluminium.",
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
)


def read_config() -> Config:
    """The settings of the program; commands that need none do not wait for what reads them."""
    from anvilsong.config import read_config

    return read_config()


@app.command()
def serve() -> None:
    """Serve the pages on ANVILSONG_HOST and ANVILSONG_PORT (or PORT) from the database file
    ANVILSONG_DATA.
    """
    gc.disable()  # nothing is dropped while all of it is loaded; the application enables it again
    from anvilsong.web.server import run

    run(read_config(), typer.echo)


@app.command()
def demo() -> None:
    """Load the invented workshop into the database file, if it is empty, and serve it."""
    from anvilsong.demo.workshop import load_demo
    from anvilsong.store.database import open_database, sessions

    engine = open_database(read_config().data)
    with sessions(engine).begin() as session:
        loaded = load_demo(session)
    engine.dispose()
    typer.echo("Loaded the workshop." if loaded else "The workshop is already there.")
    serve()


@app.command()
def plan(
    job_file: Annotated[
        str, typer.Argument(metavar="JOB.json", help="A job as JSON, or - for standard input.")
    ],
) -> None:
    """Print the plan of a job as JSON."""
    from anvilsong.core.plan import make_plan

    job = read_job(_json(job_file))
    typer.echo(say.in_units(make_plan(job, *_owned(job)).model_dump_json(indent=2, by_alias=True)))


def _json(job_file: str) -> object:
    try:
        raw = sys.stdin.buffer.read() if job_file == "-" else Path(job_file).read_bytes()
        return json.loads(raw.decode("utf-8"))
    except json.JSONDecodeError as error:
        raise CannotRead("The job", f"what was given is not JSON; line {error.lineno}: {error.msg}") from None
    except (ValueError, RecursionError):
        raise CannotRead("The job", "what was given is not JSON in UTF-8") from None


def _owned(job: Job) -> tuple[Machine, Kit]:
    """The machine and kit a job names, from the database file."""
    from anvilsong.core.machine import IDEAL
    from anvilsong.core.torch.kit import Kit

    if job.machine is None and job.kit is None:
        return IDEAL, Kit()
    from anvilsong.store import shop
    from anvilsong.store.database import open_database, sessions

    data = read_config().data
    if not data.exists():
        field, name = ("machine", job.machine) if job.machine else ("kit", job.kit)
        raise BadInput.one(field, name, f"there is no database at {data}; leave {field} out")
    with sessions(open_database(data))() as session:
        return shop.find_machine(session, job.machine), shop.find_kit(session, job.kit)


@app.command()
def backup(file: Path) -> None:
    """Copy the database, whole and consistent, to FILE; also while it is in use."""
    from anvilsong.store.backup import backup_to

    typer.echo(f"Copied to {backup_to(read_config().data, file)}.")


@app.command()
def restore(file: Path) -> None:
    """Put the backup FILE in the place of the database; also while it is in use. The database as it was is
    kept beside it.
    """
    from anvilsong.store.backup import restore_from

    data = read_config().data
    if not data.exists():
        raise CannotRead(
            str(data),
            "there is no database there; if this is where it belongs, start serve once and restore then",
        )
    typer.echo(restore_from(data, file).said)


@app.command(name="export")
def export_(file: Path) -> None:
    """Write machines, kits, welders, jobs, plans, coupons and ticks to FILE as JSON."""
    from anvilsong.store.database import existing_database, sessions
    from anvilsong.store.export import export_to

    with sessions(existing_database(read_config().data))() as session:
        written = export_to(session, file)
    typer.echo(f"Wrote {written.said} to {file}.")


@app.command(name="import")
def import_(file: Path) -> None:
    """Read what export wrote; what is already here stays."""
    from anvilsong.store.database import existing_database, sessions
    from anvilsong.store.exchange import import_from

    if not file.is_file():
        raise CannotRead(str(file), "there is no such file")
    came = import_from(sessions(existing_database(read_config().data)), file)
    typer.echo(f"Read {came.said} from {file}.")


def _refuse(sentence: str) -> NoReturn:
    line = say.in_units(" ".join(sentence.split()))
    print(line.encode("utf-8", "replace").decode("utf-8"), file=sys.stderr)
    raise SystemExit(2)


def main() -> None:
    """Entry point."""
    try:
        app()
    except AnvilsongError as error:
        _refuse(str(error))
    except OSError as error:
        from anvilsong.store.faults import store_fault

        if fault := store_fault(error):
            _refuse(fault.said)
        _refuse(f"{error.filename or 'The file'} cannot be used: {error.strerror or error}.")
    except MemoryError:
        _refuse("There is not enough memory for this.")
    except Exception as error:
        from anvilsong.store.faults import store_fault

        fault = store_fault(error)
        if fault is None:
            raise
        _refuse(f"{read_config().data}: {fault.said}")


if __name__ == "__main__":
    main()
