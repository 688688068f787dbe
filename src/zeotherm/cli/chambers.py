"""Commands about the enclosure: what it comes to, what a change does, what a heater takes and what goes wrong."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING

import click

from zeotherm.cli.group import JOB, ToldError, course_of, job_of, main

if TYPE_CHECKING:
    from zeotherm.core.judgement.chamber.answer import ChamberAnswer
    from zeotherm.core.machine.documents import Job
    from zeotherm.core.twin.whole.run import Run


def _case_of(job: Job, name: str) -> tuple[ChamberAnswer, Run]:
    """A job's enclosure in its machine's run; or one sentence of why not."""
    from zeotherm.core.catalogue import shipped
    from zeotherm.core.judgement.chamber.answer import around_of, encloses, first_case
    from zeotherm.core.solver.plate import NotSettledError
    from zeotherm.core.twin.hotend.inputs import DoesNotFitError

    catalogue, setup = shipped().with_own(job.catalogue), job.setup()
    if not encloses(setup, catalogue):
        raise ToldError(f"{name}: nothing encloses this machine. Set case.part.")
    try:
        run = course_of(job, name).run
        return first_case(setup, catalogue, job.tolerances, arounds=around_of(setup, catalogue, run)), run
    except DoesNotFitError as wrong:
        raise ToldError(f"{name}: {wrong.path}: {wrong}") from None
    except NotSettledError as wrong:
        raise ToldError(f"{name}: {wrong}. Try other values.") from None


@main.command()
@JOB
@click.option("--json", "as_json", is_flag=True, help="Print everything as JSON.")
def chamber(job_file: Path, as_json: bool) -> None:
    """Print how warm a job's case gets, what that does to all in it, and what a change would do."""
    from zeotherm.core.judgement.chamber.answer import around_of, with_case_course
    from zeotherm.core.judgement.chamber.sizing import tried
    from zeotherm.core.judgement.chamber.sure import full_case
    from zeotherm.shop.chamber_results import case_as_data
    from zeotherm.wording import chamber as words
    from zeotherm.wording import margins as rooms
    from zeotherm.wording.bed import minutes

    job = job_of(job_file)
    answer, run = _case_of(job, job_file.name)
    arounds = around_of(answer.setup, answer.catalogue, run)
    answer = full_case(with_case_course(answer, arounds, run.end, run.off), run)
    found = tried(answer, run)
    if as_json:
        click.echo(json.dumps(case_as_data(job, answer, found), indent=2, ensure_ascii=False))
        return
    told = words.verdict(answer)
    click.echo(f"{told.headline}\n{told.reason}\n{words.settles(answer)}")
    if answer.safe_to_open is not None:
        click.echo(f"It may be opened {minutes(answer.safe_to_open)} after switching off.")
    for margin in answer.margins:
        if margin.room is not None:
            click.echo(f"{rooms.label(margin):18} {rooms.value(margin):>10}  {rooms.room(margin)} {rooms.band(margin)}")
    for line in (*words.losses(answer), *(words.tried(one) for one in found)):
        click.echo(line)


@main.command("chamber-size")
@JOB
@click.option("--wanted", type=click.FloatRange(20.0, 120.0), help="At the print, °C; else as the job asks.")
@click.option("--minutes", "within", type=click.FloatRange(1.0, 240.0), default=45.0, help="Within which it is wanted.")
@click.option("--coldest", type=click.FloatRange(-20.0, 45.0), help="Room for that, °C; else the job's coldest.")
@click.option("--json", "as_json", is_flag=True, help="Print the sizes as JSON.")
def chamber_size(job_file: Path, wanted: float | None, within: float, coldest: float | None, as_json: bool) -> None:
    """Size a case's heater, its cut-out and its openings, and tell what happens when something fails."""
    from zeotherm.core.judgement.chamber.sizing import cut_out, gone_wrong, heater_for, vents_for
    from zeotherm.shop.chamber_results import sizes_as_data
    from zeotherm.wording import chamber as words

    job = job_of(job_file)
    answer, _run = _case_of(job, job_file.name)
    asked = wanted if wanted is not None else answer.setup.case.target_c
    if asked <= 0.0:
        raise ToldError(f"{job_file.name}: no temperature is wanted of this case. Set case.target_c, or say --wanted.")
    room = coldest if coldest is not None else answer.setup.room.mean_c - answer.setup.room.swing_k
    heater = heater_for(answer, asked, 60.0 * within, room)
    cut, faults, vents = cut_out(answer), gone_wrong(answer), vents_for(answer, asked)
    if as_json:
        click.echo(json.dumps(sizes_as_data(heater, cut, faults, vents), indent=2, ensure_ascii=False))
        return
    click.echo(words.heater(heater, asked))
    click.echo(words.vents(vents, asked))
    if cut is not None:
        click.echo(words.cut_out(cut))
    for one in faults:
        click.echo(words.gone(one))
    click.echo(
        "A fixed heater wants earth, a fuse and a cut-off of its own; mains work belongs to licensed persons, "
        "local codes apply. Never bridge a cut-out."
    )
