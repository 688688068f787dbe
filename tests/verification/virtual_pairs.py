"""Pairs of runs of the virtual printer, and what is true of them: the same without chance, noise or rounding."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np

from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.measured import Measured, Run
from zeotherm.core.runs.assembly import assembled
from zeotherm.core.runs.comparison import Comparison
from zeotherm.core.runs.series import Series
from zeotherm.shop.practice.virtual_printer import LogRow, Setting, day

BASE = Setting(print_min=34.0, cool_min=3.0, idle_min=2.0, logged_s=5.0, start_h=9.0)
CHANGES = (
    {}, {"lint": 0.5}, {"lint": 0.2}, {"vents": 0.3}, {"vents": 0.8}, {"heater": 0.88}, {"heater": 1.06},
    {"lint": 0.6, "vents": 0.4},
)  # fmt: skip
CHANNELS = {
    "hotend": "block", "bed": "bed", "sink_base": "sink_base", "fan_air": "fan_inlet", "case": "case_air",
    "room": "room", "watts": "power",
}  # fmt: skip


def as_series(rows: list[LogRow]) -> Series:
    """What a logger would have written of them."""
    time = np.array([row.clock_h for row in rows]) * 3600.0
    values = {channel: np.array([getattr(row, name) for row in rows]) for name, channel in CHANNELS.items()}
    return Series(time - time[0], values, rows[0].clock_h)


def compared(runs: dict[str, Series], **how: object) -> Comparison:
    """Runs held against each other as the window does it, each of its own label."""
    notes = {key: Run(label=key, rows=one.rows, time_s=[0.0], values={"bed": [20.0]}) for key, one in runs.items()}
    found = assembled(Measured(runs=notes, **how), runs, shipped())
    assert found is not None
    return found.comparison


@cache
def truth(index: int) -> dict[tuple[str, str, str], float]:
    """What a change truly does to each figure."""
    calm = {"chance": 0.0, "noise": 0.0, "wander": 0.0, "logged_s": 1.0}
    before = as_series(list(day(0, replace(BASE, **calm))))
    after = as_series(list(day(0, replace(BASE, **calm, **CHANGES[index]))))
    rows = compared({"before": before, "after": after}).rows
    return {(row.kind, row.channel, row.other): row.change.value for row in rows if row.change is not None}


def pair(seed: int, index: int) -> Comparison:
    """A day as found and a day with a change, in rooms a little apart, with all of their chance."""
    rng = np.random.default_rng(seed)
    rooms = rng.normal(0.0, 0.35, 2)
    days = [replace(BASE, chance=1.0, room_shift=float(rooms[0])),
            replace(BASE, chance=1.0, room_shift=float(rooms[1]), **CHANGES[index])]  # fmt: skip
    before, after = (as_series(list(day(2 * seed + at, one))) for at, one in enumerate(days))
    return compared({"before": before, "after": after})
