"""The command line."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Annotated

import typer
import uvicorn

from anvilsong.config import Config
from anvilsong.core.errors import AnvilsongError, BadInput
from anvilsong.core.job import Job, read_job
from anvilsong.core.machine.model import IDEAL, Machine
from anvilsong.core.plan.planner import make_plan
from anvilsong.core.torch.kit import Kit
from anvilsong.demo.workshop import load_demo
from anvilsong.store import book
from anvilsong.store.database import open_database, sessions
from anvilsong.store.exchange import backup_to, export_to, import_from
from anvilsong.web.app import create_app

app = typer.Typer(help="Anvilsong: settings for AC TIG welding of aluminium.", no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False)


@app.command()
def serve() -> None:
    """Serve the pages on ANVILSONG_HOST and ANVILSONG_PORT from the database file ANVILSONG_DATA."""
    config = Config()
    typer.echo(f"Anvilsong: http://{config.host}:{config.port}  (database {config.data})")
    uvicorn.run(create_app(config), host=config.host, port=config.port, log_level="warning")


@app.command()
def demo() -> None:
    """Load the invented workshop into the database file, if it is empty, and serve it."""
    make = sessions(open_database(Config().data))
    with make.begin() as session:
        loaded = load_demo(session)
    typer.echo("Loaded the workshop." if loaded else "The workshop is already there.")
    serve()


@app.command()
def plan(job_file: Annotated[str, typer.Argument(metavar="JOB.json", help="A job as JSON, or - for standard input.")]) -> None:
    """Print the plan of a job as JSON."""
    try:
        text = sys.stdin.read() if job_file == "-" else Path(job_file).read_text(encoding="utf-8")
        job = read_job(json.loads(text))
        made = make_plan(job, *_owned(job))
    except json.JSONDecodeError as error:
        _refuse(f"job: what was given is not JSON; line {error.lineno}: {error.msg}.")
    except OSError as error:
        _refuse(f"{job_file}: cannot be read; {error.strerror}.")
    except AnvilsongError as error:
        _refuse(str(error))
    else:
        typer.echo(made.model_dump_json(indent=2, by_alias=True))


def _owned(job: Job) -> tuple[Machine, Kit]:
    """The machine and kit a job names, from the database file."""
    if job.machine is None and job.kit is None:
        return IDEAL, Kit()
    data = Config().data
    if not data.exists():
        field, name = ("machine", job.machine) if job.machine else ("kit", job.kit)
        raise BadInput.one(field, name, f"there is no database at {data}; leave {field} out")
    with sessions(open_database(data))() as session:
        return book.find_machine(session, job.machine), book.find_kit(session, job.kit)


def _refuse(sentence: str) -> None:
    typer.echo(" ".join(sentence.split()), err=True)
    raise typer.Exit(2)


@app.command()
def backup(file: Path) -> None:
    """Copy the database, whole and consistent, to FILE."""
    typer.echo(f"Copied to {backup_to(Config().data, file)}.")


@app.command(name="export")
def export_(file: Path) -> None:
    """Write machines, welders, jobs, plans and coupons to FILE as JSON."""
    make = sessions(open_database(Config().data))
    with make() as session:
        counts = export_to(session, file)
    typer.echo(f"Wrote {counts} to {file}.")


@app.command(name="import")
def import_(file: Path) -> None:
    """Read what export wrote; what is already here stays."""
    make = sessions(open_database(Config().data))
    try:
        with make.begin() as session:
            counts = import_from(session, file)
    except AnvilsongError as error:
        _refuse(str(error))
    else:
        typer.echo(f"Read {counts} from {file}.")


def main() -> None:
    """Entry point."""
    app()


if __name__ == "__main__":
    main()
