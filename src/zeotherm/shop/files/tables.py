"""Tables of text: separator, preamble, header and units, and columns of numbers, a million rows in a few seconds.

Quoted cells are parted by the standard library's reader. Rows of one reading each, and lines of JSON, are turned into a
table with a column a channel.
"""

from __future__ import annotations

import csv
import io
import json
import re
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
import numpy.typing as npt

from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files.number_style import MISSING, Style, style_of
from zeotherm.shop.files.reading import Cancelled, never
from zeotherm.shop.files.times import is_time

Array = npt.NDArray[np.float64]
SEPARATORS = (";", "\t", "|", ",")
INNER = "\x1f"  # parts cells that were parted before
COMMENTS = ("#", "//", "%")
HEAD_LINES = 200  # among which the header is
LOOKED = 2000  # rows at either end, and as many between, from which the way of writing numbers is told
CHUNK = 50_000  # lines between two looks at whether the answer is still wanted
MOST_COLUMNS = 400
QUOTED = re.compile(r'"[^"\n]*"')
SPACED = re.compile(r"\S+(?: \S+)*")  # cells parted by two spaces or more
UNIT_CELL = re.compile(r"^[\[(]?\s*([°º]?\s?[a-zµΩ%/]{1,5}|1/min|mm:ss|hh:mm:ss|-)\s*[\])]?$", re.IGNORECASE)
ENTITY = {"entity", "entity id", "sensor", "probe", "channel", "name", "device", "series", "id", "measurement", "topic",
          "kanal", "messstelle", "capteur", "canal", "sonda", "friendly name", "key"}  # fmt: skip
STATE = {"state", "value", "reading", "val", "wert", "messwert", "valeur", "valor", "valore", "result", "data"}
UNITS = {"unit", "units", "unit of measurement", "uom", "einheit", "unite", "unidad", "unita"}
Progress = Callable[[float], None]


def unwatched(_share: float) -> None:
    """Nobody looks at the progress."""


@dataclass(frozen=True)
class TextTable:
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
    style: Style = field(default_factory=Style)
    skipped: int = 0  # lines behind the header that are no rows: a header once more, words at the end
    notes: tuple[str, ...] = ()

    def number(self, row: int) -> int:
        """Line in the file of a row."""
        return self.numbers[row] if self.numbers is not None else self.first + row

    def cells(self, row: int) -> list[str]:
        """One row, as long as the header; raises ShopError for a longer one."""
        return _cells(self, row)

    def column(self, index: int) -> list[str]:
        """A column's cells, without quotes and blanks about them."""
        return [_cells(self, row)[index].strip().strip('"').strip() for row in range(len(self.lines))]

    def shown(self, rows: int) -> tuple[str, ...]:
        """The header and the first rows, as a person would read them."""
        head = [" | ".join(self.titles)]
        return tuple(head + [" | ".join(one.strip() for one in self.lines[row].split(self.separator))
                             for row in range(min(rows, len(self.lines)))])  # fmt: skip


def table_of(text: str, name: str) -> TextTable:
    """Part a text into a table; raises ShopError with what to do. How it writes numbers is found by `with_style`."""
    found = _json_table(text, name) if text.lstrip()[:1] in ("{", "[") else _text_table(text, name)
    return _widened(_with_units(_without_doubles(found)))


def with_style(table: TextTable, answers: Mapping[str, str]) -> TextTable:
    """The table with its way of writing numbers. Raises UnsureError where they can be read in two ways."""
    return replace(table, style=_style(table, answers))


def _style(table: TextTable, answers: Mapping[str, str]) -> Style:
    if table.separator == "," and not any("." in line for line in table.lines[:LOOKED]):
        return Style()
    count = len(table.lines)
    rows = sorted(
        {*range(min(LOOKED, count)), *range(0, count, max(1, count // LOOKED)), *range(max(0, count - LOOKED), count)}
    )
    looked = [[one.strip().strip('"').strip() for one in _cells(table, row)] for row in rows]
    columns = {title: [row[index] for row in looked] for index, title in enumerate(table.titles)}
    return style_of(columns, table.name, answers)


def _text_table(text: str, name: str) -> TextTable:
    raw = text.splitlines()
    kept = [index for index, line in enumerate(raw[:HEAD_LINES]) if _counts(line)]
    if not kept:
        raise ShopError(f"{name} holds no rows. Choose a log with a header and numbers.")
    comments = tuple(line for line in raw[:100] if line.lstrip().startswith(COMMENTS))
    separator, count = _separator([QUOTED.sub('""', raw[index]) for index in kept], name)
    if count >= MOST_COLUMNS:
        raise ShopError(f"{name} has {count + 1:,} columns; up to {MOST_COLUMNS} are read. Export fewer.")
    if separator == "  ":
        raw = [INNER.join(SPACED.findall(line)) for line in raw]
        separator = INNER
    numbers: list[int] | None = None
    if '"' in text and separator != INNER:
        raw, numbers = _unquoted(text, separator)
        kept = [index for index, line in enumerate(raw[:HEAD_LINES]) if _counts(line)]
        separator = INNER
    if not kept:
        raise ShopError(f"{name} is no table: its quotes leave no line that says anything.")
    head, named = _head(raw, kept, separator, count)
    return _from_lines(name, raw, numbers, kept[head:], named, separator, comments)


def _from_lines(
    name: str, raw: list[str], numbers: list[int] | None, kept: list[int], named: bool, separator: str,
    comments: tuple[str, ...],
) -> TextTable:  # fmt: skip
    """The table that begins at a line; kept: lines that count, as far as they were looked at."""
    begin = kept[0]
    titles = tuple(cell.strip().strip('"').strip() for cell in raw[begin].split(separator))
    if not named:
        titles = tuple(f"column {index + 1}" for index in range(len(titles)))
    first = begin + 1 if named else begin
    marks = len(titles) - 1
    once = not named or raw.count(raw[begin]) == 1
    if numbers is None and once and _is_even(raw[first:], separator, marks):
        if first >= len(raw):
            raise ShopError(f"{name} has a header but no rows.")
        return TextTable(name, titles, named, separator, raw[first:], None, first + 1, comments, even=True)
    rows = [index for index in range(first, len(raw)) if _counts(raw[index])]
    skipped = [index for index in rows if (named and raw[index] == raw[begin]) or
               (separator not in raw[index] and marks > 0 and not is_value(raw[index]))]  # fmt: skip
    gone = set(skipped)
    rows = [index for index in rows if index not in gone]
    if not rows:
        raise ShopError(f"{name} has a header but no rows.")
    lines = [raw[index] for index in rows]
    at = [numbers[index] if numbers is not None else index + 1 for index in rows]
    return TextTable(name, titles, named, separator, lines, at, at[0], comments, skipped=len(skipped))


def _counts(line: str) -> bool:
    return bool(line.strip()) and not line.lstrip().startswith(COMMENTS)


def _is_even(lines: list[str], separator: str, count: int) -> bool:
    """Whether every line has as many separators as the header and none can be a comment: none is to be passed over."""
    if any(line.startswith(COMMENTS) for line in lines):
        return False
    return [line.count(separator) for line in lines] == [count] * len(lines)


def _separator(lines: list[str], name: str) -> tuple[str, int]:
    """The mark that parts most lines alike, and how often it stands in one; a comma only where nothing else does so."""
    best: tuple[int, str, int] | None = None
    for mark in SEPARATORS:
        counts = Counter(count for line in lines if (count := line.count(mark)))
        if counts:
            count, often = max(counts.items(), key=lambda one: (one[1], one[0]))
            if best is None or often > best[0]:
                best = (often, mark, count)
    spaced = Counter(count for line in lines if (count := len(SPACED.findall(line))) > 1)
    if spaced and (best is None or best[0] < 0.5 * len(lines)):
        count, often = spaced.most_common(1)[0]
        if often >= max(2, 0.8 * len(lines)):
            return "  ", count - 1
    if best is None:
        raise ShopError(f"{name} is no table: its lines are parted by none of comma, semicolon, tab or bar.")
    return best[1], best[2]


def _head(raw: list[str], kept: list[int], separator: str, count: int) -> tuple[int, bool]:
    """Which of the lines that count the table begins with, and whether that names its columns."""
    parted = [_parted(raw[index], separator) for index in kept]
    for at, cells in enumerate(parted):
        if len(cells) != count + 1:
            continue
        follows = parted[at + 1] if at + 1 < len(parted) else []
        if any(is_value(cell) for cell in cells if cell):
            before = parted[at - 1] if at else []
            named = len(before) > 1 and not any(is_value(cell) for cell in before if cell)
            return (at - 1, True) if named else (at, False)
        units = bool(follows) and all(UNIT_CELL.match(one) for one in follows if one)
        if not follows or _has_value(follows) or units:
            return at, True
    return 0, not any(is_value(cell) for cell in parted[0] if cell)


def _parted(line: str, separator: str) -> list[str]:
    return [cell.strip().strip('"').strip() for cell in line.split(separator)]


def _has_value(cells: list[str]) -> bool:
    return any(is_value(cell) or cell.lower() in MISSING - {""} for cell in cells)


def is_value(text: str) -> bool:
    """Whether a cell is a number or a time, however it is written."""
    return any(style.number(text) is not None for style in (Style(".", True), Style(",", True))) or is_time(text)


def _unquoted(text: str, separator: str) -> tuple[list[str], list[int]]:
    """Rows whose quoted cells may hold the separator, or a line's end; and the line in the file of each."""
    lines, numbers = [], []
    reader = csv.reader(io.StringIO(text), delimiter=separator, skipinitialspace=True)
    try:
        for row in reader:
            lines.append(INNER.join(cell.replace("\n", " ").replace(INNER, " ") for cell in row))
            numbers.append(reader.line_num)
    except csv.Error as wrong:
        raise ShopError(f"line {reader.line_num}: {wrong}. Export the log again.") from None
    return lines, numbers


def _json_table(text: str, name: str) -> TextTable:
    """Lines of JSON, or one list of objects, as a table: a column for every key, inner keys behind their outer ones."""
    objects: list[dict[str, object]] = []
    numbers: list[int] = []
    skipped = 0
    try:
        whole = json.loads(text)
        listed = whole if isinstance(whole, list) else [whole]
        objects, numbers = [one for one in listed if isinstance(one, dict)], list(range(1, len(listed) + 1))
        skipped = len(listed) - len(objects)
    except (ValueError, RecursionError):
        for at, line in enumerate(text.splitlines(), start=1):
            if not line.strip():
                continue
            try:
                one = json.loads(line.strip().rstrip(","))
            except (ValueError, RecursionError):
                one = None
            if isinstance(one, dict):
                objects.append(one)
                numbers.append(at)
            else:
                skipped += 1
    flat = [_flat(one) for one in objects]
    titles = tuple(dict.fromkeys(key for one in flat for key in one))
    if len(flat) < 2 or len(titles) < 2 or skipped > len(flat):
        raise ShopError(f"{name} holds no rows that can be read. Export the log as CSV, or as lines of JSON.")
    if len(titles) > MOST_COLUMNS:
        raise ShopError(f"{name} has {len(titles):,} columns; up to {MOST_COLUMNS} are read. Export fewer.")
    lines = [INNER.join(one.get(title, "") for title in titles) for one in flat]
    return TextTable(name, titles, True, INNER, lines, numbers[: len(lines)], numbers[0], (), skipped=skipped)


def _flat(one: Mapping[str, object], before: str = "") -> dict[str, str]:
    found: dict[str, str] = {}
    for key, value in one.items():
        title = f"{before}{key}".replace(INNER, " ")[:200]
        if isinstance(value, dict) and len(before) < 60:
            found |= _flat(value, f"{title} ")
        elif isinstance(value, bool) or value is None:
            found[title] = ""
        elif isinstance(value, str | int | float):
            found[title] = " ".join(str(value)[:400].replace(INNER, " ").split())
    return found


def _without_doubles(table: TextTable) -> TextTable:
    """Two columns of one name are told apart by a number."""
    seen: Counter[str] = Counter()
    titles = []
    for title in table.titles:
        seen[title] += 1
        titles.append(f"{title} ({seen[title]})" if title and seen[title] > 1 else title)
    return replace(table, titles=tuple(titles)) if tuple(titles) != table.titles else table


def _with_units(table: TextTable) -> TextTable:
    """A line of units below the header goes into it."""
    if not table.named or len(table.lines) < 2:
        return table
    cells = [cell.strip().strip('"').strip() for cell in _cells(table, 0)]
    told = [UNIT_CELL.match(cell) for cell in cells]
    if not any(cells) or not all(match or not cell for match, cell in zip(told, cells, strict=True)):
        return table
    if not any(is_value(cell) for cell in _cells(table, 1)) or all(cell.lower() in MISSING for cell in cells):
        return table
    titles = tuple(
        f"{title} [{match.group(1)}]" if match and match.group(1) != "-" else title
        for title, match in zip(table.titles, told, strict=True)
    )
    numbers = table.numbers[1:] if table.numbers is not None else None
    return replace(table, titles=titles, lines=table.lines[1:], numbers=numbers, first=table.first + 1)


def _widened(table: TextTable) -> TextTable:
    """One row a reading (what, value, when) as a table with a column for each thing that was read.

    Readings of one moment stand in one row; a channel that has none then is empty there.
    """
    words = [" ".join(title.lower().replace("_", " ").split()) for title in table.titles]
    what = next((n for n, word in enumerate(words) if word in ENTITY), None)
    value = next((n for n, word in enumerate(words) if word in STATE), None)
    if what is None or value is None or not table.named:
        return table
    unit = next((n for n, word in enumerate(words) if word in UNITS), None)
    others = [n for n in range(len(words)) if n not in (what, value, unit)]
    when = [n for n in others if is_time(_clean(table, 0, n)) or Style().number(_clean(table, 0, n)) is not None]
    if not when:
        return table
    rows: dict[tuple[str, ...], dict[str, str]] = {}
    at: dict[tuple[str, ...], int] = {}
    titles: dict[str, None] = {}
    for row in range(len(table.lines)):
        cells = [cell.strip().strip('"').strip() for cell in _cells(table, row)]
        title = cells[what].rpartition(".")[2].replace("_", " ") or "unnamed"
        title += f" [{cells[unit]}]" if unit is not None and cells[unit] else ""
        moment = tuple(cells[n] for n in when)
        titles[title] = None
        rows.setdefault(moment, {})[title] = cells[value]
        at.setdefault(moment, row)
    if not 1 <= len(titles) <= MOST_COLUMNS or len(titles) > max(2, len(table.lines) // 2):
        return table
    names = tuple(table.titles[n] for n in when)
    lines = [INNER.join([*moment, *(row.get(title, "") for title in titles)]) for moment, row in rows.items()]
    numbers = [table.number(at[moment]) for moment in rows]
    return replace(table, titles=(*names, *titles), separator=INNER, lines=lines, numbers=numbers, even=False,
                   notes=(*table.notes, "one_reading_a_row"))  # fmt: skip


def _clean(table: TextTable, row: int, column: int) -> str:
    return _cells(table, row)[column].strip().strip('"').strip()


def columns_of(
    table: TextTable, wanted: Sequence[int], cancelled: Cancelled = never, progress: Progress = unwatched
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


def number(text: str) -> float | None:
    """A number with a decimal point or comma; None for anything else, infinite or grouped by marks included."""
    cleaned = text.strip().strip('"').strip()
    return Style("," if cleaned.count(",") == 1 and "." not in cleaned else ".").number(cleaned)


def _cells(table: TextTable, row: int) -> list[str]:
    count = len(table.titles)
    cells = table.lines[row].split(table.separator)
    if len(cells) > count and any(cell.strip() for cell in cells[count:]):
        hint = " Decimal commas need another separator." if table.separator == "," else ""
        raise ShopError(f"{table.name}, line {table.number(row)}: {len(cells)} cells for {count} columns.{hint}")
    return (cells + [""] * (count - len(cells)))[:count]


def _chunk(table: TextTable, begin: int, wanted: Sequence[int]) -> list[Array]:
    lines = table.lines[begin : begin + CHUNK]
    marks = len(table.titles) - 1
    other = table.style.group
    plain = table.separator == "," or not any(other in line for line in lines)
    if plain and (table.even or all(line.count(table.separator) == marks for line in lines)):
        clean = [line.replace(",", ".") for line in lines] if table.style.decimal == "," else lines
        try:
            read = np.loadtxt(clean, delimiter=table.separator, usecols=tuple(wanted), ndmin=2, comments=None)
        except ValueError:
            read = None
        if read is not None and len(read) == len(lines) and not np.isinf(read).any():
            return [np.ascontiguousarray(read[:, index]) for index in range(len(wanted))]
    return _slowly(table, begin, len(lines), wanted)


def _slowly(table: TextTable, begin: int, count: int, wanted: Sequence[int]) -> list[Array]:
    found = np.full((len(wanted), count), np.nan)
    for row in range(begin, begin + count):
        cells = _cells(table, row)
        for index, column in enumerate(wanted):
            cell = cells[column].strip().strip('"').strip()
            if cell.lower() in MISSING:
                continue
            value = table.style.number(cell)
            if value is None:
                raise ShopError(
                    f"{table.name}, line {table.number(row)}, {table.titles[column]}: '{cell[:40]}' is no number."
                )
            found[index, row - begin] = value
    return list(found)
