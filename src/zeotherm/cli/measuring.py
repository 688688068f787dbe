"""Commands about what was measured: runs, thermal pictures, a fan's sound, part programs."""

from __future__ import annotations

import json
import math
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from zeotherm.cli.group import FINITE, Finite, ToldError, job_of, main, plain_console

if TYPE_CHECKING:
    from zeotherm.core.machine.measured import Run
    from zeotherm.core.runs.series import Series


@main.command()
@click.argument("files", metavar="RUN...", nargs=-1, required=True, type=click.Path(path_type=Path))
@click.option("--label", "labels", multiple=True, help="What each run was like, in order; equal labels are repeats.")
@click.option(
    "--column", "columns", multiple=True, metavar="TITLE=CHANNEL", help="What a column is, over what is guessed."
)
@click.option(
    "--answer", "answers", multiple=True, metavar="QUESTION=ANSWER", help="How a log is to be read that leaves it open."
)
@click.option("--note", "notes", multiple=True, metavar="CONDITION=A/B", help="A condition of each run: room=22.1/22.6")
@click.option("--purpose", multiple=True, metavar="CONDITION", help="What was changed on purpose.")
@click.option("--normalise", is_flag=True, help="Compare as if in the first run's room, from its start.")
@click.option("--other-instruments", is_flag=True, help="Each run has its own sensors, as of unlike machines.")
@click.option("--tariff", type=FINITE, help="Money for a kWh.")
@click.option("--at", type=Finite(min=0.0), metavar="MIN", help="Minutes from zero at which levels are taken.")
@click.option("--json", "as_json", is_flag=True, help="Print everything as JSON.")
def runs(
    files: tuple[Path, ...], labels: tuple[str, ...], columns: tuple[str, ...], answers: tuple[str, ...],
    notes: tuple[str, ...],
    purpose: tuple[str, ...], normalise: bool, other_instruments: bool, tariff: float | None,
    at: float | None, as_json: bool,
) -> None:  # fmt: skip
    """Line runs up and compare them: figures with their bands, what is real, what must be equal."""
    from pydantic import ValidationError

    from zeotherm.core.catalogue import shipped
    from zeotherm.core.machine.measured import Measured
    from zeotherm.core.runs.assembly import assembled
    from zeotherm.shop.editing.edits import RefusedError
    from zeotherm.shop.editing.run_edits import condition_value
    from zeotherm.shop.errors import ShopError
    from zeotherm.shop.files.job_files import explain
    from zeotherm.shop.files.series_files import as_run, read_parts
    from zeotherm.shop.papers.run_results import comparison_as_data

    catalogue = shipped()
    made: dict[str, Run] = {}
    rows: dict[str, Series] = {}
    roles, told = (dict(one.partition("=")[::2] for one in given) for given in (columns, answers))
    try:
        for path in files:
            for part in read_parts(path, catalogue, roles=roles or None, answers=told):
                key = f"run{len(made) + 1}"
                made[key], rows[key] = as_run(part, path.name), part.series
        if labels and len(labels) != len(made):
            raise click.UsageError(f"{len(labels)} labels for {len(made)} runs.")
        for index, (key, label) in enumerate(zip(made, labels, strict=False)):
            made[key] = made[key].model_copy(update={"label": label[:60] or f"run {index + 1}"})
        for name in (*purpose, *(one.partition("=")[0] for one in notes)):
            if name not in catalogue.conditions:
                raise click.UsageError(f"'{name}' is no condition. Known: {', '.join(catalogue.conditions)}.")
        for one in notes:
            name, _equal, values = one.partition("=")
            if len(values.split("/")) != len(made):
                raise click.UsageError(f"--note {one}: {len(values.split('/'))} values for {len(made)} runs.")
            for key, text in zip(made, values.split("/"), strict=True):
                noted = {**made[key].conditions, name: condition_value(catalogue.conditions[name], text)}
                made[key] = made[key].model_copy(update={"conditions": noted})
        measured = Measured(
            runs=made, purpose=list(purpose), normalise=normalise, same_instruments=not other_instruments, tariff=tariff
        )
    except ValidationError as wrong:
        raise ToldError(f"these runs cannot be compared: {explain(wrong, {})}") from None
    except (ShopError, RefusedError) as wrong:
        raise ToldError(str(wrong)) from None
    found = assembled(measured, rows, catalogue, None if at is None else at * 60.0)
    assert found is not None
    data = comparison_as_data(found, measured, catalogue)
    if as_json:
        click.echo(json.dumps(data, indent=2, ensure_ascii=False))
    else:
        _print_comparison(data)


@main.command()
@click.argument("run_file", metavar="RUN", type=click.Path(path_type=Path))
@click.option("-o", "--output", type=click.Path(path_type=Path), required=True, help="File to write: .csv or .json.")
@click.option("--column", "columns", multiple=True, metavar="TITLE=CHANNEL", help="What a column is.")
@click.option("--answer", "answers", multiple=True, metavar="QUESTION=ANSWER", help="How an open question is answered.")
def convert(run_file: Path, output: Path, columns: tuple[str, ...], answers: tuple[str, ...]) -> None:
    """Write a log of any logger as an open run: CSV with a documented header, or JSON with everything known of it."""
    from zeotherm.core.catalogue import shipped
    from zeotherm.shop.errors import ShopError
    from zeotherm.shop.files import run_files
    from zeotherm.shop.files.job_files import write_text
    from zeotherm.shop.files.series_files import as_run, read_series

    if output.suffix.lower() not in (".csv", ".json"):
        raise click.UsageError(f"{output.name} ends in neither .csv nor .json.")
    try:
        roles, told = (dict(one.partition("=")[::2] for one in given) for given in (columns, answers))
        read = read_series(run_file, shipped(), roles=roles or None, answers=told)
        run = as_run(read, run_file.name)
        text = run_files.as_json(read.series, run) if output.suffix.lower() == ".json" else (
            run_files.as_csv(read.series, run, shipped())
        )  # fmt: skip
        write_text(output, text)
    except ShopError as wrong:
        raise ToldError(str(wrong)) from None


@main.command()
@click.argument("picture_files", metavar="PICTURE...", nargs=-1, required=True, type=click.Path(path_type=Path))
@click.option("--emissivity", type=Finite(0.3, 1.0), default=0.95, help="Of the surface.")
@click.option("--reflected", type=FINITE, default=20.0, help="What the surface mirrors, °C.")
@click.option("--camera-at", type=Finite(0.1, 1.0), default=1.0, help="Emissivity the camera was set to.")
@click.option("--region", "regions", multiple=True, metavar="NAME=L,T,R,B", help="Shares of width and height, 0 to 1.")
@click.option(
    "--scale", metavar="LOW,HIGH", help="°C at the cold and the hot end of a colour bar, or of 16-bit counts."
)
@click.option("--gain", metavar="GAIN,OFFSET", help="°C = counts x GAIN + OFFSET, for 16-bit pictures.")
@click.option("--bar", metavar="L,T,R,B", help="Where the colour bar is, in pixels; without it, it is looked for.")
def picture(
    picture_files: tuple[Path, ...], emissivity: float, reflected: float, camera_at: float, regions: tuple[str, ...],
    scale: str | None, gain: str | None, bar: str | None,
) -> None:  # fmt: skip
    """Read thermal pictures: mean, extremes, how far the edge lies below the centre, and what changed between two."""
    from zeotherm.shop.errors import ShopError
    from zeotherm.shop.files.picture_files import PictureScale, read_picture
    from zeotherm.wording.pictures import of_pictures

    low_high, gained = _numbers(scale, 2, "--scale"), _numbers(gain, 2, "--gain")
    box = _numbers(bar, 4, "--bar")
    how = PictureScale(
        gain=gained[0] if gained else None, offset=gained[1] if gained else 0.0,
        low=low_high[0] if low_high else None, high=low_high[1] if low_high else None,
        bar=(int(box[0]), int(box[1]), int(box[2]), int(box[3])) if box else None,
    )  # fmt: skip
    named = {name: _numbers(box, 4, "--region") or [] for name, _e, box in (one.partition("=") for one in regions)}
    try:
        read = [read_picture(path, how) for path in picture_files]
        lines = of_pictures(read, [path.name for path in picture_files], emissivity, reflected, camera_at, named)
    except (ShopError, ValueError) as wrong:
        raise ToldError(str(wrong)) from None
    for line in lines:
        click.echo(line)


@main.command()
@click.argument("sound_file", metavar="SOUND.wav", type=click.Path(path_type=Path))
@click.option("--blades", type=int, required=True, help="Blades of the fan, counted.")
def sound(sound_file: Path, blades: int) -> None:
    """Tell a fan's speed by the blade-pass tone of a recording, and how surely."""
    from zeotherm.core.runs.fan_sound import NoToneError, blade_pass
    from zeotherm.shop.errors import ShopError
    from zeotherm.shop.files.sound_files import as_heard, read_sound
    from zeotherm.wording.runs import heard

    try:
        tone = blade_pass(*read_sound(sound_file), blades)
    except (ShopError, NoToneError) as wrong:
        raise ToldError(str(wrong)) from None
    click.echo(heard(as_heard(tone, blades, sound_file.name)))


@main.command()
@click.argument("program_file", metavar="PART.gcode", type=click.Path(path_type=Path))
@click.option("--job", "job_file", type=click.Path(path_type=Path), help="Job file whose print becomes this program.")
@click.option("--diameter", type=Finite(0.5, 5.0), default=1.75, help="Of the filament, mm.")
def program(program_file: Path, job_file: Path | None, diameter: float) -> None:
    """Read a part program for its temperatures, time, flow and retractions; let a job print it."""
    from zeotherm.core.runs.part_program import as_job
    from zeotherm.shop.editing.edits import RefusedError, patch_as_fact
    from zeotherm.shop.errors import ShopError
    from zeotherm.shop.files import job_files
    from zeotherm.shop.files.part_programs import read_part_program
    from zeotherm.wording.runs import program as told

    try:
        found = read_part_program(program_file, diameter_mm=diameter)
        if job_file is not None:
            changed = patch_as_fact(job_of(job_file), as_job(found))
            job_files.write_text(job_file, job_files.dumps(changed))
    except (ShopError, RefusedError) as wrong:
        raise ToldError(str(wrong)) from None
    for line in told(found):
        click.echo(line)


def _numbers(text: str | None, count: int, option: str) -> list[float] | None:
    """Numbers parted by commas; nothing for nothing."""
    if text is None:
        return None
    try:
        found = [one for one in (float(part) for part in text.split(",")) if math.isfinite(one)]
    except ValueError:
        found = []
    if len(found) != count:
        raise click.UsageError(f"{option}: '{text}' is not {count} numbers parted by commas.")
    return found


def _print_comparison(data: dict[str, Any]) -> None:
    from rich.table import Table

    console = plain_console()
    console.print(data["verdict"], style="bold", highlight=False)
    console.print(data["reason"], highlight=False)
    for line in data["lined_up"]:
        console.print(line, highlight=False)
    compares = len(data["labels"]) > 1
    table = Table("figure", *data["labels"], *(("change", "is it real?") if compares else ()), box=None)
    for row in data["figures"]:
        changed = (row["told_change"], row["told_real"]) if compares else ()
        table.add_row(row["label"], *row["told"], *changed)
    console.print(table)
    for row in data["conditions"]:
        console.print(f"{row['label']}: {row['told']} ({row['match']})", highlight=False)
