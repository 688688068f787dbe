"""Columns of times, as loggers write them: read right, or asked about, never guessed.

Dates with a time of day, with or without an offset from UTC; dates and times in two columns; clock times with or
without AM and PM; counts since the start in many ways of writing; seconds since 1970; day numbers of spreadsheets.
Packages that read dates guess which of day and month comes first; here all rows are held against every order, and what
stays open is asked.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date

import numpy as np
import numpy.typing as npt

from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files.asking import FileQuestion, unsure
from zeotherm.shop.files.number_style import Style
from zeotherm.shop.files.reading import Cancelled, never

Array = npt.NDArray[np.float64]
DAY, HALF_DAY, HOUR = 86400.0, 43200.0, 3600.0
CHUNK = 50_000  # rows between two looks at whether the answer is still wanted
UNITS = {
    "ns": 1e-9, "us": 1e-6, "\u00b5s": 1e-6, "ms": 1e-3, "millis": 1e-3, "milliseconds": 1e-3, "s": 1.0, "sec": 1.0,
    "secs": 1.0, "second": 1.0, "seconds": 1.0, "sekunden": 1.0, "min": 60.0, "mins": 60.0, "minute": 60.0,
    "minutes": 60.0, "minuten": 60.0, "h": HOUR, "hr": HOUR, "hrs": HOUR, "hour": HOUR, "hours": HOUR,
    "stunden": HOUR, "d": DAY, "day": DAY, "days": DAY, "tage": DAY,
}  # fmt: skip
EPOCH = (9.4e8, 4.2e9)  # s since 1970 that a log may state: 2000 to 2103
EPOCH_SCALES = {"s": 1.0, "ms": 1e3, "\u00b5s": 1e6, "ns": 1e9}
SHEET_DAYS = (20_000.0, 80_000.0)  # day numbers of spreadsheets: 1954 to 2119
SHEET_STEP = 0.02  # days between two rows at most, for a number to be one
LONGEST_S = 90 * DAY  # of a log
SHORTEST_S = 10.0
COARSE_S = 250.0  # whole steps from which seconds and milliseconds cannot be told apart
MONTHS = {
    name: number
    for number, names in enumerate(
        ("jan ene gen", "feb fev", "mar mrz maa mae", "apr avr abr", "may mai mag mei", "jun jui1 giu", "jul jui2 lug",
         "aug aou ago", "sep set", "oct okt out ott", "nov", "dec dez dic"), start=1)
    for name in names.split()
}  # fmt: skip
NUMERIC = re.compile(r"^(\d{1,2})([-/.])(\d{1,2})\2(\d{4}|\d{2})$")
YEAR_FIRST = re.compile(r"^(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})$")
PACKED = re.compile(r"^((?:19|20)\d{2})(\d{2})(\d{2})$")
STAMPED = re.compile(r"^(?:19|20)\d{2}(?:0[1-9]|1[0-2])[0-3]\d[0-2]\d[0-5]\d[0-5]\d$")  # 20260301090005
NAMED = re.compile(r"^(\d{1,2})[ .-]+([^\W\d_]{3,10})\.?[ ,.-]+(\d{4})$")
NAME_FIRST = re.compile(r"^([^\W\d_]{3,10})\.? +(\d{1,2}),? +(\d{4})$")
CLOCK = re.compile(
    r"^(?:(?P<days>\d{1,5})\s*(?:d|days?|tage?)[ ,]*)?(?P<h>\d{1,5}):(?P<m>\d{2})(?::(?P<s>\d{2}(?:[.,:]\d+)?))?"
    r"\s*(?P<half>[ap]\.?\s?m\.?)?\s*(?P<zone>Z|UTC|GMT|(?:UTC|GMT)?[+-]\d{1,2}(?::?\d{2})?)?$",
    re.IGNORECASE,
)
SPELLED = re.compile(
    r"^(?:(\d+)\s*d)?\s*(?:(\d+)\s*h)?\s*(?:(\d+)\s*m(?:in)?)?\s*(?:(\d+(?:[.,]\d+)?)\s*s)?$", re.IGNORECASE
)
WORDS = {"mm_ss": ("mm:ss", "min:s", "m:ss"), "hh_mm": ("hh:mm", "h:mm", "time of day", "clock", "uhrzeit", "heure")}
ORDERS = {"dmy": "day first", "mdy": "month first", "ymd": "year first"}


@dataclass(frozen=True)
class Times:
    """Seconds of every row, and what is known of their clock."""

    seconds: Array
    start_h: float | None  # clock time of the first row
    notes: tuple[str, ...] = ()


@dataclass(frozen=True)
class Cells:
    """A column that is to be read as times, and where it stands."""

    file: str
    title: str
    texts: Sequence[str]
    line: Callable[[int], int]  # line in the file of a row
    unit: str = ""  # that the header states

    def refuse(self, row: int, what: str) -> ShopError:
        """What is wrong with one cell."""
        return ShopError(f"{self.file}, line {self.line(row)}, {self.title}: {what}")

    def unlike(self, row: int) -> ShopError:
        """A cell that is no time as the first one is."""
        text = self.texts[row]
        return self.refuse(row, f"'{text[:40]}' is no time like '{self.texts[0]}'." if text else "the time is missing.")


def times_in(cells: Cells, style: Style, answers: Mapping[str, str], cancelled: Cancelled = never) -> Times:
    """A column of times. Raises ShopError that names the line, UnsureError with its questions, or CancelledError."""
    first = next((one for one in cells.texts if one), "")
    if style.number(first) is not None and not STAMPED.match(first):
        return _counted(cells, style, answers, cancelled)
    parted = date_and_clock(first)
    if parted is not None and parted[0]:
        return _dated(cells, answers, cancelled)
    if CLOCK.match(first):
        return _clocked(cells, answers, cancelled)
    if _spelled(first) is not None:
        return Times(_each(cells, _spelled, f"'{first}'", cancelled), None)
    raise cells.refuse(0, f"'{first[:40]}' is no time.")


def is_date(text: str) -> bool:
    """Whether a cell is a date without a time of day."""
    return any(pattern.match(text) for pattern in (NUMERIC, YEAR_FIRST, NAMED, NAME_FIRST)) or bool(PACKED.match(text))


def is_time(text: str) -> bool:
    """Whether a cell is a time that is no plain number."""
    parted = date_and_clock(text)
    return parted is not None or bool(CLOCK.match(text)) or _spelled(text) is not None


def clock_seconds(text: str) -> float | None:
    """Seconds from midnight of a clock time such as 9:30, 21:04:07.5 or 9:04:07 PM."""
    match = CLOCK.match(text.strip())
    if match is None or match["days"]:
        return None
    return _of_clock(match, most_h=47)


def stamp_seconds(text: str) -> float | None:
    """A date, year first, with a time of day, as seconds from the midnight before the year one; UTC where it says."""
    parted = date_and_clock(text.strip())
    if parted is None or not (YEAR_FIRST.match(parted[0]) or PACKED.match(parted[0])):
        return None
    day, clock = _ordinal(parted[0], "ymd"), _of_day(parted[1])
    return day * DAY + clock[0] - clock[1] if day is not None and clock is not None else None


def date_and_clock(text: str) -> tuple[str, str] | None:
    """A cell parted into its date and its time of day, either of which may come first; None where there is no date."""
    text = text.strip()
    if len(text) > 60:
        return None
    if is_date(text):
        return text, ""
    if re.match(r"^\d{8}[T ]?\d{6}$", text):
        return text[:8], f"{text[-6:-4]}:{text[-4:-2]}:{text[-2:]}"
    for mark in re.finditer(r"[T,]? +|T|, *", text):
        one, other = text[: mark.start()].strip(" ,"), text[mark.end() :].strip(" ,")
        if is_date(one) and CLOCK.match(other):
            return one, other
        if is_date(other) and CLOCK.match(one):
            return other, one
    return None


def _of_clock(match: re.Match[str], most_h: int = 10_000) -> float | None:
    hours, minutes = int(match["h"]), int(match["m"])
    seconds = _seconds(match["s"])
    half = (match["half"] or "").lower().replace(".", "").replace(" ", "")
    if minutes > 59 or seconds >= 61.0 or hours > most_h or (half and not 1 <= hours <= 12):
        return None
    if half:
        hours = hours % 12 + (12 if half.startswith("p") else 0)
    return int(match["days"] or 0) * DAY + hours * HOUR + minutes * 60.0 + seconds


def _seconds(text: str | None) -> float:
    if not text:
        return 0.0
    whole, mark, rest = text.partition(":")
    return float((f"{whole}.{rest}" if mark else text).replace(",", "."))  # 12:00:01:250 counts milliseconds


def _of_day(text: str) -> tuple[float, float] | None:
    """Seconds of a time of day, and its offset from UTC [s]; midnight where there is none."""
    if not text:
        return 0.0, 0.0
    match = CLOCK.match(text)
    if match is None or match["days"]:
        return None
    value = _of_clock(match, most_h=24)
    return (value, _offset(match["zone"])) if value is not None else None


def _offset(zone: str | None) -> float:
    """Seconds that a zone's clock is ahead of UTC."""
    found = re.search(r"([+-])(\d{1,2})(?::?(\d{2}))?$", zone or "")
    if found is None:
        return 0.0
    return (-1.0 if found[1] == "-" else 1.0) * (int(found[2]) * HOUR + int(found[3] or 0) * 60.0)


def _ordinal(text: str, order: str) -> int | None:
    """Day number of a date with its numbers in an order; None where that is no date."""
    year_first, packed = YEAR_FIRST.match(text), PACKED.match(text)
    named, name_first = NAMED.match(text), NAME_FIRST.match(text)
    if year_first or packed:
        year, month, day = (int(one) for one in (year_first or packed).groups())  # type: ignore[union-attr]
    elif named or name_first:
        word = (named[2] if named else name_first[1]) if named or name_first else ""  # type: ignore[index]
        month = _month(word)
        day = int(named[1] if named else name_first[2])  # type: ignore[index]
        year = int((named or name_first)[3])  # type: ignore[index]
    else:
        numeric = NUMERIC.match(text)
        if numeric is None:
            return None
        one, other, last = int(numeric[1]), int(numeric[3]), int(numeric[4])
        year, month, day = {"dmy": (last, other, one), "mdy": (last, one, other), "ymd": (one, other, last)}[order]
        if order == "ymd" and len(numeric[4]) != 2:
            return None
        year += 2000 if year < 100 else 0
    try:
        return date(year, month, day).toordinal()
    except ValueError:
        return None


def _month(word: str) -> int:
    plain = unicodedata.normalize("NFKD", word).encode("ascii", "ignore").decode().lower()
    if plain.startswith("jui"):
        return 7 if plain.startswith("juil") else 6
    return MONTHS.get(plain[:3], 0)


def _dated(cells: Cells, answers: Mapping[str, str], cancelled: Cancelled) -> Times:
    """Dates with times of day: in the one order that all rows allow, or as answered."""
    dates, clocks = [], np.empty(len(cells.texts))
    offsets = np.zeros(len(cells.texts))
    for row, text in enumerate(cells.texts):
        if row % CHUNK == 0 and cancelled():
            raise CancelledError
        parted = date_and_clock(text)
        day = _of_day(parted[1]) if parted is not None else None
        if parted is None or day is None:
            raise cells.refuse(
                row, f"'{text[:40]}' is no time like '{cells.texts[0]}'." if text else "the time is missing."
            )
        dates.append(parted[0])
        clocks[row], offsets[row] = day
    unique = list(dict.fromkeys(dates))
    orders = [one for one in ORDERS if all(_ordinal(text, one) is not None for text in unique)]
    orders = ["dmy"] if "dmy" in orders and any("." in text for text in unique) else orders
    if not orders:
        bad = next((text for text in unique if all(_ordinal(text, one) is None for one in ORDERS)), unique[0])
        raise cells.refuse(dates.index(bad), f"'{bad}' is no date.")
    found = {order: _seconds_of(dates, clocks - offsets, order) for order in orders}
    order = _the_order(cells, unique, found, answers)
    seconds = found[order]
    notes: list[str] = []
    if not offsets.any():
        seconds, notes = _clock_changes(cells, seconds, clocks, answers)
    return Times(seconds, float(clocks[0]) / HOUR % 24.0, tuple(notes))


def _seconds_of(dates: list[str], clocks: Array, order: str) -> Array:
    days = {text: _ordinal(text, order) for text in set(dates)}
    return np.array([float(days[text] or 0) * DAY for text in dates]) + clocks


def _the_order(cells: Cells, unique: list[str], found: Mapping[str, Array], answers: Mapping[str, str]) -> str:
    """The order of day and month that the rows show; where more of them do, as answered, else asked."""
    told = answers.get("dates", "")
    if told in found:
        return told
    alike: dict[bytes, str] = {}
    for order, seconds in found.items():
        alike.setdefault((seconds - seconds[0]).tobytes(), order)
    kept = list(alike.values())  # orders that make a difference to the times between rows
    forward = [order for order in kept if (np.diff(found[order]) >= -HOUR).all()]
    kept = forward or kept
    if len(kept) > 1:
        near = [order for order in kept if np.diff(found[order], prepend=found[order][0]).max() < 26 * HOUR]
        often = len(cells.texts) > 2 * len(unique)  # several rows a day: a gap of months is none that a logger makes
        kept = near if len(near) == 1 and often else kept
    if len(kept) == 1:
        return kept[0]
    shown = next((text for text in unique if len({_ordinal(text, one) for one in kept}) > 1), unique[0])
    raise unsure(cells.file, cells.title, FileQuestion(
        "dates", f"{shown} can be read in {len(kept)} ways:",
        tuple((one, f"{ORDERS[one]}, {_spelled_date(_ordinal(shown, one))}") for one in kept),
    ))  # fmt: skip


def _spelled_date(ordinal: int | None) -> str:
    assert ordinal is not None
    found = date.fromordinal(ordinal)
    return f"{found.day} {found:%B} {found.year}"


def _clock_changes(cells: Cells, seconds: Array, clocks: Array, answers: Mapping[str, str]) -> tuple[Array, list[str]]:
    """Local times without an offset that jump by an hour: the clocks were changed, or the logger began again."""
    steps = np.diff(seconds)
    usual = float(np.median(steps)) if len(steps) else 0.0
    back = np.flatnonzero(np.abs(steps + HOUR - usual) < max(120.0, 3.0 * usual))
    if not len(back) or not 0.0 <= usual < 1800.0:
        return seconds, []
    told = answers.get("clock")
    if told == "again":
        return seconds, []
    if told == "change":
        moved = seconds.copy()
        for at in back:
            moved[at + 1 :] += HOUR
        return moved, [f"clock_change:{len(back)}"]
    line = cells.line(int(back[0]) + 1)
    raise unsure(cells.file, f"line {line}", FileQuestion(
        "clock", "the clock goes back by an hour:",
        (("change", "the clocks were changed and the log goes on"), ("again", "the logger began again")),
    ))  # fmt: skip


def _clocked(cells: Cells, answers: Mapping[str, str], cancelled: Cancelled) -> Times:
    """Times of day, or counts of hours, minutes and seconds."""
    matches = []
    for row, text in enumerate(cells.texts):
        if row % CHUNK == 0 and cancelled():
            raise CancelledError
        match = CLOCK.match(text)
        if match is None:
            raise cells.refuse(
                row, f"'{text[:40]}' is no time like '{cells.texts[0]}'." if text else "the time is missing."
            )
        matches.append(match)
    short = all(one["s"] is None and not one["half"] and not one["days"] for one in matches)
    if short and _minutes_first(cells, matches, answers):
        seconds = np.array([int(one["h"]) * 60.0 + int(one["m"]) for one in matches])
        return Times(seconds, None)
    read = []
    for row, one in enumerate(matches):
        value = _of_clock(one)
        if value is None:
            raise cells.refuse(row, f"'{cells.texts[row][:40]}' is no time of day.")
        read.append(value - _offset(one["zone"]))
    seconds = np.array(read)
    counted = any(one["days"] for one in matches) or max(int(one["h"]) for one in matches) > 24
    words = _plain(cells.title)
    if counted or "uptime" in words or "elapsed" in words or "duration" in words:
        return Times(seconds, None)
    start = float(seconds[0]) / HOUR % 24.0
    for at in np.flatnonzero(np.diff(seconds) < -HALF_DAY):
        seconds[at + 1 :] += DAY  # a clock that begins again at midnight
    return Times(_twelve_hours(cells, seconds, matches, answers), start)


def _twelve_hours(cells: Cells, seconds: Array, matches: list[re.Match[str]], answers: Mapping[str, str]) -> Array:
    """A clock that goes from 12:59 to 1:00 without AM and PM."""
    steps = np.diff(seconds)
    usual = float(np.median(steps)) if len(steps) else 0.0
    back = np.flatnonzero(np.abs(steps + HALF_DAY - usual) < max(120.0, 3.0 * usual))
    if not len(back) or any(one["half"] for one in matches) or seconds.max() >= 13 * HOUR + DAY * 40:
        return seconds
    told = answers.get("clock")
    if told == "again":
        return seconds
    if told == "change":
        moved = seconds.copy()
        for at in back:
            moved[at + 1 :] += HALF_DAY
        return moved
    raise unsure(cells.file, f"line {cells.line(int(back[0]) + 1)}", FileQuestion(
        "clock", "the clock goes back by twelve hours:",
        (("change", "it counts to twelve and goes on"), ("again", "the logger began again")),
    ))  # fmt: skip


def _minutes_first(cells: Cells, matches: list[re.Match[str]], answers: Mapping[str, str]) -> bool:
    """Whether 9:30 is nine and a half minutes, not half past nine. Raises UnsureError where nothing tells."""
    told = answers.get("minutes")
    if told in WORDS:
        return told == "mm_ss"
    words = _plain(cells.title)
    for way in WORDS:
        if any(word in words for word in WORDS[way]):
            return way == "mm_ss"
    first = [int(one["h"]) for one in matches]
    if max(first) > 23:
        return True
    if any(int(one["m"]) > 59 for one in matches):
        return False
    counts = np.array([60.0 * int(one["h"]) + int(one["m"]) for one in matches])
    if (np.diff(counts) < 0.0).any() or len(counts) < 2:
        return False  # minutes that go back are none; a clock that passes midnight does
    shown = cells.texts[0]
    hours, minutes = matches[0]["h"], matches[0]["m"]
    raise unsure(cells.file, cells.title, FileQuestion(
        "minutes", f"{shown} can be read in two ways:",
        (("hh_mm", f"{hours} hours {minutes} minutes"), ("mm_ss", f"{hours} minutes {minutes} seconds")),
    ))  # fmt: skip


def _counted(cells: Cells, style: Style, answers: Mapping[str, str], cancelled: Cancelled) -> Times:
    """Plain numbers: seconds since 1970, day numbers of a spreadsheet, or counts in the header's unit."""
    values = _each(cells, style.number, "a number", cancelled)
    words, told = _plain(cells.title), answers.get("unit")
    unit = told or cells.unit or next((one for one in UNITS if len(one) > 2 and re.search(rf"\b{one}\b", words)), "")
    if unit and unit not in UNITS:
        raise ShopError(f"{cells.file}, {cells.title}: '{unit}' is no unit of time. Use s, min or h.")
    for name, scale in EPOCH_SCALES.items():
        if values.min() > EPOCH[0] * scale and values.max() < EPOCH[1] * scale and unit in ("", name, "s"):
            return Times(values / scale, None, ("epoch",))
    if not unit and SHEET_DAYS[0] < values.min() and values.max() < SHEET_DAYS[1]:
        steps = np.abs(np.diff(values))
        if len(steps) and 0.0 < float(np.median(steps)) < SHEET_STEP and (values % 1.0 > 0.0).any():
            return Times(np.round(values * DAY, 3), float(values[0] % 1.0) * 24.0, ("sheet_days",))
    if np.abs(values).max() > 1e15:
        raise ShopError(f"{cells.file}, {cells.title}: times beyond 30,000 years. Check the unit.")
    if not unit:
        return Times(values * _bare(cells, values), None, ("seconds_assumed",))
    return Times(values * UNITS[unit], None)


def _bare(cells: Cells, values: Array) -> float:
    """What numbers without a unit count: seconds, or milliseconds where seconds cannot be. Raises UnsureError."""
    span = float(values.max() - values.min())
    steps = np.diff(np.sort(values))
    step = float(np.median(steps)) if len(steps) else 0.0
    whole = bool((values % 1.0 == 0.0).all())
    if not whole or step < COARSE_S or span * 1e-3 < SHORTEST_S:
        return 1.0
    if span > LONGEST_S:
        return 1e-3
    raise unsure(cells.file, cells.title, FileQuestion(
        "unit", f"the header states no unit, and rows are {step:g} apart:",
        (("s", f"seconds, {span / HOUR:.3g} h in all"), ("ms", f"milliseconds, {span / 6e4:.3g} min in all")),
    ))  # fmt: skip


def _each(cells: Cells, reader: Callable[[str], float | None], like: str, cancelled: Cancelled) -> Array:
    found = np.empty(len(cells.texts))
    for row, text in enumerate(cells.texts):
        if row % CHUNK == 0 and cancelled():
            raise CancelledError
        value = reader(text)
        if value is None:
            raise cells.refuse(row, f"'{text[:40]}' is no time like {like}." if text and like != "a number" else
                               f"'{text[:40]}' is no number." if text else "the time is missing.")  # fmt: skip
        found[row] = value
    return found


def _spelled(text: str) -> float | None:
    """A length such as 1h 02m 03s, or 1d2h."""
    match = SPELLED.match(text.strip())
    if match is None or not any(match.groups()):
        return None
    days, hours, minutes, seconds = (float((one or "0").replace(",", ".")) for one in match.groups())
    return days * DAY + hours * HOUR + minutes * 60.0 + seconds


def _plain(text: str) -> str:
    return unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode().lower().replace("_", " ")
