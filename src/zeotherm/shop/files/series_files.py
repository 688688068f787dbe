"""Logs of any logger: which column is what, its unit, clock times; refused with the line number."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
import numpy.typing as npt
from pydantic import ValidationError

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.machine.measured import LOG_ROWS, Run, RunDoubt
from zeotherm.core.runs.figures import with_power
from zeotherm.core.runs.series import Series, bucketed, without_dropouts
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files.asking import SHOWN_ROWS, FileQuestion, UnsureError
from zeotherm.shop.files.console_files import is_console, read_console
from zeotherm.shop.files.job_files import explain
from zeotherm.shop.files.reading import Cancelled, never, text_of
from zeotherm.shop.files.run_files import is_run_json, own_header, read_run_json
from zeotherm.shop.files.tables import Progress, TextTable, columns_of, table_of, unwatched, with_style
from zeotherm.shop.files.times import UNITS as TIME_UNITS
from zeotherm.shop.files.times import Cells, Times, is_date, is_time, times_in

Array = npt.NDArray[np.float64]
LARGEST = 400_000_000  # bytes
LEAST_PART = 3  # rows that a part after a restart must have
RESTART_S = 30.0  # s that time goes back by when a logger begins again; less is a line out of order
LOOKED = 400  # rows that values are guessed from
DEGREES = re.compile(r"^(?:°|º|˚|Â°|deg(?:rees?|\.)?|grad)?\s*(celsius|fahrenheit|kelvin|[cfk])$", re.IGNORECASE)
UNIT = r"(?:°|º|˚)\s?[cfk]|deg\.?\s?[cfk]|[cfk]|celsius|fahrenheit|ms|s|sec|min|h|w|kw|v|a|ma|kwh|wh|rpm|pct|%"
HEADER = re.compile(rf"^(.*?)\s*(?:[\[(]\s*([^\])]*)\s*[\])]|[_ /,]\s?({UNIT})|((?:°|º|˚)\s?[cfk]))?$", re.IGNORECASE)
FILLERS = re.compile(r"\b(temperature|temperatur|temperatura|temp|actual|measured|value|sensor|probe|ist|reading)\b")
NOTHING, DATE = "", "date"  # roles of a column that is left out, and of one that holds the date of the time column


@dataclass(frozen=True)
class FileColumn:
    """A column of a file, what it was taken for, and by what."""

    title: str
    role: str  # channel, 'time', or nothing
    unit: str  # as written, in lower case
    by: str  # 'name', 'unit', 'values', 'chosen' or ''


@dataclass(frozen=True)
class ReadLog:
    """A log as it was read: the series, what of it was not understood, and what was made of the rest."""

    series: Series
    ignored: tuple[str, ...]  # columns that were left out
    columns: tuple[FileColumn, ...] = ()
    notes: tuple[str, ...] = ()  # codes of what was assumed or left out, see `zeotherm.wording.runs`
    part: int = 0  # of a log that began again; zero: it did not
    label: str = ""  # that the file states
    conditions: Mapping[str, float | str] | None = None  # that the file states
    doubts: Mapping[str, RunDoubt] | None = None  # that the file states
    own: bool = False  # whether Zeotherm wrote it


def read_series(
    path: Path, catalogue: Catalogue, cancelled: Cancelled = never, *, roles: Mapping[str, str] | None = None,
    answers: Mapping[str, str] | None = None, progress: Progress = unwatched,
) -> ReadLog:  # fmt: skip
    """The longest part of a log, see `read_parts`."""
    parts = read_parts(path, catalogue, cancelled, roles=roles, answers=answers, progress=progress)
    return max(parts, key=lambda one: one.series.rows)


def read_parts(
    path: Path, catalogue: Catalogue, cancelled: Cancelled = never, *, roles: Mapping[str, str] | None = None,
    answers: Mapping[str, str] | None = None, layouts: Mapping[str, Mapping[str, str]] | None = None,
    progress: Progress = unwatched,
) -> list[ReadLog]:  # fmt: skip
    """A log from a text file, in parts where its clock began again.

    roles: channels by title, over what is found; layouts: the same, remembered for files of the same titles; answers:
    to what such a file was asked. Raises ShopError that names the line, UnsureError where it can be read in more ways
    or no column is known, or CancelledError.
    """
    name = _printable(path.name or str(path))
    text = text_of(path, LARGEST, cancelled)
    if is_run_json(text):
        own = read_run_json(text, name, catalogue)
        return [ReadLog(own.series, (), notes=own.notes, label=own.label, conditions=own.conditions, doubts=own.doubts)]
    if is_console(text):
        console = read_console(text, name, cancelled)
        return [_finished(one, name) for one in _parts(ReadLog(console.series, (), (), console.notes))]
    told = dict(answers or {})
    table = table_of(text, name)
    try:
        table = with_style(table, told)
    except UnsureError as wrong:
        raise UnsureError(
            str(wrong), wrong.questions, layout(table, catalogue, roles), table.shown(SHOWN_ROWS)
        ) from None
    found = layout(table, catalogue, None)
    columns = layout(table, catalogue, roles or (layouts or {}).get(layout_key(found)))
    try:
        read = _from_table(table, columns, catalogue, told, cancelled, progress)
    except UnsureError as wrong:
        raise UnsureError(str(wrong), wrong.questions, columns, table.shown(SHOWN_ROWS)) from None
    return [_finished(one, name) for one in _parts(read)]


def layout(table: TextTable, catalogue: Catalogue, roles: Mapping[str, str] | None) -> tuple[FileColumn, ...]:
    """Each column's role: as chosen, else by its name, its unit, its values; no role twice."""
    known = {_folded(name): role for role, entry in catalogue.channels.items() for name in (*entry.names, role)}
    by_unit = {unit: kind.channel for kind in catalogue.kinds.values() if kind.channel for unit in kind.units}
    found: list[FileColumn] = []
    for title in table.titles:
        word, unit = _parted(title)
        role, by = _by_name(word, title, known), "name"
        if role == NOTHING:
            role, by = by_unit.get(unit, NOTHING), "unit"
        if roles is not None and title in roles:
            role, by = roles[title], "chosen"
            if role not in (NOTHING, DATE) and role not in catalogue.channels:
                raise ShopError(
                    f"{table.name}, {title}: no channel is called '{role}'. Known: {', '.join(catalogue.channels)}."
                )
        taken = role != NOTHING and any(column.role == role for column in found)
        doubled = taken and by == "name" and role != "time" and _could_be_either(role, word, found)
        found.append(FileColumn(title, NOTHING, unit, "doubled" if doubled else "") if taken or role == NOTHING else
                     FileColumn(title, role, unit, by))  # fmt: skip
    return tuple(_by_values(table, _with_date(table, found)))


def _could_be_either(role: str, word: str, found: Sequence[FileColumn]) -> bool:
    """Whether a second column of a role could as well be it: both have one name, or neither has the channel's own."""
    first = next(column for column in found if column.role == role)
    called = _parted(first.title)[0]
    return first.by == "name" and (called == word or called != _folded(role))


def _by_name(word: str, title: str, known: Mapping[str, str]) -> str:
    """The role that a header's words name, with or without what is said of every temperature."""
    bare = " ".join(FILLERS.sub(" ", word).split())
    for one in (word, _folded(title), bare):
        if one and one in known:
            return known[one]
    return NOTHING


def _folded(text: str) -> str:
    """A name without accents, case and marks between its words."""
    plain = unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode().lower()
    return " ".join(re.sub(r"[_.\-/:]+", " ", plain).split())


def _parted(title: str) -> tuple[str, str]:
    """A header's words, and its unit in lower case without a degree sign."""
    title = title.replace("\u2103", "°C").replace("\u2109", "°F")
    title = re.sub(r" \(\d+\)$|[\[(]?\b(?:h?h:)?mm?:ss\b[\])]?|[\[(]?\bh?h:mm\b[\])]?", "", title).strip()
    match = HEADER.match(title)
    word, unit = (match.group(1), match.group(2) or match.group(3) or match.group(4) or "") if match else (title, "")
    unit = unit.strip()
    degrees = DEGREES.match(unit)
    return _folded(word), degrees.group(1)[0].lower() if degrees else unit.lower().replace("°", "")


def _with_date(table: TextTable, columns: list[FileColumn]) -> list[FileColumn]:
    """A column of dates beside one of times of day: both together are the time."""
    dated = next((n for n, one in enumerate(columns) if one.by != "chosen" and one.role in (NOTHING, "time") and
                  is_date(_first(table, n))), None)  # fmt: skip
    if dated is None or any(one.role == DATE for one in columns):
        return columns
    clock = next((n for n, one in enumerate(columns) if n != dated and one.role in (NOTHING, "time") and
                  is_time(_first(table, n)) and not is_date(_first(table, n))), None)  # fmt: skip
    if clock is None:
        return columns
    found = list(columns)
    found[dated] = replace(found[dated], role=DATE, by="values")
    found[clock] = replace(found[clock], role="time", by=found[clock].by or "values")
    return found


def _first(table: TextTable, index: int) -> str:
    """The first cell of a column that is not empty."""
    for row in range(min(len(table.lines), 50)):
        if cell := table.cells(row)[index].strip().strip('"').strip():
            return cell
    return ""


def _by_values(table: TextTable, columns: list[FileColumn]) -> list[FileColumn]:
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


def _role_of_values(table: TextTable, index: int, taken: set[str], *, first: bool) -> str:
    try:
        timed = is_time(_first(table, index))
        values = (
            times_in(_cells_of(table, index, ""), table.style, {}).seconds if timed else columns_of(table, [index])[0]
        )
    except UnsureError:
        return "time" if first and "time" not in taken else NOTHING
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
    table: TextTable, columns: tuple[FileColumn, ...], catalogue: Catalogue, answers: Mapping[str, str],
    cancelled: Cancelled, progress: Progress,
) -> ReadLog:  # fmt: skip
    clock = next((index for index, column in enumerate(columns) if column.role == "time"), None)
    if clock is None:
        titles = f"{', '.join(table.titles[:8])}{', ...' if len(table.titles) > 8 else ''}"
        raise _unknown(
            f"{table.name}, line {max(table.number(0) - 1, 1)}: no column is a time. Name one 'time', or choose it. "
            f"Found: {titles}."
        )
    wanted = [index for index, column in enumerate(columns) if column.role not in (NOTHING, "time", DATE)]
    if not wanted:
        known = ", ".join(entry.names[0] for key, entry in catalogue.channels.items() if key != "time")
        raise _unknown(f"{table.name}, line {max(table.number(0) - 1, 1)}: no column is known. Name one of: {known}.")
    doubled = [column.title for column in columns if column.by == "doubled"]
    if doubled:
        raise _unknown(f"{table.name}: {', '.join(doubled)} could be what another column is, too. Choose what each is.")
    dates = next((index for index, column in enumerate(columns) if column.role == DATE), None)
    times = _times(table, clock, dates, columns[clock], answers, cancelled)
    read = columns_of(table, wanted, cancelled, progress)
    values = {
        columns[index].role: _in_unit(table, columns[index], column, catalogue)
        for index, column in zip(wanted, read, strict=True)
    }
    ignored = tuple(column.title for column in columns if column.role == NOTHING and column.title)
    about = own_header(table.comments)
    start = about.start_h if about.start_h is not None else times.start_h
    notes = [*table.notes, *times.notes, *([f"skipped:{table.skipped}"] if table.skipped else [])]
    if about.own:
        notes = list(about.notes)
    return ReadLog(Series(times.seconds, values, start), ignored, columns, tuple(notes), label=about.label,
                conditions=about.conditions, doubts=about.doubts, own=about.own)  # fmt: skip


def _unknown(text: str) -> UnsureError:
    """Columns that are not known: a person chooses what each is."""
    return UnsureError(text, (FileQuestion("columns", "what each column is", ()),))


def _cells_of(table: TextTable, index: int, unit: str) -> Cells:
    return Cells(table.name, table.titles[index], table.column(index), table.number, unit)


def _times(
    table: TextTable,
    clock: int,
    dates: int | None,
    column: FileColumn,
    answers: Mapping[str, str],
    cancelled: Cancelled,
) -> Times:
    """Seconds of every row: of the time column, with its dates where they stand in a column of their own.

    Plain numbers in a unit that is stated are read along with the others' fast way.
    """
    if dates is None and column.unit in TIME_UNITS and not is_time(_first(table, clock)):
        counted = columns_of(table, [clock], cancelled)[0]
        blank = np.flatnonzero(~np.isfinite(counted))
        if len(blank):
            raise ShopError(f"{table.name}, line {table.number(int(blank[0]))}, {column.title}: the time is missing.")
        if np.abs(counted).max() < LONGEST_COUNT:
            return Times(counted * TIME_UNITS[column.unit], None)
    cells = _cells_of(table, clock, column.unit)
    if dates is not None:
        days = table.column(dates)
        cells = replace(cells, texts=[f"{day} {time}".strip() for day, time in zip(days, cells.texts, strict=True)])
    return times_in(cells, table.style, answers, cancelled)


LONGEST_COUNT = 9e8  # beyond which a count may be seconds since 1970


def _in_unit(table: TextTable, column: FileColumn, values: Array, catalogue: Catalogue) -> Array:
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


def _parts(read: ReadLog) -> list[ReadLog]:
    """Cut where the clock began again; lines that are only out of order are put in order. Times from zero."""
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


def _finished(read: ReadLog, name: str) -> ReadLog:
    """Drop-outs left out, power worked out; of a run of our own both were done before it was written."""
    if not any(np.isfinite(column).any() for column in read.series.values.values()):
        raise ShopError(f"{name} has columns that are known, but not one value in them.")
    if read.own:
        return read
    series, dropped = without_dropouts(read.series)
    series, note = with_power(series)
    notes = [*read.notes, *([f"dropouts:{dropped}"] if dropped else []), *([note] if note else [])]
    return replace(read, series=series, notes=tuple(notes))


def as_run(read: ReadLog, name: str) -> Run:
    """What a job keeps of a log, its full rows left out."""
    kept = bucketed(read.series, LOG_ROWS)
    values = {
        key: [float(f"{value:.7g}") if np.isfinite(value) else None for value in column.tolist()]
        for key, column in kept.values.items()
    }
    time = [round(value, 3) for value in kept.time.tolist()]
    suffix = f", part {read.part}" if read.part else ""
    name = _printable(name)
    try:
        return Run(
            label=_printable(read.label or Path(name).stem + suffix)[:60] or "run",
            source=(name + suffix)[:200], rows=read.series.rows,
            start_h=kept.start_h, time_s=time, values=values, notes=[str(note)[:200] for note in read.notes][:40],
            conditions=dict(read.conditions or {}), doubts=dict(read.doubts or {}),
        )  # fmt: skip
    except ValidationError as wrong:
        raise ShopError(f"{name}: {explain(wrong, {})} Correct the file, or leave that out.") from None


def _printable(text: str) -> str:
    """A name without what no text may hold, as file names of another encoding do."""
    return text.encode("utf-8", "replace").decode("utf-8").replace("\x00", "?")


def layout_key(columns: Sequence[FileColumn]) -> str:
    """A key for the layout of a file: its titles."""
    return "\x1f".join(column.title for column in columns)
