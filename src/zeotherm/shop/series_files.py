"""Logs of any logger: separators, decimal marks, units, clock times; refused with the line number."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.shelves import LogColumn
from zeotherm.core.machine.documents import LOG_ROWS, Log
from zeotherm.core.runs.series import Series, bucketed
from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.shop.errors import ShopError

Array = npt.NDArray[np.float64]
LARGEST = 400_000_000  # bytes
SEPARATORS = (";", "\t", "|", ",")
COMMENTS = ("#", "//", "%")
MISSING = {"", "-", "--", "nan", "n/a", "na", "null", "none"}
SNIFFED = 40  # lines that tell the separator
CHUNK = 50_000  # lines between two looks at whether the answer is still wanted
HALF_DAY, DAY = 12 * 3600.0, 24 * 3600.0
HOTTEST, COLDEST = 1000.0, -80.0  # °C that a sensor may show
CLOCK = re.compile(r"^(\d{1,2}):(\d{2})(?::(\d{2}(?:[.,]\d+)?))?$")
HEADER = re.compile(r"^(.*?)\s*(?:[\[(]\s*([^\])]*)\s*[\])]|[_ ](°?[cfk]|ms|s|sec|min|h))?$", re.IGNORECASE)
TIME_UNITS = {"ms": 1e-3, "s": 1.0, "sec": 1.0, "seconds": 1.0, "min": 60.0, "minutes": 60.0, "h": 3600.0}


@dataclass(frozen=True)
class Read:
    """A log as it was read: the series, and what of it was not understood."""

    series: Series
    ignored: tuple[str, ...]  # columns that belong to no station


@dataclass(frozen=True)
class _Column:
    index: int
    title: str
    role: str
    unit: str


def read_series(path: Path, catalogue: Catalogue, cancelled: Callable[[], bool] = lambda: False) -> Read:
    """A log from a text file; raises ShopError that names the line, or CancelledError."""
    name = path.name or str(path)
    lines = _lines(path, name)
    if not lines:
        raise ShopError(f"{name} holds no rows. Choose a log with a header and numbers.")
    separator = _separator([text for _number, text in lines[:SNIFFED]], name)
    head_number, head_text = lines[0]
    titles = [cell.strip().strip('"') for cell in head_text.split(separator)]
    if all(_is_value(title) for title in titles):
        raise ShopError(
            f"{name}, line {head_number}: there is no header. Name the columns, such as: time, hotend, bed."
        )
    columns, ignored = _roles(titles, catalogue)
    clock = next((column for column in columns if column.role == "time"), None)
    if clock is None:
        raise ShopError(
            f"{name}, line {head_number}: no column is a time. Name one 'time'. Found: {', '.join(titles)}."
        )
    stations = [column for column in columns if column.role != "time"]
    if not stations:
        known = ", ".join(entry.names[0] for entry in catalogue.log_columns.values())
        raise ShopError(f"{name}, line {head_number}: no column is known. Name one of: {known}.")
    rows = _cells(lines[1:], separator, len(titles), name, cancelled)
    if not rows:
        raise ShopError(f"{name} has a header but no rows.")
    times, start = _times([row[clock.index] for _line, row in rows], [line for line, _row in rows], clock, name)
    values = {
        column.role: _temperatures([row[column.index] for _line, row in rows], [n for n, _row in rows], column, name)
        for column in stations
    }
    return Read(Series(times, values, start), ignored)


def as_log(read: Read, name: str) -> Log:
    """What a job keeps of a log."""
    kept = bucketed(read.series, LOG_ROWS)
    values = {
        key: [round(value, 3) if np.isfinite(value) else None for value in column.tolist()]
        for key, column in kept.values.items()
    }
    time = [round(value, 2) for value in kept.time.tolist()]
    return Log(name=name[:120], rows=read.series.rows, start_h=kept.start_h, time_s=time, values=values)


def as_series(log: Log) -> Series:
    """A job's log as numbers."""
    values = {
        key: np.array([np.nan if value is None else value for value in column]) for key, column in log.values.items()
    }
    return Series(np.array(log.time_s), values, log.start_h)


def _lines(path: Path, name: str) -> list[tuple[int, str]]:
    """Numbered lines that hold something."""
    try:
        if path.is_dir():
            raise ShopError(f"{name} is a folder. Choose a log.")
        size = path.stat().st_size
        if size > LARGEST:
            raise ShopError(f"{name} has {size / 1e6:.0f} MB; a log may have {LARGEST / 1e6:.0f}. Split it.")
        data = path.read_bytes()
    except FileNotFoundError:
        raise ShopError(f"There is no file {path}. Check the name.") from None
    except OSError as wrong:
        raise ShopError(f"{name} could not be read: {wrong.strerror}.") from None
    if b"\x00" in data[:4096]:
        raise ShopError(f"{name} is no text. Export the log as CSV.")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("cp1252", errors="replace")
    numbered = enumerate(text.splitlines(), start=1)
    return [(number, line) for number, line in numbered if line.strip() and not line.lstrip().startswith(COMMENTS)]


def _separator(lines: list[str], name: str) -> str:
    """The mark that parts every line alike; a comma only where nothing else does."""
    for mark in SEPARATORS:
        counts = Counter(line.count(mark) for line in lines)
        count, often = counts.most_common(1)[0]
        if count > 0 and often >= 0.8 * len(lines):
            return mark
    if all("," in line for line in lines):
        return ","  # the line that does not fit is named where its cells are counted
    raise ShopError(f"{name} is no table: its lines are parted by none of comma, semicolon, tab or bar.")


def _is_value(text: str) -> bool:
    return _number(text) is not None or CLOCK.match(text) is not None


def _roles(titles: list[str], catalogue: Catalogue) -> tuple[list[_Column], tuple[str, ...]]:
    """Columns that are known, each role once, by name and unit."""
    known = {name: role for role, entry in catalogue.log_columns.items() for name in _names(entry)}
    columns: list[_Column] = []
    ignored = []
    for index, title in enumerate(titles):
        match = HEADER.match(title)
        word, unit = (match.group(1), match.group(2) or match.group(3) or "") if match else (title, "")
        role = known.get(" ".join(word.lower().replace("_", " ").split()))
        role = role or known.get(" ".join(title.lower().replace("_", " ").split()))
        if role is None or any(column.role == role for column in columns):
            ignored.append(title)
            continue
        columns.append(_Column(index, title, role, unit.strip().lower().replace("°", "")))
    return columns, tuple(title for title in ignored if title)


def _names(entry: LogColumn) -> tuple[str, ...]:
    return tuple(name.lower() for name in entry.names)


def _cells(
    lines: list[tuple[int, str]], separator: str, count: int, name: str, cancelled: Callable[[], bool]
) -> list[tuple[int, list[str]]]:
    rows = []
    for index, (number, line) in enumerate(lines):
        if index % CHUNK == 0 and cancelled():
            raise CancelledError
        cells = line.split(separator)
        if len(cells) > count and any(cell.strip() for cell in cells[count:]):
            hint = " Decimal commas need another separator." if separator == "," else ""
            raise ShopError(f"{name}, line {number}: {len(cells)} cells for {count} columns.{hint}")
        rows.append((number, cells + [""] * (count - len(cells))))
    return rows


def _number(text: str) -> float | None:
    cleaned = text.strip().strip('"').replace("\N{MINUS SIGN}", "-")
    if cleaned.count(",") == 1 and "." not in cleaned:
        cleaned = cleaned.replace(",", ".")
    try:
        value = float(cleaned)
    except ValueError:
        return None
    return value if np.isfinite(value) else None


def _temperatures(cells: list[str], lines: list[int], column: _Column, name: str) -> Array:
    found = np.full(len(cells), np.nan)
    for index, cell in enumerate(cells):
        if cell.strip().strip('"').lower() in MISSING:
            continue
        value = _number(cell)
        if value is None:
            raise ShopError(f"{name}, line {lines[index]}, {column.title}: '{cell.strip()}' is no number.")
        found[index] = value
    if column.unit in ("f", "degf", "fahrenheit"):
        found = (found - 32.0) / 1.8
    elif column.unit in ("k", "kelvin"):
        found = found - 273.15
    elif column.unit not in ("", "c", "degc", "celsius"):
        raise ShopError(f"{name}, {column.title}: '{column.unit}' is no unit of temperature. Use C, F or K.")
    wild = np.flatnonzero((found > HOTTEST) | (found < COLDEST))
    if len(wild):
        line = lines[int(wild[0])]
        raise ShopError(
            f"{name}, line {line}, {column.title}: {found[wild[0]]:.0f} °C is beyond any sensor. Check the unit."
        )
    return found


def _times(cells: list[str], lines: list[int], column: _Column, name: str) -> tuple[Array, float | None]:
    """Seconds from the first row, and the clock hour of that where the column tells it."""
    raw, clock = _raw_times(cells, lines, column, name)
    jumps = np.flatnonzero(np.diff(raw) < 0.0)
    if clock:  # a clock that begins again at midnight
        for at in jumps:
            if raw[at] - raw[at + 1] > HALF_DAY:
                raw[at + 1 :] += DAY
        jumps = np.flatnonzero(np.diff(raw) < 0.0)
    if len(jumps):
        back = int(jumps[0])
        raise ShopError(
            f"{name}, line {lines[back + 1]}: time goes back from {cells[back].strip()} to {cells[back + 1].strip()}. "
            "Two runs in one file? Split it there."
        )
    start = float(raw[0]) / 3600.0 % 24.0 if clock else None
    return raw - raw[0], start


def _raw_times(cells: list[str], lines: list[int], column: _Column, name: str) -> tuple[Array, bool]:
    first = cells[0].strip().strip('"')
    words = column.title.lower()
    unit = column.unit or next((key for key in ("minutes", "seconds") if key in words), "s")
    if unit not in TIME_UNITS:
        raise ShopError(f"{name}, {column.title}: '{unit}' is no unit of time. Use s, min or h.")
    reader = _reader(first)
    found = np.empty(len(cells))
    for index, cell in enumerate(cells):
        value = reader(cell.strip().strip('"'))
        if value is None:
            raise ShopError(f"{name}, line {lines[index]}, {column.title}: '{cell.strip()}' is no time like '{first}'.")
        found[index] = value
    clock = reader is not _number
    return (found, True) if clock else (found * TIME_UNITS[unit], False)


def _reader(first: str) -> Callable[[str], float | None]:
    """How times are written here, by the first."""
    if CLOCK.match(first):
        return _clock
    return _number if _number(first) is not None else _stamp


def _clock(text: str) -> float | None:
    match = CLOCK.match(text)
    if match is None:
        return None
    hours, minutes, seconds = match.groups()
    return int(hours) * 3600.0 + int(minutes) * 60.0 + float((seconds or "0").replace(",", "."))


def _stamp(text: str) -> float | None:
    """A date with a time, as seconds from the midnight before the year one; good for differences and hours."""
    try:
        moment = datetime.fromisoformat(text.replace("Z", "+00:00"))
    except ValueError:
        return None
    midnight = moment.toordinal() * DAY
    return midnight + moment.hour * 3600.0 + moment.minute * 60.0 + moment.second + moment.microsecond * 1e-6
