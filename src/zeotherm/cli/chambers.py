"""Commands about the enclosure: what it comes to, how to heat it, what it suits, and what its own curve tells."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING

import click

from zeotherm.cli.group import JOB, Finite, ToldError, job_of, main, tell_fit
from zeotherm.cli.parts import at_rest, with_part

if TYPE_CHECKING:
    pass


@main.command("chamber-size")
@JOB
@click.option("--wanted", type=Finite(20.0, 120.0), help="At the print, °C; else as the job asks.")
@click.option("--minutes", "within", type=Finite(1.0, 240.0), default=45.0, help="Within which it is wanted.")
@click.option("--coldest", type=Finite(-20.0, 45.0), help="Room for that, °C; else the job's coldest.")
@click.option("--spread", type=Finite(0.5, 40.0), default=5.0, help="Between print and roof, K.")
@click.option("--on", "others", multiple=True, type=click.Path(path_type=Path),
              help="Another machine's job: whether it can print the parts to be printed anew.")  # fmt: skip
@click.option("--json", "as_json", is_flag=True, help="Print the sizes as JSON.")
def chamber_size(
    job_file: Path, wanted: float | None, within: float, coldest: float | None, spread: float,
    others: tuple[Path, ...], as_json: bool,
) -> None:  # fmt: skip
    """Size a case's heater, cut-out, mixing and openings; tell what stands it, and write the controller's lines."""
    from zeotherm.answers.enclosure_sizes import SIZED, elsewhere
    from zeotherm.core.guard.fitted import assumed_of
    from zeotherm.core.parts.enclosure.judge.leads import lead_schedule
    from zeotherm.core.parts.enclosure.judge.protecting import printed_anew
    from zeotherm.wording import enclosure as words
    from zeotherm.wording import enclosure_sizes as sizes
    from zeotherm.wording.enclosure_sizes import sizes_as_data

    about, rest = at_rest(job_file, "case")
    answer, job = about.ask(rest), about.job
    asked = wanted if wanted is not None else answer.setup.case.target_c
    if asked <= 0.0:
        raise ToldError(f"{job_file.name}: no temperature is wanted of this case. Set case.target_c, or say --wanted.")
    room = coldest if coldest is not None else answer.setup.room.mean_c - answer.setup.room.swing_k
    found = about.ask(SIZED.of(rest, about.hours, asked, 60.0 * within, room, spread, assumed_of(job)))
    if as_json:
        click.echo(json.dumps(sizes_as_data(found, answer.catalogue), indent=2, ensure_ascii=False))
        return
    setup = answer.setup
    lines = [words.heater(found.heater, asked), *(sizes.placed(one, answer.catalogue, asked) for one in found.places)]
    if not answer.resolved.inputs.heats and found.watts > 0.0:
        lines.insert(1, sizes.count(found.watts, found.count))
    lines += [sizes.outlet(found.outlet), sizes.mixing(found.mixing, spread), words.vents(found.vents, asked)]
    lines += [words.cut_out(found.cut)] if found.cut is not None else []
    lines += sizes.parts(found.parts, job.currency, setup.case.printed_count, setup.case.printed_g)
    for path in others:
        other = job_of(path)
        for plastic in sorted(printed_anew(found.parts)):
            warm = about.ask(elsewhere(other, plastic))
            told = f"{other.machine}: nothing can be said of {answer.catalogue.filaments[plastic].label} on it."
            lines.append(sizes.prints_it(warm, answer.catalogue, other.machine) if warm is not None else told)
    lines += [words.gone(one) for one in found.gone]
    lines += [sizes.fit(one) for one in found.fits] or [sizes.unmeasured()]
    lines.append(sizes.leads(lead_schedule(setup)))
    lines += [sizes.control_line(one) for one in found.lines]
    click.echo("\n".join(lines))
    click.echo(
        "A fixed heater wants earth, a fuse and a cut-off of its own; mains work belongs to licensed persons, "
        "local codes apply. Never bridge a cut-out."
    )


@main.command("chamber-suits")
@JOB
@click.option("--json", "as_json", is_flag=True, help="Print the filaments as JSON.")
def chamber_suits(job_file: Path, as_json: bool) -> None:
    """Print how warm the print's air may be for each filament before its cold end creeps on this machine."""
    from zeotherm.answers.enclosure_sizes import WARM
    from zeotherm.wording import enclosure_sizes as words
    from zeotherm.wording.enclosure_sizes import warmths_as_data

    about, rest = at_rest(job_file, "case")
    found = about.ask(WARM.of(rest, about.hours, about.job.tolerances))
    if as_json:
        click.echo(json.dumps(warmths_as_data(found, about.catalogue), indent=2, ensure_ascii=False))
        return
    for one in found:
        click.echo(words.filament(one, about.catalogue))


@main.command("chamber-fit")
@JOB
@click.argument("log", type=click.Path(path_type=Path))
@click.option("--json", "as_json", is_flag=True, help="Print the fit as JSON.")
def chamber_fit(job_file: Path, log: Path, as_json: bool) -> None:
    """Estimate a case's loss, leaks and held heat from the log of its warm-up."""
    from zeotherm.answers import fits
    from zeotherm.core.questions import never
    from zeotherm.shop.errors import ShopError
    from zeotherm.shop.files.series_files import read_series
    from zeotherm.wording.fits import CASE

    about, _part = with_part(job_file, "case")
    try:
        fit = fits.CASE.fit(about.job, about.catalogue, read_series(log, about.catalogue).series, never)
    except (ShopError, ValueError) as wrong:
        raise ToldError(f"{log.name}: {wrong}") from None
    tell_fit(fit, CASE, as_json=as_json)


@main.command("chamber-panels")
@JOB
@click.argument("drawing", type=click.Path(path_type=Path))
def chamber_panels(job_file: Path, drawing: Path) -> None:
    """Write the panels of a job's case with their holes as .dxf or .svg, and print the hole list."""
    from zeotherm.core.parts.enclosure.judge.panels import panels_of
    from zeotherm.shop.errors import ShopError
    from zeotherm.shop.files.cut_files import write_outlines
    from zeotherm.wording import enclosure_sizes as words

    about, _part = with_part(job_file, "case")
    panels = panels_of(about.setup, about.catalogue)
    try:
        write_outlines(drawing, panels)
    except ShopError as wrong:
        raise ToldError(str(wrong)) from None
    for panel in panels:
        click.echo(words.panel(panel))
