"""Commands about a hotend that is being put together: the build, the cheapest that does, and its window."""

from __future__ import annotations

import json
from collections.abc import Callable
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

import click

from zeotherm.cli.group import FINITE, JOB, Finite, ToldError, catalogue_of, job_of, main

if TYPE_CHECKING:
    from zeotherm.answers.build import BuildFound
    from zeotherm.answers.store import Store
    from zeotherm.core.catalogue import Catalogue
    from zeotherm.core.machine.documents import Job
    from zeotherm.shop.files.shelf_files import Shelf

F = TypeVar("F", bound=Callable[..., Any])


def _wanted(command: F) -> F:
    """Options for what a hotend is wanted for; what is not given is as the job says."""
    for option in reversed((
        click.option("--plastic", "plastics", multiple=True, metavar="KEY", help="To print; several, each by itself."),
        click.option("--nozzle", "nozzle_c", type=FINITE, metavar="°C", help="Nozzle temperature."),
        click.option("--flow", "flow_mm3_s", type=FINITE, metavar="MM3/S", help="Most flow."),
        click.option("--least-flow", "flow_least_mm3_s", type=FINITE, metavar="MM3/S", help="Least flow of a print."),
        click.option("--hot-within", "hot_within_s", type=FINITE, metavar="S", help="From cold to that temperature."),
        click.option("--air", "air_c", type=FINITE, metavar="°C", help="The warmest air at the print."),
        click.option("--part-fan", "part_fan_pct", type=FINITE, metavar="%", help="Part fan on the block."),
        click.option("--put", "parts", multiple=True, metavar="SLOT=PART", help="A part into a slot: nozzle=hardened"),
    )):  # fmt: skip
        command = option(command)
    return command


@main.command("build")
@JOB
@_wanted
@click.option("--cheapest", "look", is_flag=True, help="Look for the cheapest build that meets every limit.")
@click.option(
    "--sure", "sure_pct", type=Finite(50.0, 99.0), metavar="%", help="Chance with which each limit is to hold."
)
@click.option("--hourly", type=Finite(0.0, 1e4), default=0.0, help="What an hour of work costs.")
@click.option("--shelf", "slot", metavar="SLOT", help="What each part of a slot's shelf would make of it.")
@click.option("--write", is_flag=True, help="Keep what was asked for and put in, in the job file.")
@click.option("--json", "as_json", is_flag=True, help="Print everything as JSON.")
@click.option(
    "-o", "--output", type=click.Path(path_type=Path), help="Write its sheet as .pdf or .html: parts, limits, work."
)
def build(
    job_file: Path, look: bool, hourly: float, slot: str | None, write: bool, as_json: bool, output: Path | None,
    **asked: Any,
) -> None:  # fmt: skip
    """Put a hotend together from the shelf, and hold it against what it is wanted for.

    zeotherm build JOB.json --plastic petg --plastic abs --nozzle 255 --put cooling=axial_40_24v
    """
    from zeotherm.answers.build import build as task_of
    from zeotherm.answers.build import cheapest
    from zeotherm.wording import build as words

    job, catalogue, store = _asked(job_file, asked)
    if slot is not None and slot not in catalogue.slots:
        raise click.UsageError(f"There is no slot '{slot}'. Slots: {', '.join(catalogue.slots)}.")
    prices = _prices()
    found: BuildFound = _last(task_of(store, job, catalogue, prices, slot or ""))
    built = found.built
    if look:
        searched = _last(cheapest(store, job, catalogue, prices, hourly))
    if write:
        _write(job_file, job)
    if output is not None:
        _write_sheet(found, output)
        return
    if as_json:
        data: dict[str, Any] = {"job": job.number, **words.as_data(built, catalogue)}
        if found.watts is not None:
            data["watts"] = {"for_time": found.watts.for_time, "for_flow": found.watts.for_flow,
                             "rule_of_thumb": found.watts.rule, "volts": found.watts.volts}  # fmt: skip
        if found.cold is not None:
            cold = found.cold
            data["cold_side"] = {
                "plastic": cold.plastic, "flow_m3_h": cold.flow, "flow_95_m3_h": cold.flow_band,
                "wants_m3_h": cold.wants, "surely_m3_h": cold.surely, "stops_at_c": cold.stops_at, "band_k": cold.band,
            }  # fmt: skip
        if slot:
            data["shelf"] = {key: words.as_data(one, catalogue) for key, one in (found.tried or {}).items()}
        if look:
            data["cheapest"] = None if searched.best is None else {
                **words.as_data(searched.best, catalogue), "price": searched.price, "proved": searched.proved,
                "solved": searched.solved, "needed": words.needed(searched, catalogue),
            }  # fmt: skip
        click.echo(json.dumps(data, indent=2, ensure_ascii=False))
        return
    verdict = words.verdict(built, catalogue)
    click.echo(verdict.headline)
    click.echo(verdict.reason)
    if others := words.others(found.wanted, catalogue):
        click.echo(others)
    for one in built.slots:
        figure = words.amount(one.row) if one.row is not None else ""
        known = "" if one.known else "not entered"
        click.echo(f"  {catalogue.slots[one.slot].label:14}{one.label:34}{figure:24}{known}".rstrip())
    click.echo("Against the job:")
    for row in built.rows:
        click.echo(f"  {words.sentence(row, catalogue)}")
    click.echo(words.sum_of(built, job.currency))
    if found.watts is not None:
        click.echo(words.watts(found.watts))
    if found.cold is not None:
        click.echo(words.cold(found.cold, found.wanted.air, catalogue))
    for part in found.shelf:
        tried = (found.tried or {}).get(part.key)
        worst = tried.worst if tried is not None else None
        text = words.headline(worst, catalogue) if worst is not None else ""
        click.echo(f"  {part.key:22}{words.offer(part, job.currency):10}{text}".rstrip())
    if look:
        click.echo(words.found(searched, catalogue, job.currency))
        for line in words.needed(searched, catalogue):
            click.echo(f"  {line}")
        if little := words.little_of(searched, job.currency):
            click.echo("Does little here:")
        for line in little:
            click.echo(f"  {line}")


@main.command("window")
@JOB
@_wanted
@click.option("--lines", is_flag=True, help="Print the settings as lines for a controller alone.")
@click.option("--profiles", is_flag=True, help="Print the job's settings and the proposed ones side by side.")
@click.option("--json", "as_json", is_flag=True, help="Print everything as JSON.")
def window(job_file: Path, lines: bool, profiles: bool, as_json: bool, **asked: Any) -> None:
    """Print the window of nozzle temperature against flow, what widens it, and what to set."""
    from zeotherm.answers.window import WindowFound, printing_window
    from zeotherm.wording import settings as setting_words
    from zeotherm.wording import window as words

    job, catalogue, store = _asked(job_file, asked)
    found: WindowFound = _last(printing_window(store, job, catalogue, _prices()))
    assert found.settings is not None
    if lines:
        click.echo(setting_words.as_text(found.settings))
        return
    if as_json:
        data = {"job": job.number, **words.as_data(found.window), "not_entered": list(found.open),
                "settings": {one.key: one.text for one in setting_words.lines_of(found.settings)}}  # fmt: skip
        click.echo(json.dumps(data, indent=2, ensure_ascii=False))
        return
    if profiles:
        for label, was, then in setting_words.compared(job.found.printing, found.settings):
            click.echo(f"{label:24}{was:24}{then}")
        return
    verdict = words.verdict(found.window, catalogue, found.open)
    click.echo(verdict.headline)
    click.echo(verdict.reason)
    click.echo(words.strip(found.window))
    for one in found.window.widenings:
        price = words.price(one, job.currency)
        click.echo(f"  {words.name(one):36}{price:18}{words.gain(one, found.window)}")
    for line in setting_words.lines_of(found.settings):
        click.echo(f"  {line.label:24}{line.text}")


@main.command("remedies")
@click.argument("key", required=False)
@click.argument("job_file", required=False, type=click.Path(exists=True, dir_okay=False, path_type=Path))
@click.option("--json", "as_json", is_flag=True, help="Print the numbers as JSON.")
def remedies(key: str | None, job_file: Path | None, as_json: bool) -> None:
    """Hold parts or remedies against each other: on a job's machine, else on an ordinary one.

    zeotherm remedies; zeotherm remedies breaks JOB.json
    """
    from zeotherm.answers.compare import compare as task_of
    from zeotherm.answers.store import Store
    from zeotherm.core.catalogue import shipped
    from zeotherm.core.choices.compared import ordinary
    from zeotherm.wording import compared as words

    known = shipped().comparisons
    if key is None:
        for name, one in known.items():
            click.echo(f"{name:12}{one.label}: {one.asks}")
        return
    if key not in known:
        raise click.UsageError(f"There is no comparison '{key}'. There are: {', '.join(known)}.")
    job = ordinary(key, shipped()) if job_file is None else job_of(job_file)
    found = _last(task_of(Store(), job, catalogue_of(job), key))
    if as_json:
        click.echo(json.dumps(words.as_data(found), indent=2, ensure_ascii=False))
        return
    about = known[key]
    lines = [words.heads(about), *words.rows(about, found)]
    widths = [max(len(line[n]) for line in lines) for n in range(len(lines[0]))]
    click.echo(about.asks)
    for line in lines:
        click.echo("  " + "   ".join(cell.ljust(wide) for cell, wide in zip(line, widths, strict=True)).rstrip())
    for why in words.refusals(found):
        click.echo(why)
    click.echo(about.why)


def _asked(path: Path, asked: dict[str, Any]) -> tuple[Job, Catalogue, Store]:
    """The job with what is asked for on the command line, its catalogue, and a store of answers."""
    from zeotherm.answers.store import Store
    from zeotherm.core.choices.build.slots import candidates, filled
    from zeotherm.core.machine.documents import patched
    from zeotherm.shop.editing.build_edits import with_build
    from zeotherm.shop.editing.edits import RefusedError

    job = job_of(path)
    catalogue = catalogue_of(job)
    for plastic in asked["plastics"]:
        if plastic not in catalogue.filaments:
            raise click.UsageError(
                f"There is no filament '{plastic}' on the shelf; zeotherm shelf filaments lists them."
            )
    wanted = {key: value for key, value in asked.items() if key != "parts" and value not in (None, ())}
    change = job.build.change
    for text in asked["parts"]:
        slot, equals, key = text.partition("=")
        if not equals or slot not in catalogue.slots:
            raise click.UsageError(f"'{text}' is no part in a slot. Type it as nozzle=hardened; slots: "
                                   f"{', '.join(catalogue.slots)}.")  # fmt: skip
        offers = candidates(slot, job.found, patched(job.found, change), catalogue, dict(_prices()))
        part = next((one for one in offers if one.key == key), None)
        if part is None:
            raise click.UsageError(f"Nothing called '{key}' goes into the {slot} here. What does: "
                                   f"{', '.join(one.key for one in offers)}.")  # fmt: skip
        change = filled(change, part, job.found, catalogue)
    if "plastics" in wanted:
        wanted["plastics"] = list(wanted["plastics"])
    try:
        return with_build(job, **wanted, change=change), catalogue, Store()
    except RefusedError as wrong:
        raise ToldError(str(wrong)) from None


def _write_sheet(found: BuildFound, output: Path) -> None:
    from zeotherm.desk.views.report import reports
    from zeotherm.shop.errors import ShopError

    reports.need_application()
    try:
        reports.save_build(found, _kept, output, date.today().isoformat())
    except ShopError as wrong:
        raise ToldError(str(wrong)) from None


def _kept(kind: str, key: str) -> int | None:
    """How many of a part the shop's drawer has; none where it has not said."""
    return _shelf().kept(kind, key).count


def _prices() -> tuple[tuple[tuple[str, str], float], ...]:
    """What the shop pays for parts, by its own shelf; nothing where it has none."""
    return _shelf().prices


def _shelf() -> Shelf:
    from zeotherm.shop.files import shelf_files
    from zeotherm.shop.places import workshop_file

    return shelf_files.read_shelf(shelf_files.beside(workshop_file()))


def _last(task: Callable[[Callable[[], bool]], Any]) -> Any:
    """The last that a task tells. Raises ToldError where the machine has no answer."""
    from zeotherm.answers.executor import Rest, Until
    from zeotherm.core.catalogue.lookup import DoesNotFitError
    from zeotherm.core.solver.axisymmetric import NotConvergedError

    found = None
    try:
        for step in task(lambda: False):
            if not isinstance(step, Rest | Until):
                found = step
    except (DoesNotFitError, NotConvergedError) as wrong:
        raise ToldError(str(wrong)) from None
    return found


def _write(path: Path, job: Job) -> None:
    from zeotherm.shop.files import job_files

    job_files.write_text(path, job_files.dumps(job))
    click.echo(f"Kept in {path}.", err=True)
