"""What the commands share: the group, errors in one sentence, a job file and its run."""

from __future__ import annotations

import json
import logging
import math
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

import click

from zeotherm import __version__

if TYPE_CHECKING:
    from rich.console import Console

    from zeotherm.answers.store import Store
    from zeotherm.core.catalogue import Catalogue
    from zeotherm.core.judgement.estimate import Fit
    from zeotherm.core.machine.documents import Job, Setup
    from zeotherm.core.parts.hotend.judge.course import Course
    from zeotherm.core.questions import Question
    from zeotherm.wording.fits import Words


T = TypeVar("T")


class Finite(click.FloatRange):
    """A number that is one: neither not-a-number nor infinite, within bounds where they are stated."""

    name = "number"

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> Any:
        """The number, or one sentence of why not."""
        found = super().convert(value, param, ctx)
        if not math.isfinite(found):
            self.fail(f"{value} is no number that can be counted with.", param, ctx)
        return found

    def _describe_range(self) -> str:
        """What the help says of its bounds; nothing where there are none."""
        return super()._describe_range() if self.min is not None or self.max is not None else ""


FINITE = Finite()
JOB = click.argument("job_file", metavar="JOB.json", type=click.Path(path_type=Path))


class ToldError(click.ClickException):
    """An error told in one sentence on standard error; exit code 1."""

    def show(self, file: Any = None) -> None:
        """One line, without click's own heading."""
        click.echo(f"zeotherm: {self.message}", err=True, file=file)


class ToldGroup(click.Group):
    """Commands whose errors are told in one sentence, ours too: the log keeps what a developer needs. Each part of a
    machine has one of its own, made when it is asked for."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        """All names, in order."""
        from zeotherm.core.parts.registry import PARTS

        return sorted({*super().list_commands(ctx), *(part.command for part in PARTS.values())})

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        """One by its name; none where there is no such command."""
        found = super().get_command(ctx, cmd_name)
        if found is not None:
            return found
        from zeotherm.cli.parts import command_of
        from zeotherm.core.parts.registry import PARTS

        part = next((one for one in PARTS.values() if one.command == cmd_name), None)
        return command_of(part) if part is not None else None

    def invoke(self, ctx: click.Context) -> Any:
        """Run the command."""
        try:
            return super().invoke(ctx)
        except (click.ClickException, click.exceptions.Exit, click.Abort, BrokenPipeError):
            raise
        except Exception as wrong:
            from zeotherm.shop.errors import ShopError
            from zeotherm.shop.logs import start_log
            from zeotherm.shop.places import log_file

            if isinstance(wrong, ShopError):
                raise ToldError(str(wrong)) from None
            start_log()
            logging.getLogger("zeotherm").exception("uncaught in %s", ctx.invoked_subcommand)
            raise ToldError(
                f"something went wrong inside ({type(wrong).__name__}). Nothing was changed; {log_file()} says more."
            ) from None


@click.group(cls=ToldGroup, invoke_without_command=True)
@click.version_option(__version__, prog_name="zeotherm")
@click.pass_context
def main(context: click.Context) -> None:
    """Heat flow in 3D printer hotends: what is too hot, why, and what cures it.

    Without a command, opens the window with your own workshop.
    """
    if context.invoked_subcommand is None:
        context.invoke(main.commands["desk"])


def plain_console() -> Console:
    """Prints words as they are: what a person typed is never read as markup."""
    from rich.console import Console

    return Console(markup=False, emoji=False, highlight=False)


def job_of(path: Path) -> Job:
    """The job in a file, or one sentence of why not."""
    from zeotherm.shop.errors import ShopError
    from zeotherm.shop.files.job_files import read_job

    try:
        return read_job(path)
    except ShopError as wrong:
        raise ToldError(str(wrong)) from None


def catalogue_of(job: Job) -> Catalogue:
    """What holds for a job: the shipped catalogue, the shop's own causes and procedures, the job's own entries."""
    from zeotherm.shop.errors import ShopError
    from zeotherm.shop.files.own_entries import catalogue_beside
    from zeotherm.shop.places import workshop_file

    try:
        return catalogue_beside(workshop_file(), job.catalogue)
    except ShopError as wrong:
        raise ToldError(str(wrong)) from None


@dataclass(frozen=True)
class Subject:
    """A job file, and what is asked about it: the same questions that the window asks."""

    name: str
    job: Job
    catalogue: Catalogue
    store: Store

    @cached_property
    def setup(self) -> Setup:
        """As found, with what is on trial."""
        return self.job.setup()

    @cached_property
    def hours(self) -> Question[Course]:
        """How its job goes, hour by hour."""
        from zeotherm.answers.hotend import hours

        return hours(self.setup, self.job, self.catalogue)

    def ask(self, question: Question[T]) -> T:
        """The answer, or one sentence of why not."""
        from zeotherm.core.catalogue.lookup import DoesNotFitError
        from zeotherm.core.solver.axisymmetric import NotConvergedError
        from zeotherm.core.solver.plate import NotSettledError
        from zeotherm.core.solver.stepping import TooSmallError

        try:
            return self.store.ask(question)
        except DoesNotFitError as wrong:
            raise ToldError(f"{self.name}: {wrong.path}: {wrong}") from None
        except (NotConvergedError, NotSettledError, TooSmallError) as wrong:
            raise ToldError(f"{self.name}: no answer was found: {wrong}. Try other values.") from None


def subject(job_file: Path) -> Subject:
    """A job file, ready to be asked about."""
    from zeotherm.answers.store import Store

    job = job_of(job_file)
    return Subject(job_file.name, job, catalogue_of(job), Store())


def tell_fit(fit: Fit[Any], words: Words, *, as_json: bool) -> None:
    """Print what a curve told of a bed or a case."""
    from zeotherm.shop.papers.results import fit_as_data
    from zeotherm.wording import fits

    if as_json:
        click.echo(json.dumps(fit_as_data(fit, words), indent=2, ensure_ascii=False))
        return
    for one in fit.found:
        click.echo(fits.fitted(one, words))
    click.echo(fits.misfit(fit))
