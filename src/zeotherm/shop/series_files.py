"""Logs of any logger: which column is what, its unit, clock times; refused with the line number."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.machine.measured import LOG_ROWS, Run, RunDoubt
from zeotherm.core.runs.figures import with_power
from zeotherm.core.runs.series import Series, bucketed, without_dropouts
from zeotherm.shop.console_files import is_console, read_console
from zeotherm.shop.errors import ShopError
from zeotherm.shop.reading import Cancelled, never, text_of
from zeotherm.shop.run_files import is_run_json, own_header, read_run_json
from zeotherm.shop.tables import DAY, Progress, Table, columns_of, table_of, times_of, unwatched

Array = npt.NDArray[np.float64]
LARGEST = 400_000_000  # bytes
HALF_DAY = 12 * 3600.0
LEAST_PART = 3  # rows that a part after a restart must have
RESTART_S = 30.0  # s that time goes back by when a logger begins again; less is a line out of order
LOOKED = 400  # rows that values are guessed from
UNIT = r"°?[cfk]|ms|s|sec|min|h|w|kw|v|a|ma|kwh|wh|rpm|pct|%"
HEADER = re.compile(rf"^(.*?)\s*(?:[\[(]\s*([^\])]*)\s*[\])]|[_ ]({UNIT}))?$", re.IGNORECASE)
TIME_UNITS = {"ms": 1e-3, "s": 1.0, "sec": 1.0, "seconds": 1.0, "min": 60.0, "minutes": 60.0, "h": 3600.0, "d": DAY}
NOTHING = ""  # the role of a column that is left out


@dataclass(frozen=True)
class Column:
    """A column of a file, what it was taken for, and by what."""

    title: str
    role: str  # channel, 'time', or nothing
    unit: str  # as written, in lower case
    by: str  # 'name', 'unit', 'values', 'chosen' or ''


@dataclass(frozen=True)
class Read:
    """A log as it was read: the series, what of it was not understood, and what was made of the rest."""

    series: Series
    ignored: tuple[str, ...]  # columns that were left out
    columns: tuple[Column, ...] = ()
    notes: tuple[str, ...] = ()  # codes of what was assumed or left out, see `zeotherm.wording.runs`
    part: int = 0  # of a log that began again; nought: it did not
    label: str = ""  # that the file states
    conditions: Mapping[str, float | str] | None = None  # that the file states
    doubts: Mapping[str, RunDoubt] | None = None  # that the file states


def read_series(
    path: Path, catalogue: Catalogue, cancelled: Cancelled = never, *, roles: Mapping[str, str] | None = None,
    progress: Progress = unwatched,
) -> Read:  # fmt: skip
    """The longest part of a log, see `read_parts`."""
    return max(read_parts(path, catalogue, cancelled, roles=roles, progress=progress), key=lambda one: one.series.rows)


def read_parts(
    path: Path, catalogue: Catalogue, cancelled: Cancelled = never, *, roles: Mapping[str, str] | None = None,
    layouts: Mapping[str, Mapping[str, str]] | None = None, progress: Progress = unwatched,
) -> list[Read]:  # fmt: skip
    """A log from a text file, in parts where its clock began again.

    roles: channels by title, over what is guessed; layouts: the same, remembered for files of the same titles. Raises
    ShopError that names the line, or CancelledError.
    """
    name = path.name or str(path)
    text = text_of(path, LARGEST, cancelled)
    if is_run_json(text):
        own = read_run_json(text, name, catalogue)
        return [Read(own.series, (), notes=own.notes, label=own.label, conditions=own.conditions, doubts=own.doubts)]
    if is_console(text):
        console = read_console(text, name, cancelled)
        return [_finished(one, name) for one in _parts(Read(console.series, (), (), console.notes))]
    table = table_of(text, name)
    remembered = (layouts or {}).get(layout_key(layout(table, catalogue, None)))
    columns = layout(table, catalogue, roles or remembered)
    read = _from_table(table, columns, catalogue, cancelled, progress)
    return [_finished(one, name) for one in _parts(read)]


def layout(table: Table, catalogue: Catalogue, roles: Mapping[str, str] | None) -> tuple[Column, ...]:
    """Each column's role: as chosen, else by its name, its unit, its values; no role twice."""
    known = {name.lower(): role for role, entry in catalogue.channels.items() for name in (*entry.names, role)}
    known |= {name.replace("_", " "): role for name, role in known.items()}
    by_unit = {unit: kind.channel for kind in catalogue.kinds.values() if kind.channel for unit in kind.units}
    found: list[Column] = []
    for title in table.titles:
        word, unit = _parted(title)
        role, by = known.get(word, known.get(title.lower().strip(), NOTHING)), "name"
        if role == NOTHING:
            role, by = by_unit.get(unit, NOTHING), "unit"
        if roles is not None and title in roles:
            role, by = roles[title], "chosen"
            if role != NOTHING and role not in catalogue.channels:
                raise ShopError(
                    f"{table.name}, {title}: no channel is called '{role}'. Known: {', '.join(catalogue.channels)}."
                )
        taken = role != NOTHING and any(column.role == role for column in found)
        found.append(Column(title, NOTHING, unit, "") if taken or role == NOTHING else Column(title, role, unit, by))
    return tuple(_by_values(table, found))


def _parted(title: str) -> tuple[str, str]:
    """A header's words and unit, both in lower case."""
    match = HEADER.match(title)
    word, unit = (match.group(1), match.group(2) or match.group(3) or "") if match else (title, "")
    return " ".join(word.lower().replace("_", " ").split()), unit.strip().lower().replace("°", "")


def _by_values(table: Table, columns: list[Column]) -> list[Column]:
    """What neither name nor unit told: a rising first column is the time, a very hot one the hotend."""
    if table.named and any(column.role == "time" for column in columns):
        return columns
    step = max(1, len(table.lines) // LOOKED)
    small = replace(
        table, lines=table.lines[::step], numbers=[table.number(row) for row in range(0, len(table.lines), step)]
    )
    taken = {column.role for column in columns}
    for index, column in enumerate(columns):
        if column.role or (table.named and column.unit not in TIME_UNITS):
            continue
        role = _role_of_values(small, index, taken, first=index == 0)
        if role:
            taken.add(role)
            columns[index] = replace(column, role=role, by="values")
    return columns


def _role_of_values(table: Table, index: int, taken: set[str], *, first: bool) -> str:
    try:
        times, _kind = times_of(table, index)
        values = columns_of(table, [index])[0] if times is None else times
    except ShopError:
        return NOTHING
    known = values[np.isfinite(values)]
    if len(known) < 3:
        return NOTHING
    if "time" not in taken and first and (np.diff(known) >= 0).all() and known[-1] > known[0]:
        return "time"
    low, high = float(known.min()), float(np.percentile(known, 99))
    if "block" not in taken and 150.0 < high < 500.0 and low > 0.0:
        return "block"
    if (
        "bed" not in taken
        and 40.0 < high < 150.0
        and 0.0 < low < 60.0
        and np.std(known[len(known) // 2 :]) < 0.1 * high
    ):
        return "bed"
    return NOTHING


def _from_table(
    table: Table, columns: tuple[Column, ...], catalogue: Catalogue, cancelled: Cancelled, progress: Progress
) -> Read:
    clock = next((index for index, column in enumerate(columns) if column.role == "time"), None)
    if clock is None:
        raise ShopError(
            f"{table.name}, line {max(table.number(0) - 1, 1)}: no column is a time. Name one 'time', or choose it. "
            f"Found: {', '.join(table.titles[:8])}{', ...' if len(table.titles) > 8 else ''}."
        )
    wanted = [index for index, column in enumerate(columns) if column.role not in (NOTHING, "time")]
    if not wanted:
        known = ", ".join(entry.names[0] for key, entry in catalogue.channels.items() if key != "time")
        raise ShopError(f"{table.name}, line {table.number(0) - 1}: no column is known. Name one of: {known}.")
    raw, kind = times_of(table, clock, cancelled)
    read = columns_of(table, wanted if raw is not None else [clock, *wanted], cancelled, progress)
    times, start = _times(table, clock, columns[clock], read.pop(0) if raw is None else raw, kind)
    values = {
        columns[index].role: _in_unit(table, columns[index], column, catalogue)
        for index, column in zip(wanted, read, strict=True)
    }
    ignored = tuple(column.title for column in columns if column.role == NOTHING and column.title)
    about = own_header(table.comments)
    start = about.start_h if about.start_h is not None else start
    return Read(Series(times, values, start), ignored, columns, label=about.label, conditions=about.conditions)


def _in_unit(table: Table, column: Column, values: Array, catalogue: Catalogue) -> Array:
    """A column in the unit of its kind; raises ShopError for a unit or a value that cannot be."""
    kind = catalogue.kinds[catalogue.channels[column.role].kind]
    name = f"{table.name}, {column.title}"
    if column.unit in ("", kind.unit.lower().replace("°", "")):
        factor, shift = 1.0, 0.0
    elif column.unit in kind.units:
        factor, shift = kind.units[column.unit]
    else:
        known = ", ".join(sorted({unit for unit in kind.units if len(unit) < 4}))
        raise ShopError(f"{name}: '{column.unit}' is no unit of it. Use {known}.")
    found = values * factor + shift
    if kind.unit == "%" and not column.unit and np.nanmax(found, initial=0.0) <= 1.0:
        found = found * 100.0
    wild = np.flatnonzero((found > kind.high) | (found < kind.low))
    if len(wild):
        line = table.number(int(wild[0]))
        raise ShopError(
            f"{table.name}, line {line}, {column.title}: {found[wild[0]]:.4g} {kind.unit} is beyond any sensor. "
            "Check the unit, or choose another column."
        )
    return found


def _times(table: Table, index: int, column: Column, raw: Array, kind: str) -> tuple[Array, float | None]:
    """Seconds from what was read, and the clock hour of the first row where the column tells it."""
    blank = np.flatnonzero(~np.isfinite(raw))
    if len(blank):
        raise ShopError(f"{table.name}, line {table.number(int(blank[0]))}, {column.title}: the time is missing.")
    if kind == "number":
        words = column.title.lower()
        unit = column.unit or next((key for key in ("minutes", "seconds") if key in words), "s")
        if unit not in TIME_UNITS:
            raise ShopError(f"{table.name}, {column.title}: '{unit}' is no unit of time. Use s, min or h.")
        raw = raw * TIME_UNITS[unit]
        if np.abs(raw).max() > 1e12:
            raw = raw / 1000.0  # counted in milliseconds since 1970
        if np.abs(raw).max() > 1e12:
            raise ShopError(f"{table.name}, {column.title}: times beyond 30,000 years. Check the unit.")
        return raw, None
    if kind == "clock":
        for at in np.flatnonzero(np.diff(raw) < -HALF_DAY):
            raw[at + 1 :] += DAY  # a clock that begins again at midnight
    return raw, float(raw[0]) / 3600.0 % 24.0


def _parts(read: Read) -> list[Read]:
    """Cut where the clock began again; lines that are only out of order are put in order. Times from nought."""
    time = read.series.time
    cuts = [int(at) + 1 for at in np.flatnonzero(np.diff(time) < -RESTART_S)]
    spans = [(a, b) for a, b in zip([0, *cuts], [*cuts, len(time)], strict=True) if not cuts or b - a >= LEAST_PART]
    parts = []
    for number, (begin, end) in enumerate(spans or [(0, len(time))], start=1):
        own = time[begin:end]
        notes = list(read.notes)
        order = np.argsort(own, kind="stable")
        if (np.diff(own) < 0.0).any():
            notes.append("out_of_order")
        start = read.series.start_h if begin == 0 or read.series.start_h is None else (
            read.series.start_h + (float(own[order[0]]) - float(time[0])) / 3600.0
        ) % 24.0  # fmt: skip
        values = {key: column[begin:end][order] for key, column in read.series.values.items()}
        series = Series(own[order] - own[order[0]], values, start)
        parts.append(replace(read, series=series, notes=tuple(notes), part=number if len(spans) > 1 else 0))
    return parts


def _finished(read: Read, name: str) -> Read:
    """Drop-outs left out, power worked out."""
    series, dropped = without_dropouts(read.series)
    if not any(np.isfinite(column).any() for column in series.values.values()):
        raise ShopError(f"{name} has columns that are known, but not one value in them.")
    series, note = with_power(series)
    notes = [*read.notes, *([f"dropouts:{dropped}"] if dropped else []), *([note] if note else [])]
    return replace(read, series=series, notes=tuple(notes))


def as_run(read: Read, name: str) -> Run:
    """What a job keeps of a log, its full rows left out."""
    kept = bucketed(read.series, LOG_ROWS)
    values = {
        key: [float(f"{value:.7g}") if np.isfinite(value) else None for value in column.tolist()]
        for key, column in kept.values.items()
    }
    time = [round(value, 3) for value in kept.time.tolist()]
    suffix = f", part {read.part}" if read.part else ""
    return Run(
        label=(read.label or Path(name).stem + suffix)[:60] or "run",
        source=(name + suffix)[:200], rows=read.series.rows,
        start_h=kept.start_h, time_s=time, values=values, notes=list(read.notes),
        conditions=dict(read.conditions or {}), doubts=dict(read.doubts or {}),
    )  # fmt: skip


def as_series(run: Run) -> Series:
    """What a job keeps of a run, as numbers."""
    values = {
        key: np.array([np.nan if value is None else value for value in column]) for key, column in run.values.items()
    }
    return Series(np.array(run.time_s), values, run.start_h)


def layout_key(columns: Sequence[Column]) -> str:
    """A key for the layout of a file: its titles."""
    return "\x1f".join(column.title for column in columns)
