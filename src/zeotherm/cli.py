"""The command line: the same answers without a screen."""

from __future__ import annotations

import json
import sys
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from zeotherm import __version__

if TYPE_CHECKING:
    from zeotherm.core.judgement.answer import Answer
    from zeotherm.core.machine.documents import Job

JOB = click.argument("job_file", metavar="JOB.json", type=click.Path(path_type=Path))


class ToldError(click.ClickException):
    """An error told in one sentence on standard error; exit code 1."""

    def show(self, file: Any = None) -> None:
        """One line, without click's own heading."""
        click.echo(f"zeotherm: {self.message}", err=True, file=file)


@click.group(invoke_without_command=True)
@click.version_option(__version__, prog_name="zeotherm")
@click.pass_context
def main(context: click.Context) -> None:
    """Heat flow in 3D printer hotends: what is too hot, why, and what cures it.

    Without a command, opens the window with your own workshop.
    """
    if context.invoked_subcommand is None:
        context.invoke(desk)


@main.command()
@click.option("--workshop", type=click.Path(path_type=Path), help="Workshop file to open instead of your own.")
def desk(workshop: Path | None) -> None:
    """Open the window."""
    from zeotherm.desk.application import run
    from zeotherm.shop.places import workshop_file

    sys.exit(run(workshop or workshop_file(), demo=False))


@main.command()
@click.option("--fresh", is_flag=True, help="Begin again with the demo as it ships.")
def demo(fresh: bool) -> None:
    """Open the window with the demo workshop."""
    from zeotherm.desk.application import run
    from zeotherm.shop.places import demo_file

    if fresh:
        for part in ("", "-wal", "-shm"):
            Path(f"{demo_file()}{part}").unlink(missing_ok=True)
    sys.exit(run(demo_file(), demo=True))


@main.command()
@JOB
@click.option("--json", "as_json", is_flag=True, help="Print everything as JSON.")
def solve(job_file: Path, as_json: bool) -> None:
    """Solve a job: stations, limits, margins, watts.

    Exit codes: 0 solved, 1 the job cannot be read or solved, 2 wrong use of the command.
    """
    job, answer = _answered(job_file)
    if as_json:
        from zeotherm.shop.results import as_data

        click.echo(json.dumps(as_data(job, answer), indent=2, ensure_ascii=False))
    else:
        _print_table(answer)


@main.command()
@JOB
@click.option("-o", "--output", type=click.Path(path_type=Path), required=True, help="File to write: .html or .pdf.")
def report(job_file: Path, output: Path) -> None:
    """Write the one-page report."""
    from zeotherm.desk.reports import write_report
    from zeotherm.shop.errors import ShopError

    if output.suffix.lower() not in (".html", ".pdf"):
        raise click.UsageError(f"{output.name} ends in neither .html nor .pdf.")
    job, answer = _answered(job_file)
    try:
        write_report(job, answer, output, date.today().isoformat())
    except ShopError as wrong:
        raise ToldError(str(wrong)) from None


@main.command()
@JOB
def check(job_file: Path) -> None:
    """Say whether a job file is sound."""
    job = _job(job_file)
    click.echo(f"{job_file.name}: job {job.number}, {job.machine}: sound.")


@main.command()
def schema() -> None:
    """Print the JSON schema of a job file."""
    from zeotherm.shop.job_files import schema as job_schema

    click.echo(json.dumps(job_schema(), indent=2, ensure_ascii=False))


@main.command("set")
@JOB
@click.argument("words", nargs=-1, required=True)
def set_value(job_file: Path, words: tuple[str, ...]) -> None:
    """Change a job file as the entry line does: zeotherm set JOB.json fan 9.1 V"""
    from zeotherm.shop import job_files
    from zeotherm.shop.edits import RefusedError, apply_line
    from zeotherm.shop.errors import ShopError

    job = _job(job_file)
    try:
        changed, text = apply_line(job, " ".join(words))
        job_files.write_text(job_file, job_files.dumps(changed))
    except (RefusedError, ShopError) as wrong:
        raise ToldError(str(wrong)) from None
    click.echo(text)


def _job(path: Path) -> Job:
    from zeotherm.shop.errors import ShopError
    from zeotherm.shop.job_files import read_job

    try:
        return read_job(path)
    except ShopError as wrong:
        raise ToldError(str(wrong)) from None


def _answered(path: Path) -> tuple[Job, Answer]:
    from zeotherm.core.catalogue import shipped
    from zeotherm.core.judgement.answer import first_answer, full_answer
    from zeotherm.core.solver.axisymmetric import NotConvergedError

    job = _job(path)
    try:
        first = first_answer(job.setup(), shipped().with_own(job.catalogue), job.tolerances)
        return job, full_answer(first)
    except NotConvergedError as wrong:
        raise ToldError(
            f"{path.name}: no steady answer was found: {wrong}. Try a slower change or other values."
        ) from None


def _print_table(answer: Answer) -> None:
    from rich.console import Console
    from rich.table import Table

    from zeotherm.wording import margins as words
    from zeotherm.wording.verdict import verdict

    told = verdict(answer)
    console = Console()
    console.print(told.headline, style="bold", highlight=False)
    console.print(told.reason, highlight=False)
    table = Table("part", "value", "limit", "room", "95 % band", "limit holds", "source", box=None)
    for margin in answer.margins:
        table.add_row(
            words.label(margin), words.value(margin), words.limit(margin), words.room(margin), words.band(margin),
            words.sure(margin), margin.source,
        )  # fmt: skip
    console.print(table)
