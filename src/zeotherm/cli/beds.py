"""Commands about the bed: what it does, how thick an insulation, how many watts, what its own curve tells."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING

import click

from zeotherm.cli.group import JOB, Finite, ToldError, catalogue_of, course_of, job_of, main, tell_fit

if TYPE_CHECKING:
    from zeotherm.core.judgement.bed.answer import Airs, BedAnswer
    from zeotherm.core.machine.documents import Job


def _bed_of(job: Job, name: str) -> tuple[BedAnswer, Airs]:
    """A job's bed with its course, in what it stands in along the machine's run; or one sentence of why not."""
    from zeotherm.core.catalogue.lookup import DoesNotFitError
    from zeotherm.core.judgement.bed.answer import airs_of, first_bed, heated, with_control, with_course
    from zeotherm.core.solver.plate import NotSettledError
    from zeotherm.core.solver.stepping import TooSmallError

    catalogue, setup = catalogue_of(job), job.setup()
    if not heated(setup, catalogue):
        raise ToldError(f"{name}: no heated bed in it. Set bed.part, bed.heater_w and bed.target_c.")
    try:
        airs = airs_of(course_of(job, name).run)
        answer = with_course(first_bed(setup, catalogue, job.tolerances, airs=airs), airs)
        return with_control(answer, airs), airs
    except DoesNotFitError as wrong:
        raise ToldError(f"{name}: {wrong.path}: {wrong}") from None
    except (NotSettledError, TooSmallError) as wrong:
        raise ToldError(f"{name}: no answer for this bed: {wrong}. Try other values.") from None


@main.command()
@JOB
@click.option("--json", "as_json", is_flag=True, help="Print everything as JSON.")
def bed(job_file: Path, as_json: bool) -> None:
    """Print how warm, even and quick a job's bed is, against every limit, and what would help."""
    from zeotherm.core.judgement.bed.rivals import rivals
    from zeotherm.core.judgement.bed.sure import asked_of, full_bed
    from zeotherm.shop.bed_results import bed_as_data
    from zeotherm.wording import bed as words
    from zeotherm.wording import margins as rooms

    job = job_of(job_file)
    answer, airs = _bed_of(job, job_file.name)
    answer = full_bed(answer, airs)
    why = rivals(answer.setup, answer.catalogue, asked_of(answer, airs))
    if as_json:
        click.echo(json.dumps(bed_as_data(job, answer, why), indent=2, ensure_ascii=False))
        return
    told = words.verdict(answer)
    click.echo(f"{told.headline}\n{told.reason}\n{words.outlook(answer)}")
    click.echo(f"{words.balance(answer)}. {words.sensor_offset(answer)}.")
    for one in answer.readout.interfaces:
        click.echo(f"  {words.interface(one):16} {one.temperature:6.1f} °C")
    for margin in answer.margins:
        if margin.room is not None:
            click.echo(f"{rooms.label(margin):18} {rooms.value(margin):>10}  {rooms.room(margin)} {rooms.band(margin)}")
    click.echo(words.enough(answer))
    if answer.controlled is not None:
        click.echo(words.controlled(answer.controlled))
    for each in why:
        click.echo(words.rival(each))


@main.command("bed-size")
@JOB
@click.option("--minutes", type=Finite(1.0, 180.0), help="Have the bed ready within; else as the job asks.")
@click.option("--coldest", type=Finite(-20.0, 45.0), help="Room for that, °C; else the job's coldest.")
@click.option("--supply", type=Finite(20.0, 5000.0), default=350.0, help="Watts that the supply gives.")
@click.option("--prints", type=Finite(0.1, 1000.0), default=20.0, help="Prints a month.")
@click.option("--outline", type=click.Path(path_type=Path), help="Write the insulation's outline as .dxf or .svg.")
@click.option("--json", "as_json", is_flag=True, help="Print the sizes as JSON.")
def bed_size(
    job_file: Path, minutes: float | None, coldest: float | None, supply: float, prints: float, outline: Path | None,
    as_json: bool,
) -> None:  # fmt: skip
    """Size insulation, heater and preheat of a job's bed."""
    from zeotherm.core.judgement.bed.cutting import cut_list
    from zeotherm.core.judgement.bed.sizing import Costs, Sizer
    from zeotherm.core.judgement.bed.sure import asked_of
    from zeotherm.core.machine.documents import patched
    from zeotherm.shop.bed_results import sizes_as_data
    from zeotherm.shop.cut_files import write_outline
    from zeotherm.shop.errors import ShopError
    from zeotherm.wording import bed as words

    job = job_of(job_file)
    answer, airs = _bed_of(job, job_file.name)
    setup, catalogue = answer.setup, answer.catalogue
    tariff = job.measured.tariff if job.measured.tariff is not None else 0.30
    print_s = 60.0 * (setup.schedule.soak_min + setup.schedule.print_min)
    sizer = Sizer(setup, catalogue, asked_of(answer, airs), Costs(tariff, prints, print_s))
    rows = [
        sizer.best(key) or sizer.sized(key, 1e-3 * min(one.sizes_mm))
        for key, one in catalogue.insulations.items()
        if one.sizes_mm
    ]
    within = 60.0 * (minutes if minutes is not None else setup.bed.wanted_min)
    room = coldest if coldest is not None else setup.room.mean_c - setup.room.swing_k
    watts, staged = sizer.watts_for(within, room), sizer.staged(supply, 30.0, setup.hotend.heater_power_w)
    best = max((one for one in rows if one.allowed), key=lambda one: one.saved_watts, default=None)
    if outline is not None:
        if best is None:
            raise ToldError("nothing that is sold may be fitted under this bed, so there is no outline.")
        fitted = patched(setup, {"bed": {"insulation": best.material, "insulation_mm": 1e3 * best.thickness}}).bed
        try:
            write_outline(outline, cut_list(catalogue.beds[setup.bed.part], fitted, catalogue).outline)
        except ShopError as wrong:
            raise ToldError(str(wrong)) from None
    if as_json:
        found = {"insulations": sizes_as_data(rows), "heater_w": watts, "reachable_c": sizer.reachable(room),
                 "staged": words.staged(staged)}  # fmt: skip
        click.echo(json.dumps(found, indent=2, ensure_ascii=False))
        return
    for one in rows:
        click.echo(words.sized(one, catalogue.insulations[one.material].label, job.currency))
    wide = sizer.heater_band(watts, room) if watts is not None else 0.0
    told = f"{watts:.0f} ±{wide:.0f} W when cold" if watts is not None else "no pad that is made"
    click.echo(f"Ready in {words.minutes(within)} from {room:.0f} °C: {told}.")
    click.echo(
        f"In that room the sensor comes to {sizer.reachable(room):.0f} ±{sizer.reachable_band(room):.0f} °C at most."
    )
    click.echo(words.staged(staged))


@main.command("bed-fit")
@JOB
@click.argument("log", type=click.Path(path_type=Path))
@click.option("--json", "as_json", is_flag=True, help="Print the fit as JSON.")
def bed_fit(job_file: Path, log: Path, as_json: bool) -> None:
    """Estimate heater, heat capacity and loss of a job's bed from the log of its warm-up."""
    from zeotherm.core.judgement.bed.fit import fit_bed
    from zeotherm.core.runs.warm_up import warm_up_of
    from zeotherm.shop.errors import ShopError
    from zeotherm.shop.series_files import read_series
    from zeotherm.wording.fits import BED

    job = job_of(job_file)
    answer, _airs = _bed_of(job, job_file.name)
    try:
        series = read_series(log, answer.catalogue).series
        measured = warm_up_of(series, answer.setup.room.mean_c, answer.setup.bed.target_c)
        fit = fit_bed(answer.resolved, measured)
    except (ShopError, ValueError) as wrong:
        raise ToldError(f"{log.name}: {wrong}") from None
    tell_fit(fit, BED, as_json=as_json)


@main.command("bed-tune")
@JOB
@click.option("--lag", type=Finite(0.5, 120.0), help="Of the sensor in its pocket, seconds; else the job's.")
def bed_tune(job_file: Path, lag: float | None) -> None:
    """Simulate a relay test on a job's bed, propose controller values and write their lines."""
    from zeotherm.core.judgement.bed.answer import small
    from zeotherm.core.judgement.bed.tuning import held, relay
    from zeotherm.wording import bed as words

    answer, airs = _bed_of(job_of(job_file), job_file.name)
    model, lags = small(answer, airs), answer.setup.bed.sensor_lag_s if lag is None else lag
    try:
        tuned = relay(model, lags)
    except ValueError as wrong:
        raise ToldError(f"{job_file.name}: {wrong}.") from None
    for line in words.tuned(tuned, held(model, tuned, lags)):
        click.echo(line)
