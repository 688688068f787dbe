"""Commands about the power path: what it does, what its readings tell, its sizes, and a wiring checked."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING

import click

from zeotherm.cli.group import FINITE, JOB, Finite, ToldError, main
from zeotherm.cli.parts import over_its_course

if TYPE_CHECKING:
    pass

CONTACT = click.Choice(["supply_terminal", "feed_terminal", "plug", "tabs", "heater_terminal", "heater_plug"])


@main.command("power-size")
@JOB
@click.option("--json", "as_json", is_flag=True, help="Print the sizes as JSON.")
def power_size(job_file: Path, as_json: bool) -> None:
    """Size supply, warm-up, wires, fuse, plug and switch of a job's power path."""
    from zeotherm.answers.power_sizes import SIZED
    from zeotherm.core.guard.fitted import to_enter_first
    from zeotherm.wording import power_sizes as words
    from zeotherm.wording.power_sizes import sizes_as_data

    about, path = over_its_course(job_file, "power")
    answer, found = about.ask(path), about.ask(SIZED.of(path))
    if as_json:
        first = [one.label for one in to_enter_first(about.job, about.catalogue)]
        data = {**sizes_as_data(found, answer.catalogue), "enter_first": first}
        click.echo(json.dumps(data, indent=2, ensure_ascii=False))
        return
    told = words.enter_first(to_enter_first(about.job, about.catalogue))
    lines = [
        *([told] if told else []),
        words.supply(found.supply),
        words.staged(found.staged),
        *(words.wire(one) for one in found.wires),
    ]
    lines += [words.fuse(found.fuse), *(words.part_size(one, answer.catalogue, "contacts") for one in found.contacts)]
    lines += [words.part_size(one, answer.catalogue, "switches") for one in found.switches]
    click.echo("\n".join([*lines, *(words.output(one) for one in found.outputs)]))


@main.command("power-reading")
@JOB
@click.argument("place", type=CONTACT)
@click.option("--drop", type=Finite(-100.0, 100.0), help="Volts across its worse pole.")
@click.option("--amps", type=Finite(0.0, 500.0), help="Through it then; else as the model has it.")
@click.option("--warm", type=Finite(-50.0, 600.0), help="Or how warm it is under that load, °C.")
@click.option("--doubt", type=Finite(0.0, 50.0), help="95 % half-width of the reading; else 1 mV or 2 K.")
@click.option("--json", "as_json", is_flag=True, help="Print what it tells as JSON.")
def power_reading(
    job_file: Path, place: str, drop: float | None, amps: float | None, warm: float | None, doubt: float | None,
    as_json: bool,
) -> None:  # fmt: skip
    """Tell a joint's milliohms by the volts across it, or by how warm it is."""
    from zeotherm.core.parts.power.judge.readings import from_drop, from_warmth
    from zeotherm.wording import power as words
    from zeotherm.wording.power import told_as_data

    about, path = over_its_course(job_file, "power")
    answer = about.ask(path)
    if (drop is None) == (warm is None):
        raise ToldError("say --drop with its volts, or --warm with its temperature: one of the two.")
    try:
        if drop is not None:
            through = amps if amps is not None else answer.full.amps.through(place)
            good: float = getattr(answer.resolved.inputs, place).good
            told = from_drop(drop, through, 1e-3 if doubt is None else doubt, 0.03 * through, good)
        else:
            assert warm is not None
            told = from_warmth(answer, place, warm, 2.0 if doubt is None else doubt)
    except ValueError as wrong:
        raise ToldError(f"{place}: {wrong}.") from None
    if as_json:
        click.echo(json.dumps(told_as_data(told), indent=2))
        return
    click.echo(words.told(told, words.PARTS[place]))


@main.command("power-wall")
@JOB
@click.option("--volts", type=Finite(1.0, 400.0), required=True, help="At the plug-in meter.")
@click.option("--amps", type=Finite(0.0, 100.0), required=True, help="At the plug-in meter.")
@click.option("--watts", type=Finite(0.0, 20000.0), required=True, help="Real power, at the same moment.")
def power_wall(job_file: Path, volts: float, amps: float, watts: float) -> None:
    """Tell real from apparent power by the plug-in meter with everything on, and the supply's efficiency."""
    from zeotherm.core.parts.power.judge.readings import at_wall
    from zeotherm.wording import power as words

    about, path = over_its_course(job_file, "power")
    answer = about.ask(path)
    try:
        click.echo(words.at_wall(at_wall(volts, amps, watts, answer.asked)))
    except ValueError as wrong:
        raise ToldError(f"{job_file.name}: {wrong}.") from None


@main.command("power-survey")
@click.argument("before", nargs=3, type=FINITE, metavar="C AIR_C AMPS")
@click.argument("after", nargs=3, type=FINITE, metavar="C AIR_C AMPS")
@click.option("--doubt", type=Finite(0.1, 20.0), default=2.0, help="95 % half-width of each rise, K.")
def power_survey(before: tuple[float, float, float], after: tuple[float, float, float], doubt: float) -> None:
    """Compare a joint's warmth before and after a repair: rise over the air by the amperes squared."""
    from zeotherm.core.parts.power.judge.readings import compare
    from zeotherm.wording import power_sizes as words

    try:
        click.echo(words.survey(compare(before, after, doubt)))
    except ValueError as wrong:
        raise ToldError(f"{wrong}.") from None


@main.command("wiring-check")
@JOB
@click.option("--propose", type=click.Choice(["module", "mains"]), help="Print a way of wiring that is right instead.")
@click.option("--json", "as_json", is_flag=True, help="Print the faults as JSON.")
def wiring_check(job_file: Path, propose: str | None, as_json: bool) -> None:
    """Check the wiring of a bed's own switch before anything is wired; exit code 2 where something is wrong."""
    from zeotherm.core.parts.power.judge.nets import check, feed_of, proposed
    from zeotherm.wording import power_sizes as words
    from zeotherm.wording.power_sizes import wiring_as_data

    about, path = over_its_course(job_file, "power")
    answer, job = about.ask(path), about.job
    feed = feed_of(answer)
    if propose is not None:
        click.echo(json.dumps(proposed(propose, answer.catalogue, feed).model_dump(), indent=2))
        return
    if not job.wiring.links:
        raise ToldError(f"{job_file.name}: it has no wiring yet. Begin with --propose module.")
    catalogue = answer.catalogue
    faults = check(job.wiring, catalogue, feed)
    if as_json:
        click.echo(json.dumps(wiring_as_data(job.wiring, faults, catalogue), indent=2, ensure_ascii=False))
    else:
        click.echo("\n".join([words.wiring(faults, catalogue), *(words.fault(one, catalogue, job.wiring.kind)
                                                                for one in faults)]))  # fmt: skip
    if faults:
        raise SystemExit(2)
