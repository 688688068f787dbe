"""Commands about the work: procedures, the order of a job, how long to wait, own procedures checked."""

from __future__ import annotations

import json
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from zeotherm.cli.group import FINITE, JOB, ToldError, catalogue_of, job_of, main, plain_console, subject

if TYPE_CHECKING:
    from zeotherm.core.machine.doing import HoldReading


@main.command()
@click.argument("key", required=False)
def procedures(key: str | None) -> None:
    """List the procedures, or print one step by step with its hazards, gates, records and exits."""
    from zeotherm.core.catalogue import shipped
    from zeotherm.wording import work

    catalogue = shipped()
    if key is None:
        for name, one in sorted(catalogue.procedures.items(), key=lambda item: item[1].rank):
            click.echo(f"{name:18} {one.label}: {one.why}")
        return
    if key not in catalogue.procedures:
        raise ToldError(f"Nothing is called '{key}'. Known: {', '.join(catalogue.procedures)}.")
    for number, step in enumerate(catalogue.procedures[key].steps, 1):
        click.echo(f"{number}. {step.label} ({work.minutes(step.minutes)})")
        for caution in step.cautions:
            about = catalogue.cautions[caution]
            click.echo(f"   {about.sign.upper()}: {about.text}")
        click.echo(f"   {step.text}")
        for gate in step.gates:
            click.echo(f"   [ ] {gate.text}" if gate.kind == "tick" else f"   {work.wait_rule(gate, catalogue)}")
        for record in step.record:
            click.echo(f"   note: {record.label} {record.unit}".rstrip())
        click.echo(f"   ends: {' / '.join(one.label for one in step.exits)}")
        click.echo(f"   if it goes wrong: {step.failing}")


@main.command()
@JOB
@click.option("--procedure", "keys", multiple=True, help="Put this on the order; without it, what the job asks for.")
@click.option("--json", "as_json", is_flag=True, help="Print the order as JSON.")
@click.option("-o", "--output", type=click.Path(path_type=Path), help="Write it as .html or .pdf, for the bench.")
def order(job_file: Path, keys: tuple[str, ...], as_json: bool, output: Path | None) -> None:
    """Print the work order of a job: what carries its taken options out, or what is asked for."""
    from zeotherm.core.work.proving import in_order, proof, suggested
    from zeotherm.shop.editing.edits import RefusedError
    from zeotherm.shop.editing.work_edits import order_of, with_doing
    from zeotherm.shop.errors import ShopError
    from zeotherm.shop.papers.results import order_as_data

    job = job_of(job_file)
    catalogue = catalogue_of(job)
    unknown = [key for key in keys if key not in catalogue.procedures]
    if unknown:
        raise ToldError(f"Nothing is called '{unknown[0]}'. Known: {', '.join(catalogue.procedures)}.")
    names = list(keys) or job.doing.procedures or suggested(job, catalogue)
    if not names:
        raise ToldError(f"{job_file.name}: no option is taken and no cause is decided. Name a --procedure.")
    try:
        job = with_doing(job, procedures=in_order(names, catalogue))
        found, asked = order_of(job, catalogue), proof(job)
        if output is not None:
            from zeotherm.desk.views.report import reports

            reports.need_application()
            reports.save_order(job, catalogue, asked, output, date.today().isoformat())
            return
    except (RefusedError, ShopError) as wrong:
        raise ToldError(str(wrong)) from None
    data = order_as_data(job, found, asked, catalogue)
    if as_json:
        click.echo(json.dumps(data, indent=2, ensure_ascii=False))
    else:
        _print_order(data)


def _print_order(data: dict[str, Any]) -> None:
    from rich.table import Table

    console = plain_console()
    head = f"{' + '.join(data['procedures'])}: {data['steps']} steps, {data['minutes']:.0f} min"
    console.print(head, style="bold")
    table = Table("", "step", "hazards", "°C", "min", box=None, pad_edge=False)
    for line in data["lines"]:
        mark = {"done": "x", "now": ">", "ahead": " ", "barred": "-"}[line["status"]]
        heat = f"{line['target_c']:.0f}" if line["target_c"] is not None else ""
        told = f"{line['label']}. {line['bar']}" if line["bar"] else line["label"]
        table.add_row(mark, told, " ".join(line["signs"]), heat, f"{line['minutes']:.0f}")
    console.print(table)
    console.print(f"Proof run: {data['proof']['text']}.")


@main.command()
@JOB
@click.option("--from", "start", type=FINITE, help="Block when the heat goes off, °C; without it, print temperature.")
@click.option("--no-fan", is_flag=True, help="The sink fan stops with the heat.")
@click.option("--read", "readings", multiple=True, metavar="M:SS=°C", help="A contact reading so long after.")
def cooldown(job_file: Path, start: float | None, no_fan: bool, readings: tuple[str, ...]) -> None:
    """Tell how long the block takes until it is safe to touch, sharpened by readings taken meanwhile."""
    from zeotherm.core.runs.own_pace import block_cooling
    from zeotherm.core.work.holding import held
    from zeotherm.core.work.waits import touch_limit
    from zeotherm.wording import work

    job = job_of(job_file)
    catalogue = catalogue_of(job)
    begin = start if start is not None else job.found.printing.nozzle_c
    if not 30.0 <= begin <= 500.0:
        raise ToldError(f"{begin:g} °C is no block to wait for. Give 30 to 500.")
    taken = sorted((_reading(text) for text in readings), key=lambda one: one.after_s)
    curve, seen = block_cooling(job.found, job.measured.logged().values(), catalogue, begin, fan=not no_fan)
    limit = touch_limit(catalogue)
    found = held(curve, taken, taken[-1].after_s if taken else 0.0, limit)
    for one, said in zip(taken, found.said, strict=True):
        if told := work.doubted(said):
            click.echo(f"{one.value:g} °C after {work.span(one.after_s)} does not count. {told}")
    when = found.forecast.when(limit)
    if when is None:
        click.echo(f"Not below {limit:.0f} °C within {work.span(float(curve.times[-1]))}.")
        return
    own = " by this machine's own runs" if seen else ""
    click.echo(f"Below {limit:.0f} °C after {work.between(when)}{own}; touch it only when a contact probe says so.")
    click.echo(f"Limit: {work.touch_source(catalogue)}.")


def _reading(text: str) -> HoldReading:
    """A contact reading as typed."""
    from zeotherm.core.machine.doing import HoldReading

    clock, _equals, value = text.partition("=")
    minutes, _colon, seconds = clock.partition(":")
    try:
        return HoldReading(after_s=int(minutes) * 60.0 + float(seconds or 0.0), value=float(value))
    except ValueError:  # of pydantic too: not finite, before the start, hotter than anything
        raise ToldError(f"'{text}' is no reading. Type it as 2:30=142 (after two and a half minutes).") from None


@main.command("check-own")
@click.argument("file", type=click.Path(path_type=Path))
def check_own(file: Path) -> None:
    """Check a file of own causes or own procedures: names the file, the line and the step that is wrong."""
    from zeotherm.shop.errors import ShopError
    from zeotherm.shop.files.own_entries import CAUSES, WORK, read_own

    if not file.exists():
        raise ToldError(f"{file} is not there.")
    try:
        patch = read_own(CAUSES if file.name == CAUSES.name else WORK, file)
    except ShopError as wrong:
        raise ToldError(str(wrong)) from None
    count = sum(len(entries) for entries in patch.values() if isinstance(entries, dict))
    click.echo(f"{file.name}: {count} entries, nothing wrong with them.")


@main.command("card")
@JOB
@click.option("--json", "as_json", is_flag=True, help="Print the card as JSON.")
@click.option("-o", "--output", type=click.Path(path_type=Path), help="Write it as .pdf or .html instead.")
def machine_card(job_file: Path, as_json: bool, output: Path | None) -> None:
    """Print the card of a machine: each filament against the air at its sink fan."""
    from zeotherm.answers.machine_card import card_of
    from zeotherm.core.judgement.standing import standing
    from zeotherm.wording import machine_card as words

    about = subject(job_file)
    lines = about.ask(card_of(about.job, about.catalogue, about.hours))
    if output is not None:
        from zeotherm.desk.views.report import reports

        reports.need_application()
        reports.save_card(about.job, lines, about.catalogue, output, date.today().isoformat())
        return
    if as_json:
        click.echo(json.dumps([words.as_data(one) for one in lines], indent=2, ensure_ascii=False))
        return
    if told := words.wrong(about.setup, about.catalogue):
        click.echo(told)
    click.echo(words.head(lines))
    for row in words.rows(lines, about.catalogue):
        click.echo("  ".join((f"{row[0]:24}", f"{row[1]:8}", f"{row[2]:14}", f"{row[3]:14}", row[4])).rstrip())
    if told := words.assumed(standing(about.job, "hotend", about.catalogue), about.catalogue):
        click.echo(told)
