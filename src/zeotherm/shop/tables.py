"""Tables of text: separator, header, and columns of numbers or clock times, a million rows in a few seconds."""

from __future__ import annotations

import math
import re
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np
import numpy.typing as npt

from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.shop.errors import ShopError
from zeotherm.shop.reading import Cancelled, never

Array = npt.NDArray[np.float64]
SEPARATORS = (";", "\t", "|", ",")
COMMENTS = ("#", "//", "%")
MISSING = {"", "-", "--", "nan", "n/a", "na", "null", "none", "err", "error", "open", "ol"}
HEAD_LINES = 200  # among which the header is
SNIFFED = 40  # lines that tell the separator
CHUNK = 50_000  # lines between two looks at whether the answer is still wanted
MOST_COLUMNS = 400
DAY = 24 * 3600.0
CLOCK = re.compile(r"^(\d{1,2}):(\d{2})(?::(\d{2}(?:[.,]\d+)?))?$")
STAMP_DATE = re.compile(r"^\d{4}-\d{2}-\d{2}([T ]|$)")
Progress = Callable[[float], None]


def unwatched(_share: float) -> None:
    """Nobody looks at the progress."""


@dataclass(frozen=True)
class Table:
    """Lines parted into cells by one mark."""

    name: str  # of the file, for messages
    titles: tuple[str, ...]
    named: bool  # whether the file had a header
    separator: str
    lines: Sequence[str]
    numbers: Sequence[int] | None  # of the lines in the file; None: they follow one another from `first`
    first: int
    comments: tuple[str, ...]
    even: bool = False  # whether every line is known to have as many cells as the header

    def number(self, row: int) -> int:
        """Line in the file of a row."""
        return self.numbers[row] if self.numbers is not None else self.first + row

    def cells(self, row: int) -> list[str]:
        """One row, as long as the header; raises ShopError for a longer one."""
        return _cells(self, row)


def table_of(text: str, name: str) -> Table:
    """Part a text into a table; raises ShopError with what to do."""
    raw = text.splitlines()
    kept = [index for index, line in enumerate(raw[:HEAD_LINES]) if _counts(line)]
    even = bool(kept) and _is_even(raw[kept[0] :], text)
    if not even:  # blank lines or comments between the rows: look at every line
        kept += [index for index, line in enumerate(raw[HEAD_LINES:], start=HEAD_LINES) if _counts(line)]
    if not kept:
        raise ShopError(f"{name} holds no rows. Choose a log with a header and numbers.")
    comments = tuple(line for line in raw[:100] if line.lstrip().startswith(COMMENTS))
    separator = _separator([raw[index] for index in kept[:SNIFFED]], name)
    head = raw[kept[0]]
    if head.count(separator) >= MOST_COLUMNS:
        raise ShopError(
            f"{name} has {head.count(separator) + 1:,} columns; up to {MOST_COLUMNS} are read. Export fewer."
        )
    titles = tuple(cell.strip().strip('"').strip() for cell in head.split(separator))
    named = not any(_is_value(title) for title in titles if title)
    if not named:
        titles = tuple(f"column {index + 1}" for index in range(len(titles)))
    if even:
        first = kept[0] + 1 if named else kept[0]
        rows: Sequence[int] = range(first, len(raw))
    else:
        rows = kept[1:] if named else kept
    if not rows:
        raise ShopError(f"{name} has a header but no rows.")
    lines = raw[rows[0] :] if even else [raw[index] for index in rows]
    numbers = None if even else [index + 1 for index in rows]
    return Table(name, titles, named, separator, lines, numbers, rows[0] + 1, comments, even)


def _counts(line: str) -> bool:
    return bool(line.strip()) and not line.lstrip().startswith(COMMENTS)


def _is_even(lines: list[str], text: str) -> bool:
    """Whether every line has as many separators as the first and none can be a comment: none is to be passed over."""
    mark = next((mark for mark in SEPARATORS if mark in lines[0]), None)
    if mark is None or any(f"\n{comment}" in text for comment in COMMENTS):
        return False
    count = lines[0].count(mark)
    return [line.count(mark) for line in lines] == [count] * len(lines)


def columns_of(
    table: Table, wanted: Sequence[int], cancelled: Cancelled = never, progress: Progress = unwatched
) -> list[Array]:
    """Columns as numbers, nan where a cell is missing. Raises ShopError that names line and column, or CancelledError.

    Whole chunks of clean rows are read at once; a chunk that holds anything else is read cell by cell.
    """
    found: list[list[Array]] = [[] for _column in wanted]
    for begin in range(0, len(table.lines), CHUNK):
        if cancelled():
            raise CancelledError
        for kept, column in zip(found, _chunk(table, begin, wanted), strict=True):
            kept.append(column)
        progress(min(1.0, (begin + CHUNK) / len(table.lines)))
    return [np.concatenate(kept) for kept in found]


def times_of(table: Table, column: int, cancelled: Cancelled = never) -> tuple[Array | None, str]:
    """A column of times: seconds, and how they are written ('clock' or 'stamp'). Raises ShopError.

    None and 'number' for plain numbers, which `columns_of` reads faster along with the others.
    """
    first = next((cell for row in range(min(len(table.lines), 50)) if (cell := _cell(table, row, column))), "")
    if number(first) is not None:
        return None, "number"
    reader, kind = (clock_seconds, "clock") if CLOCK.match(first) else (stamp_seconds, "stamp")
    found = np.empty(len(table.lines))
    for row in range(len(table.lines)):
        if row % CHUNK == 0 and cancelled():
            raise CancelledError
        cell = _cell(table, row, column)
        value = reader(cell)
        if value is None:
            raise ShopError(
                f"{table.name}, line {table.number(row)}, {table.titles[column]}: "
                f"'{cell[:40]}' is no time like '{first}'."
            )
        found[row] = value
    return found, kind


def number(text: str) -> float | None:
    """A number with a decimal point or comma; None for anything else, infinite or grouped by marks included."""
    cleaned = text.strip().strip('"').strip().replace("\N{MINUS SIGN}", "-")
    if cleaned.count(",") == 1 and "." not in cleaned:
        cleaned = cleaned.replace(",", ".")
    if "_" in cleaned or not cleaned.isascii():
        return None
    try:
        value = float(cleaned)
    except ValueError:
        return None
    return value if math.isfinite(value) else None


def clock_seconds(text: str) -> float | None:
    """Seconds from midnight of a clock time such as 9:30 or 21:04:07.5."""
    match = CLOCK.match(text)
    if match is None:
        return None
    hours, minutes, seconds = match.groups()
    if int(hours) > 47 or int(minutes) > 59 or float((seconds or "0").replace(",", ".")) >= 61.0:
        return None
    return int(hours) * 3600.0 + int(minutes) * 60.0 + float((seconds or "0").replace(",", "."))


def stamp_seconds(text: str) -> float | None:
    """A date with a time, as seconds from the midnight before the year one; good for differences and hours."""
    if not STAMP_DATE.match(text):
        return None
    try:
        moment = datetime.fromisoformat(text.replace("Z", "+00:00"))
    except ValueError:
        return None
    seconds = moment.hour * 3600.0 + moment.minute * 60.0 + moment.second + moment.microsecond * 1e-6
    return moment.toordinal() * DAY + seconds


def _is_value(text: str) -> bool:
    return number(text) is not None or clock_seconds(text) is not None or stamp_seconds(text) is not None


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


def _cells(table: Table, row: int) -> list[str]:
    count = len(table.titles)
    cells = table.lines[row].split(table.separator)
    if len(cells) > count and any(cell.strip() for cell in cells[count:]):
        hint = " Decimal commas need another separator." if table.separator == "," else ""
        raise ShopError(f"{table.name}, line {table.number(row)}: {len(cells)} cells for {count} columns.{hint}")
    return cells + [""] * (count - len(cells))


def _cell(table: Table, row: int, column: int) -> str:
    return _cells(table, row)[column].strip().strip('"').strip()


def _chunk(table: Table, begin: int, wanted: Sequence[int]) -> list[Array]:
    lines = table.lines[begin : begin + CHUNK]
    marks = len(table.titles) - 1
    if table.even or all(line.count(table.separator) == marks for line in lines):
        clean = lines if table.separator == "," else [line.replace(",", ".") for line in lines]
        try:
            read = np.loadtxt(clean, delimiter=table.separator, usecols=tuple(wanted), ndmin=2, comments=None)
        except ValueError:
            read = None
        if read is not None and len(read) == len(lines) and not np.isinf(read).any():
            return [np.ascontiguousarray(read[:, index]) for index in range(len(wanted))]
    return _slowly(table, begin, len(lines), wanted)


def _slowly(table: Table, begin: int, count: int, wanted: Sequence[int]) -> list[Array]:
    found = np.full((len(wanted), count), np.nan)
    for row in range(begin, begin + count):
        cells = _cells(table, row)
        for index, column in enumerate(wanted):
            cell = cells[column].strip().strip('"').strip()
            if cell.lower() in MISSING:
                continue
            value = number(cell)
            if value is None:
                raise ShopError(
                    f"{table.name}, line {table.number(row)}, {table.titles[column]}: '{cell[:40]}' is no number."
                )
            found[index, row - begin] = value
    return list(found)
