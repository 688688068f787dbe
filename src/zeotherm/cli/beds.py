"""Commands about the bed: what it does, how thick an insulation, how many watts, what its own curve tells."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING

import click

from zeotherm.cli.group import JOB, Finite, ToldError, main, tell_fit
from zeotherm.cli.parts import over_its_course, with_part

if TYPE_CHECKING:
    pass


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
    from zeotherm.answers.bed_sizes import Wish, bed_sizes
    from zeotherm.answers.processes import blocking
    from zeotherm.core.questions import never
    from zeotherm.shop.errors import ShopError
    from zeotherm.shop.files.cut_files import write_outline
    from zeotherm.wording import bed_sizes as words
    from zeotherm.wording.bed import minutes as in_minutes
    from zeotherm.wording.bed_sizes import sizes_as_data

    about, asked = over_its_course(job_file, "bed")
    about.ask(asked)
    setup, job, catalogue = about.setup, about.job, about.catalogue
    tariff = job.measured.tariff if job.measured.tariff is not None else Wish.tariff
    within = minutes if minutes is not None else setup.bed.wanted_min
    room = coldest if coldest is not None else setup.room.mean_c - setup.room.swing_k
    wish = Wish(within, room, supply, prints_a_month=prints, tariff=tariff)
    *_growing, found = blocking(bed_sizes(about.store, job, catalogue, wish)(never))
    rows = [one for one in found.rows if catalogue.insulations[one.material].sizes_mm]
    assert found.staged is not None
    assert found.reachable_c is not None
    if outline is not None:
        if found.cut is None or not any(one.allowed for one in rows):
            raise ToldError("nothing that is sold may be fitted under this bed, so there is no outline.")
        try:
            write_outline(outline, found.cut.outline)
        except ShopError as wrong:
            raise ToldError(str(wrong)) from None
    if as_json:
        data = {"insulations": sizes_as_data(rows), "heater_w": found.heater_w, "reachable_c": found.reachable_c,
                "staged": words.staged(found.staged)}  # fmt: skip
        click.echo(json.dumps(data, indent=2, ensure_ascii=False))
        return
    for one in rows:
        click.echo(words.sized(one, catalogue.insulations[one.material].label, job.currency))
    watts = found.heater_w
    told = f"{watts:.0f} ±{found.heater_band_w:.0f} W when cold" if watts is not None else "no pad that is made"
    click.echo(f"Ready in {in_minutes(60.0 * within)} from {room:.0f} °C: {told}.")
    click.echo(f"In that room the sensor comes to {found.reachable_c:.0f} ±{found.reachable_band_k:.0f} °C at most.")
    click.echo(words.staged(found.staged))


@main.command("bed-fit")
@JOB
@click.argument("log", type=click.Path(path_type=Path))
@click.option("--json", "as_json", is_flag=True, help="Print the fit as JSON.")
def bed_fit(job_file: Path, log: Path, as_json: bool) -> None:
    """Estimate heater, heat capacity and loss of a job's bed from the log of its warm-up."""
    from zeotherm.answers import fits
    from zeotherm.core.questions import never
    from zeotherm.shop.errors import ShopError
    from zeotherm.shop.files.series_files import read_series
    from zeotherm.wording.fits import BED

    about, _part = with_part(job_file, "bed")
    try:
        fit = fits.BED.fit(about.job, about.catalogue, read_series(log, about.catalogue).series, never)
    except (ShopError, ValueError) as wrong:
        raise ToldError(f"{log.name}: {wrong}") from None
    tell_fit(fit, BED, as_json=as_json)


@main.command("bed-tune")
@JOB
@click.option("--lag", type=Finite(0.5, 120.0), help="Of the sensor in its pocket, seconds; else the job's.")
def bed_tune(job_file: Path, lag: float | None) -> None:
    """Simulate a relay test on a job's bed, propose controller values and write their lines."""
    from zeotherm.core.parts.bed.judge.answer import small
    from zeotherm.core.parts.bed.judge.tuning import held, relay
    from zeotherm.core.parts.bed.part import bed_airs
    from zeotherm.wording import bed_sizes as words

    about, asked = over_its_course(job_file, "bed")
    answer = about.ask(asked)
    model, lags = small(answer, bed_airs(about.ask(about.hours))), answer.setup.bed.sensor_lag_s if lag is None else lag
    try:
        tuned = relay(model, lags)
    except ValueError as wrong:
        raise ToldError(f"{job_file.name}: {wrong}.") from None
    for line in words.tuned(tuned, held(model, tuned, lags)):
        click.echo(line)
