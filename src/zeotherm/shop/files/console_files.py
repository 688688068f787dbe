"""Temperature reports as a printer's firmware prints them on its serial console."""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np

from zeotherm.core.runs.series import Series
from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files.reading import Cancelled
from zeotherm.shop.files.tables import CHUNK, number
from zeotherm.shop.files.times import clock_seconds, stamp_seconds

FIGURE = r"-?\d+(?:[.,]\d+)?"
FIELD = re.compile(rf"(?<![\w@])(T0?|B|C)\s*:\s*({FIGURE}|nan|-?inf)(?:\s*/\s*({FIGURE}))?", re.IGNORECASE)
DUTY = re.compile(r"(?<!\w)(B|C)?@0?\s*:\s*(\d+)")
STAMP = re.compile(
    r"^\W*(\d{4}-\d{2}-\d{2}[T ]\d{2}:\d{2}:\d{2}(?:[.,]\d{1,6})?"
    r"|\d{1,2}:\d{2}:\d{2}(?:[.,]\d+)?(?:\s?[ap]\.?m\.?)?|\d+\.\d{2,6}(?=[\s:>\]]))",
    re.IGNORECASE,
)
CHANNELS = {"T": "block", "T0": "block", "B": "bed", "C": "case_air"}
LOOKED = 4000  # characters in which a report must come
USUAL_S = 2.0  # between reports without time stamps: what firmwares send on their own
FULL_DUTY = (127, 255)  # counts
HALF_DAY, DAY = 12 * 3600.0, 24 * 3600.0
OPEN_SENSOR = (-12.0, 500.0)  # °C beyond which a report shows an open or shorted sensor


@dataclass(frozen=True)
class Console:
    """What a console log holds."""

    series: Series
    notes: tuple[str, ...]


def is_console(text: str) -> bool:
    """Whether a text holds temperature reports rather than a table."""
    head = text[:LOOKED]
    reports = sum(len(FIELD.findall(line)) >= 1 and "/" in line for line in head.splitlines())
    return reports >= 2


def read_console(text: str, name: str, cancelled: Cancelled) -> Console:
    """The reports of a console log; other lines are passed over. Raises ShopError or CancelledError.

    Without time stamps a report is taken to come every 2 s, and that is noted.
    """
    stamps: list[float | None] = []
    rows: list[dict[str, float]] = []
    for at, line in enumerate(text.splitlines(), start=1):
        if at % CHUNK == 0 and cancelled():
            raise CancelledError
        row = _report(line)
        if row:
            rows.append(row)
            stamps.append(_stamp(line))
    if not rows:
        raise ShopError(f"{name} holds no temperature report. Log the console while the printer heats.")
    times, start, notes = _clock(stamps, name)
    keys = dict.fromkeys(key for row in rows for key in row)
    values = {key: np.array([row.get(key, np.nan) for row in rows]) for key in keys}
    for key in [key for key in values if key.startswith("duty")]:
        most = float(np.nanmax(values[key]))
        full = FULL_DUTY[0] if most <= FULL_DUTY[0] else FULL_DUTY[1]
        values[key] = np.minimum(values[key], full) * 100.0 / full
        notes = (*notes, f"duty_of:{full}")
    return Console(Series(times, values, start), tuple(dict.fromkeys(notes)))


def _report(line: str) -> dict[str, float]:
    """The figures of one line; nothing where it is no report."""
    row: dict[str, float] = {}
    for name, value, target in FIELD.findall(line):
        channel = CHANNELS[name.upper()]
        found = float(value.replace(",", "."))
        if channel in row:
            continue  # T: and T0: tell the same
        row[channel] = found if OPEN_SENSOR[0] < found < OPEN_SENSOR[1] else float("nan")
        if target:
            row[f"target_{'case' if channel == 'case_air' else channel}"] = min(
                max(float(target.replace(",", ".")), 0.0), 600.0
            )
    if not row:
        return row
    for whose, count in DUTY.findall(line):
        key = {"": "duty_block", "B": "duty_bed"}.get(whose.upper())
        if key is not None:
            row.setdefault(key, float(min(int(count[:6]), 255)))
    return row


def _stamp(line: str) -> float | None:
    found = STAMP.match(line)
    if found is None:
        return None
    text = found.group(1).replace(",", ".")
    clock = clock_seconds(text)
    if clock is not None:
        return clock
    dated = stamp_seconds(text)
    return dated if dated is not None else number(text)


def _clock(stamps: list[float | None], name: str) -> tuple[np.ndarray, float | None, tuple[str, ...]]:
    known = [stamp for stamp in stamps if stamp is not None]
    if len(known) < 0.5 * len(stamps):
        return np.arange(len(stamps)) * USUAL_S, None, (f"every:{USUAL_S:g}",)
    index = np.array([at for at, stamp in enumerate(stamps) if stamp is not None])
    times = np.array(known)
    for at in np.flatnonzero(np.diff(times) < -HALF_DAY):
        times[at + 1 :] += DAY
    filled = np.interp(np.arange(len(stamps)), index, times)
    clocked = known[0] > 1e6 or float(known[0]).is_integer() or known[0] < DAY
    start = times[0] / 3600.0 % 24.0 if clocked and known[0] != 0.0 else None
    return filled, (float(start) if start is not None else None), ()
