"""Commands about jobs: open, run, compare options, rank causes, report, change."""

from __future__ import annotations

import json
import math
import sys
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from zeotherm.cli.group import JOB, Subject, ToldError, catalogue_of, job_of, main, plain_console, subject

if TYPE_CHECKING:
    from zeotherm.core.causes.next_check import Next
    from zeotherm.core.judgement.standing import Standing
    from zeotherm.core.parts.hotend.judge.answer import Answer
    from zeotherm.core.parts.hotend.judge.course import Course


@main.command()
@click.option("--workshop", type=click.Path(path_type=Path), help="Workshop file to open instead of your own.")
def desk(workshop: Path | None) -> None:
    """Open the window."""
    from zeotherm.desk.start import run
    from zeotherm.shop.places import workshop_file

    sys.exit(run(workshop or workshop_file(), demo=False))


@main.command()
@click.option("--fresh", is_flag=True, help="Begin again with the demo as it ships.")
def demo(fresh: bool) -> None:
    """Open the window with the demo workshop."""
    from zeotherm.desk.start import run
    from zeotherm.shop.places import demo_file

    if fresh:
        for part in ("", "-wal", "-shm"):
            Path(f"{demo_file()}{part}").unlink(missing_ok=True)
    sys.exit(run(demo_file(), demo=True))


@main.command()
@JOB
@click.option("--json", "as_json", is_flag=True, help="Print everything as JSON.")
@click.option("--at", "clock", metavar="H:MM", help="Clock time of the moment to print; without it, the worst.")
def solve(job_file: Path, as_json: bool, clock: str | None) -> None:
    """Run a job and print one moment of it: stations, limits, margins, watts, what happens when.

    Exit codes: 0 solved, 1 the job cannot be read or solved, 2 wrong use of the command.
    """
    about, course, answer, time, on = _answered(job_file, clock)
    if as_json:
        from zeotherm.shop.papers.results import as_data

        click.echo(json.dumps(as_data(about.job, answer, course, time, on), indent=2, ensure_ascii=False))
    else:
        _print_table(answer, course, time, on)


@main.command()
@JOB
@click.option("--json", "as_json", is_flag=True, help="Print everything as JSON.")
def facts(job_file: Path, as_json: bool) -> None:
    """Print which facts of a job's machine are assumed, which of them decide the verdict, and how to find them out.

    A fact is entered with `zeotherm set JOB.json guard 20 %`, and taken back with `zeotherm set JOB.json guard ?`.
    """
    about, _course, answer, _time, on = _answered(job_file, None)
    if as_json:
        from zeotherm.shop.papers.results import facts_as_data

        data = {"job": about.job.number, **facts_as_data(about.job, on, answer)}
        click.echo(json.dumps(data, indent=2, ensure_ascii=False))
        return
    from zeotherm.shop.papers.report import stands_on
    from zeotherm.wording.verdict import verdict

    console = plain_console()
    console.print(verdict(answer, on).headline, style="bold", highlight=False)
    for line in stands_on(on, answer) or ["Every fact is known."]:
        console.print(line, highlight=False)


@main.command()
@JOB
@click.option("--json", "as_json", is_flag=True, help="Print them as JSON.")
def clashes(job_file: Path, as_json: bool) -> None:
    """Print what does not go together in the hotends of a job's machine, and what helps."""
    from zeotherm.core.guard.clashes import clashes as found_in
    from zeotherm.core.judgement.standing import told_paths
    from zeotherm.wording.clashes import NONE, as_data, head, sentence

    job = job_of(job_file)
    found = found_in(job.setup(), catalogue_of(job), told_paths(job))
    if as_json:
        told = {"job": job.number, "clashes": [as_data(one) for one in found]}
        click.echo(json.dumps(told, indent=2, ensure_ascii=False))
        return
    for line in [f"{head(one)}: {sentence(one)}" for one in found] or [NONE]:
        click.echo(line)


@main.command()
@JOB
@click.option("--at", "clock", help="Clock time of the moment whose watts are told, as 12:50; else the hotend's worst.")
@click.option("--json", "as_json", is_flag=True, help="Print everything as JSON.")
def machine(job_file: Path, clock: str | None, as_json: bool) -> None:
    """Print the whole machine: every part by its own verdict, and the watts that pass between them at one moment."""
    from zeotherm.core.judgement.standing import facts_by_how, standing
    from zeotherm.core.parts.registry import PARTS
    from zeotherm.core.parts.whole.watts import watts_at
    from zeotherm.wording.machine import NO_WATTS, balance, counted
    from zeotherm.wording.parts import verdict_on, words_of
    from zeotherm.wording.verdict import verdict

    about, course, answer, time, on = _answered(job_file, clock)
    setup, catalogue = about.setup, about.catalogue
    told = {"hotend": ("Hotend", verdict(answer, on))}
    for key, part in PARTS.items():
        words = words_of(part)
        if not part.counts(setup, catalogue):
            continue
        if not part.present(setup, catalogue):
            told[key] = (words.LABEL, words.nothing())
            continue
        full = about.ask(part.in_full(setup, about.job, catalogue, about.hours))
        told[key] = (words.LABEL, verdict_on(words, full, standing(about.job, key, catalogue)))
    watts, counts = watts_at(course.run, time, course.run.moment(time)), facts_by_how(about.job, catalogue)
    if as_json:
        data = {
            "job": about.job.number,
            "machine": about.job.machine,
            "seconds": time,
            "parts": {
                key: {"headline": one.headline, "reason": one.reason, "state": one.state.value}
                for key, (_label, one) in told.items()
            },
            "watts": None if watts is None else {
                "enters": watts.enters, "leaves": watts.leaves, "off_bed": watts.off_bed,
                "off_hotend": watts.off_hotend, "warms": watts.warms,
            },
            "facts": counts,
        }  # fmt: skip
        click.echo(json.dumps(data, indent=2, ensure_ascii=False))
        return
    console = plain_console()
    for label, one in told.values():
        console.print(f"{label}: {one.headline}", highlight=False)
    closed = catalogue.cases[setup.case.part].walls is not None
    console.print(balance(watts, closed=closed) if watts is not None else NO_WATTS, highlight=False)
    console.print(f"{counted(counts)}.", highlight=False)


@main.command()
@JOB
@click.option("-o", "--output", type=click.Path(path_type=Path), help="File to write; without it, standard output.")
def run(job_file: Path, output: Path | None) -> None:
    """Run a job's hours and write every station over time as CSV, with its band and how sure each limit holds."""
    from zeotherm.answers.hotend import sure
    from zeotherm.shop.errors import ShopError
    from zeotherm.shop.files.job_files import write_text
    from zeotherm.shop.papers.results import as_csv

    about = subject(job_file)
    course = about.ask(about.hours)
    text = as_csv(course, about.ask(sure(about.setup, about.job, about.catalogue)))
    if output is None:
        click.echo(text, nl=False)
        return
    try:
        write_text(output, text)
    except ShopError as wrong:
        raise ToldError(str(wrong)) from None


@main.command()
@JOB
@click.option("--json", "as_json", is_flag=True, help="Print everything as JSON.")
@click.option(
    "--offered", is_flag=True, help="Compare all of the catalogue's remedies that fit, not the job's options."
)
def compare(job_file: Path, as_json: bool, offered: bool) -> None:
    """Solve a job's options side by side, and look for the cheapest set that meets every limit."""
    from zeotherm.answers.board import board
    from zeotherm.answers.processes import Processes, blocking
    from zeotherm.core.choices.board import offered as remedies
    from zeotherm.core.questions import never
    from zeotherm.shop.papers.results import board_as_data

    about = subject(job_file)
    job, catalogue = about.job, about.catalogue
    variants = remedies(job.found, catalogue) if offered else job.variants
    if not variants:
        raise ToldError(f"{job_file.name} has no options on its board. Add some, or call with --offered.")
    processes = Processes(about.store)
    try:
        task = board(about.store, processes, job.model_copy(update={"variants": variants}), catalogue)
        *_growing, found = blocking(task(never))
    finally:
        processes.close()
    if () in found.failed:
        raise ToldError(f"{job_file.name}: the machine as found has no answer: {found.failed[()]}")
    data = board_as_data(job, variants, {**found.columns, **found.failed}, found.cheapest, found.on)
    if as_json:
        click.echo(json.dumps(data, indent=2, ensure_ascii=False))
    else:
        _print_board(data)


@main.command()
@JOB
@click.option("--json", "as_json", is_flag=True, help="Print everything as JSON.")
@click.option("--quick", is_flag=True, help="By what was told alone, without simulating the causes of heat.")
def causes(job_file: Path, as_json: bool, quick: bool) -> None:
    """Rank the causes of a job's trouble, and say what to check next.

    Facts are told with `zeotherm set`: zeotherm set JOB.json jams; zeotherm set JOB.json bed slow. What is told says
    which trouble it is about: hotend, bed, enclosure, wiring or print.
    """
    from zeotherm.answers.causes import worlds_run
    from zeotherm.answers.processes import Processes, blocking
    from zeotherm.core.catalogue.knowledge import HOTEND
    from zeotherm.core.causes.next_check import plan
    from zeotherm.core.causes.outcomes import Outcome
    from zeotherm.core.causes.ranking import Facts, Table
    from zeotherm.core.causes.worlds import assumed_departures, hypotheses
    from zeotherm.core.guard.fitted import assumed_of
    from zeotherm.shop.files.job_files import unknown_answers
    from zeotherm.shop.papers.results import causes_as_data

    job = job_of(job_file)
    catalogue = catalogue_of(job)
    whole, catalogue = catalogue, catalogue.of_trouble(job.intake.trouble)
    worlds = hypotheses(job.found, catalogue, assumed_departures(job, catalogue))
    outcomes: dict[int, Outcome] = {}
    if not quick:
        processes = Processes()
        try:
            results = blocking(worlds_run(processes, job.found, catalogue, job.tolerances, worlds))
            outcomes = {index: one for index, one in results if isinstance(one, Outcome)}
        finally:
            processes.close()
    table = Table(worlds, outcomes, catalogue)
    facts = Facts.of(job)
    ranking = table.rank(facts)
    proposed = plan(table, facts, job.found, job.intake.skipped, job.intake.decided, assumed_of(job))
    data = causes_as_data(
        job, catalogue, ranking, proposed, () if quick or job.intake.trouble != HOTEND else _worth_finding(job_file)
    )
    if as_json:
        click.echo(json.dumps(data, indent=2, ensure_ascii=False))
    else:
        _print_causes(data)
    for strange in unknown_answers(job, whole):
        click.echo(f"{job_file.name}: {strange}", err=True)


@main.command()
@JOB
@click.argument("log_file", metavar="LOG.csv", type=click.Path(path_type=Path))
@click.option("--keep", is_flag=True, help="Keep the log in the job file, as one of its runs.")
def log(job_file: Path, log_file: Path, keep: bool) -> None:
    """Hold a measured log against a job's run, and say how they differ."""
    from zeotherm.core.runs.series import differences
    from zeotherm.shop.editing.run_edits import with_run
    from zeotherm.shop.errors import ShopError
    from zeotherm.shop.files import job_files
    from zeotherm.shop.files.series_files import as_run, read_series
    from zeotherm.wording.course import log as told

    about = subject(job_file)
    try:
        read = read_series(log_file, about.catalogue)
        if keep:
            job_files.write_text(job_file, job_files.dumps(with_run(about.job, as_run(read, log_file.name))))
    except ShopError as wrong:
        raise ToldError(str(wrong)) from None
    course = about.ask(about.hours)
    click.echo(told(log_file.name, differences(read.series, course), course))
    if read.ignored:
        click.echo(f"Not understood: {', '.join(read.ignored)}.", err=True)


@main.command("virtual-day")
@click.option("-o", "--output", type=click.Path(path_type=Path), required=True, help="CSV to write.")
@click.option("--seed", type=click.IntRange(min=0), default=4, help="Of the wandering of room, clouds and contacts.")
def virtual_day(output: Path, seed: int) -> None:
    """Write the log of one print of the virtual printer that ships with Zeotherm."""
    from zeotherm.shop.errors import ShopError
    from zeotherm.shop.files.job_files import write_text
    from zeotherm.shop.practice.virtual_printer import as_csv, day

    try:
        write_text(output, as_csv(day(seed)))
    except ShopError as wrong:
        raise ToldError(str(wrong)) from None


@main.command()
@JOB
@click.option("-o", "--output", type=click.Path(path_type=Path), required=True, help="File to write: .html or .pdf.")
def report(job_file: Path, output: Path) -> None:
    """Write the one-page report."""
    from zeotherm.desk.views.report.reports import write_report
    from zeotherm.shop.errors import ShopError

    if output.suffix.lower() not in (".html", ".pdf"):
        raise click.UsageError(f"{output.name} ends in neither .html nor .pdf.")
    about = subject(job_file)
    about.ask(about.hours)
    try:
        write_report(about.store, about.job, about.catalogue, output, date.today().isoformat())
    except ShopError as wrong:
        raise ToldError(str(wrong)) from None


@main.command()
@JOB
def check(job_file: Path) -> None:
    """Say whether a job file is sound."""
    from zeotherm.shop.files.job_files import unknown_answers

    job = job_of(job_file)
    click.echo(f"{job_file.name}: job {job.number}, {job.machine}: sound.")
    for strange in unknown_answers(job, catalogue_of(job)):
        click.echo(f"{job_file.name}: {strange} It does not count.", err=True)


@main.command()
@click.option("--shelf", "of_shelf", is_flag=True, help="Of a shelf file instead.")
def schema(of_shelf: bool) -> None:
    """Print the JSON schema of a job file."""
    from zeotherm.shop.files import job_files, shelf_files

    made = shelf_files.schema() if of_shelf else job_files.schema()
    click.echo(json.dumps(made, indent=2, ensure_ascii=False))


@main.command()
@click.argument("shell", type=click.Choice(("bash", "zsh", "fish")))
def completion(shell: str) -> None:
    """Print what makes a shell complete commands and options: eval "$(zeotherm completion bash)"."""
    from click.shell_completion import get_completion_class

    kind = get_completion_class(shell)
    assert kind is not None
    click.echo(kind(main, {}, "zeotherm", "_ZEOTHERM_COMPLETE").source())


@main.command("set")
@JOB
@click.argument("words", nargs=-1, required=True)
def set_value(job_file: Path, words: tuple[str, ...]) -> None:
    """Change a job file as the entry line does: zeotherm set JOB.json fan 9.1 V"""
    from zeotherm.shop.editing.edits import RefusedError, meaning, said
    from zeotherm.shop.errors import ShopError
    from zeotherm.shop.files import job_files

    job = job_of(job_file)
    try:
        line = " ".join(words)
        changed, text = said(job, line), meaning(job, line).text
        job_files.write_text(job_file, job_files.dumps(changed))
    except (RefusedError, ShopError) as wrong:
        raise ToldError(str(wrong)) from None
    click.echo(text)


@main.command("make-part")
@JOB
@click.argument("path")
@click.argument("like")
@click.argument("name")
@click.argument("figures", nargs=-1)
def make_part(job_file: Path, path: str, like: str, name: str, figures: tuple[str, ...]) -> None:
    """Make a part that is on no shelf, and fit it: make-part JOB.json fan.part axial_40_24v "Loud 50" size_mm=50

    LIKE is the part it is most like, by its key; FIGURES are what is read off it. A wrong one lists all there are.
    """
    from zeotherm.core.catalogue.own import Stated
    from zeotherm.shop.editing.edits import RefusedError, with_own_part
    from zeotherm.shop.errors import ShopError
    from zeotherm.shop.files import job_files
    from zeotherm.wording.units import NotANumberError, read_number

    job, told = job_of(job_file), {}
    for figure in figures:
        at, equals, value = figure.partition("=")
        try:
            told[at] = Stated(read_number(value) if equals else math.nan)
        except NotANumberError as wrong:
            raise click.UsageError(f"{at}: {wrong}") from None
        if not equals:
            raise click.UsageError(f"'{figure}' is no figure. Type it as size_mm=50.")
    try:
        changed = with_own_part(job, path, like, name, told, catalogue_of(job))
        job_files.write_text(job_file, job_files.dumps(changed))
    except (RefusedError, ShopError) as wrong:
        raise ToldError(str(wrong)) from None
    click.echo(f"{name}: copied from {like}, changed, and fitted.")


def _answered(path: Path, clock: str | None) -> tuple[Subject, Course, Answer, float, Standing]:
    """The job, its run, one moment of it in full, and what the verdict stands on."""
    from zeotherm.answers.hotend import decides, worst
    from zeotherm.core.judgement.standing import standing
    from zeotherm.core.parts.hotend.judge.ask import full_answer

    about = subject(path)
    course = about.ask(about.hours)
    on = standing(about.job, "hotend", about.catalogue)
    if on.assumed:
        on = on.with_deciding(about.ask(decides(about.setup, about.job, about.catalogue)))
    if clock is None:
        return about, course, about.ask(worst(about.setup, about.job, about.catalogue)), course.worst_time, on
    time = _time_of(clock, course)
    return about, course, full_answer(course.answer(time), course=course, time=time), time, on


def _worth_finding(path: Path) -> tuple[Next, ...]:
    """Facts of a job's machine that compete with checks; none where the machine has no answer."""
    from zeotherm.core.causes.next_check import facts_to_find

    try:
        about, _course, answer, _time, on = _answered(path, None)
    except ToldError:
        return ()
    return facts_to_find(answer.worst.room, on.of(answer.worst.key), about.catalogue)


def _time_of(clock: str, course: Course) -> float:
    """Seconds of the run at a clock time, on its first or its second day."""
    hours, _, minutes = clock.partition(":")
    if not (hours.isdigit() and minutes.isdigit() and int(hours) < 24 and int(minutes) < 60):
        raise click.UsageError(f"'{clock}' is no clock time. Type it as 12:50.")
    hour = int(hours) + int(minutes) / 60.0
    start = course.run.clock(0.0)
    time = ((hour - start) % 24.0) * 3600.0
    if time > course.run.end:
        end = course.run.clock(course.run.end)
        raise click.UsageError(f"{clock} is outside the job, which lasts from {start:.2f} h to {end:.2f} h.")
    return time


def _print_table(answer: Answer, course: Course, time: float, on: Standing) -> None:
    from rich.table import Table

    from zeotherm.wording import course as times
    from zeotherm.wording import margins as words
    from zeotherm.wording import numbers
    from zeotherm.wording.verdict import verdict

    told = verdict(answer, on)
    console = plain_console()
    console.print(told.headline, style="bold", highlight=False)
    console.print(told.reason, highlight=False)
    console.print(times.outlook(course, answer, on), highlight=False)
    console.print(f"At {numbers.clock(course.run.clock(time))}:", highlight=False)
    table = Table("part", "value", "limit", "room", "95 % band", "limit holds", "source", box=None)
    for margin in answer.margins:
        if margin.room is not None:
            table.add_row(
                words.label(margin), words.value(margin), words.limit(margin), words.room(margin), words.band(margin),
                words.sure(margin), margin.source,
            )  # fmt: skip
    console.print(table)


def _print_causes(data: dict[str, Any]) -> None:
    from rich.table import Table

    console = plain_console()
    console.print(data["verdict"], style="bold", highlight=False)
    console.print(data["reason"], highlight=False)
    table = Table("cause", "probability", "for and against", box=None)
    for row in data["causes"][:8]:
        signs = [f"{'+' if one['for'] else '-'} {one['text']}" for one in row["evidence"][:3]]
        table.add_row(row["label"], f"{row['probability']:.0%}", "\n".join(signs))
    console.print(table)
    for note in data["notes"]:
        console.print(note, highlight=False)
    steps = Table("check", "minutes", "parts", "bits", "answers", box=None)
    for row in data["checks"][:6]:
        answers = "\n".join(f"{one['label']}: {one['leads']} {one['after']:.0%}" for one in row["answers"])
        steps.add_row(row["label"], f"{row['minutes']:.0f}", f"{row['cost']:.0f}", f"{row['bits']:.2f}", answers)
    for row in data["facts"][:3]:
        steps.add_row(f"Find out: {row['label']}", f"{row['minutes']:.0f}", "0", f"{row['bits']:.2f}", row["find"])
    if data["checks"] or data["facts"]:
        console.print(steps)
    console.print(data["enough"], highlight=False)


def _print_board(data: dict[str, Any]) -> None:
    from rich.table import Table

    console = plain_console()
    table = Table("option", "worst limit", "room", "sure all pass", "stops feeding", "parts", "minutes", box=None)
    for row in data["columns"]:
        if "trouble" in row:
            table.add_row(row["label"], row["trouble"], "", "", "", "", "")
            continue
        table.add_row(
            row["label"], row["worst"], row["room"], f"{row['sure']:.0%}", row["stops_feeding"] or "not in this job",
            f"{data['currency']}{row['cost']:.0f}", f"{row['minutes']:.0f}",
        )  # fmt: skip
    console.print(table)
    best = data["cheapest"]
    text = (
        "No set of these meets every limit." if best is None else f"Cheapest that meets every limit: {best['label']}."
    )
    console.print(text, style="bold", highlight=False)


@main.command("causes-do")
@JOB
@click.option("--json", "as_json", is_flag=True, help="Print the table as JSON.")
def causes_do(job_file: Path, as_json: bool) -> None:
    """What each cause does to this machine, sound otherwise: sink base, soft length, air and time to a jam."""
    from rich.table import Table

    from zeotherm.core.causes.effects import effects
    from zeotherm.wording.causes import changed, lasts

    job = job_of(job_file)
    catalogue = catalogue_of(job)
    found = list(effects(job.found, catalogue))
    rows: list[dict[str, Any]] = [
        {
            "cause": one.cause or "sound", "as": changed(found[0].setup, one.setup, catalogue), "sink_base_c": one.base,
            "soft_mm": one.soft_mm, "jams_above_c": one.jams_above,
            "jams_after_h": one.hours if math.isfinite(one.hours) else None, "worst": one.worst,
        }
        for one in found
    ]  # fmt: skip
    if as_json:
        click.echo(json.dumps(rows, indent=2))
        return
    table = Table("cause", "as", "base °C", "soft mm", "jams above °C", "jams after", box=None)
    for one, told in zip(found, rows, strict=True):
        label = catalogue.causes[one.cause].label if one.cause else "none: sound"
        table.add_row(label, ", ".join(told["as"]), f"{one.base:.0f}", f"{one.soft_mm:.1f}", f"{one.jams_above:.0f}",
                      lasts(one.hours))  # fmt: skip
    plain_console().print(table)
