"""Runs as open files: CSV with a header that says all, and JSON with everything in it; read back equal."""

from __future__ import annotations

import io
import json
import zlib
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import numpy.typing as npt

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.machine.measured import Run, RunDoubt
from zeotherm.core.runs.series import Series
from zeotherm.shop.errors import ShopError

FORMAT, VERSION = "zeotherm-run", "1.0"
MARK = f"# {FORMAT} {VERSION}"
LARGEST_UNPACKED = 2_000_000_000  # bytes
Known = float | str


@dataclass(frozen=True)
class About:
    """What the head of an own file states."""

    label: str = ""
    start_h: float | None = None
    conditions: dict[str, Known] = field(default_factory=dict)
    doubts: dict[str, RunDoubt] = field(default_factory=dict)
    notes: tuple[str, ...] = ()
    own: bool = False  # whether Zeotherm wrote the file


@dataclass(frozen=True)
class OwnRun:
    """A run read from JSON."""

    series: Series
    label: str
    conditions: dict[str, Known]
    doubts: dict[str, RunDoubt]
    notes: tuple[str, ...]


def as_csv(series: Series, run: Run, catalogue: Catalogue) -> str:
    """A run as CSV: comment lines that document it, a header with units, a row a sample, empty where missing."""
    keys = list(series.values)
    words = [f"# label: {run.label}", f"# source: {run.source}"]
    lines = [MARK, *(" ".join(line.splitlines()) for line in words)]
    if series.start_h is not None:
        lines.append(f"# start_h: {series.start_h!r}")
    lines += [f"# condition {key}: {json.dumps(value, ensure_ascii=False)}" for key, value in run.conditions.items()]
    lines += [f"# doubt {key}: {json.dumps(doubt.model_dump())}" for key, doubt in run.doubts.items()]
    lines += [f"# note: {json.dumps(note, ensure_ascii=False)}" for note in run.notes]
    lines.append(
        "# time counts from the first row; an empty cell is a missing value; columns are channels by their ids"
    )
    lines.append(",".join(["time [s]", *(f"{key} [{_unit(key, catalogue)}]" for key in keys)]))
    columns = [series.time, *(series.values[key] for key in keys)]
    rows = zip(*(_cells(column) for column in columns), strict=True)
    return "\n".join([*lines, *(",".join(row) for row in rows)]) + "\n"


def _unit(key: str, catalogue: Catalogue) -> str:
    known = catalogue.channels.get(key)
    return catalogue.kinds[known.kind].unit.replace("°", "") if known is not None else ""


def _cells(column: npt.NDArray[np.float64]) -> list[str]:
    return ["" if value != value else repr(value) for value in column.tolist()]


def own_header(comments: tuple[str, ...]) -> About:
    """What the comment lines of an own CSV state; nothing for any other file."""
    if MARK not in comments:
        return About()
    label, start, conditions = "", None, {}
    doubts: dict[str, RunDoubt] = {}
    notes: list[str] = []
    for line in comments:
        key, _, text = line.removeprefix("# ").partition(": ")
        if key == "label":
            label = text
        elif key == "start_h":
            start = _hour(text)
        elif key.startswith("condition "):
            value = _value(text)
            if value is not None:
                conditions[key.removeprefix("condition ")] = value
        elif key.startswith("doubt "):
            with suppress(ValueError, TypeError):
                doubts[key.removeprefix("doubt ")] = RunDoubt(**json.loads(text))
        elif key == "note" and isinstance(told := _value(text), str):
            notes.append(told)
    return About(label, start, conditions, doubts, tuple(notes), own=True)


def _hour(text: str) -> float | None:
    try:
        hour = float(text)
    except ValueError:
        return None
    return hour if 0.0 <= hour < 24.0 else None


def _value(text: str) -> Known | None:
    try:
        value = json.loads(text)
    except ValueError:
        return None
    return value if isinstance(value, str) or (isinstance(value, int | float) and np.isfinite(value)) else None


def as_json(series: Series, run: Run) -> str:
    """A run as one JSON document with everything that is known of it."""
    data = {
        "format": FORMAT, "version": VERSION, "label": run.label, "source": run.source, "start_h": series.start_h,
        "conditions": dict(run.conditions),
        "doubts": {key: doubt.model_dump() for key, doubt in run.doubts.items()},
        "protocol": run.protocol, "notes": list(run.notes),
        "time_s": series.time.tolist(),
        "values": {key: [None if value != value else value for value in column.tolist()]
                   for key, column in series.values.items()},
    }  # fmt: skip
    return json.dumps(data, ensure_ascii=False) + "\n"


def is_run_json(text: str) -> bool:
    """Whether a text says that it is an own run."""
    head = text[:400]
    return head.lstrip().startswith("{") and f'"{FORMAT}"' in head


def read_run_json(text: str, name: str, catalogue: Catalogue) -> OwnRun:
    """A run from its JSON; raises ShopError that names the field."""
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as wrong:
        raise ShopError(f"{name} is no sound JSON: {wrong}. Export the run again.") from None
    if str(data.get("version", "")).partition(".")[0] != VERSION.partition(".")[0]:
        raise ShopError(f"{name} was written by a newer Zeotherm. Use that one.")
    time = _column(data.get("time_s"), name, "time_s")
    if not len(time) or not np.isfinite(time).all() or (np.diff(time) < 0).any():
        raise ShopError(f"{name}, time_s: times are missing or go back. Export the run again.")
    values = {}
    for key, column in _mapping(data.get("values"), name, "values").items():
        if key not in catalogue.channels:
            raise ShopError(f"{name}, values.{key}: no channel is called so. Name it as one of the catalogue's.")
        values[key] = _column(column, name, f"values.{key}")
        if len(values[key]) != len(time):
            raise ShopError(f"{name}, values.{key}: {len(values[key])} values for {len(time)} times.")
    start = data.get("start_h")
    conditions = {
        str(key): value for key, value in _mapping(data.get("conditions", {}), name, "conditions").items()
        if isinstance(value, str | int | float) and not isinstance(value, bool)
    }  # fmt: skip
    hour = float(start) if isinstance(start, int | float) and 0 <= start < 24 else None
    try:
        doubts = {key: RunDoubt(**one) for key, one in _mapping(data.get("doubts", {}), name, "doubts").items()}
    except (TypeError, ValueError):
        raise ShopError(f"{name}, doubts: each needs offset, relative and repeat. Export the run again.") from None
    notes = tuple(str(one) for one in data.get("notes") or ())
    return OwnRun(Series(time, values, hour), str(data.get("label", "")), conditions, doubts, notes)


def _mapping(value: Any, name: str, where: str) -> Mapping[str, Any]:
    if not isinstance(value, dict):
        raise ShopError(f"{name}, {where}: is missing or no map. Export the run again.")
    return value


def _column(value: Any, name: str, where: str) -> npt.NDArray[np.float64]:
    if not isinstance(value, list):
        raise ShopError(f"{name}, {where}: is missing or no list. Export the run again.")
    try:
        found = np.array([np.nan if one is None else one for one in value], dtype=np.float64)
    except (TypeError, ValueError, OverflowError):
        raise ShopError(f"{name}, {where}: holds something that is no number. Export the run again.") from None
    if np.isinf(found).any():
        raise ShopError(f"{name}, {where}: holds an infinite value. Export the run again.")
    return found


def packed(series: Series) -> bytes:
    """All rows of a run for keeping: NumPy's own open archive, deflated."""
    out = io.BytesIO()
    start = np.array([np.nan if series.start_h is None else series.start_h])
    columns: dict[str, Any] = {f"value_{key}": column for key, column in series.values.items()}
    np.savez(out, time=series.time, start=start, **columns)
    return zlib.compress(out.getvalue(), 1)


def unpacked(data: bytes, name: str) -> Series:
    """What `packed` kept; raises ShopError where it is damaged."""
    try:
        opened = zlib.decompressobj()
        raw = opened.decompress(data, LARGEST_UNPACKED)
        with np.load(io.BytesIO(raw), allow_pickle=False) as kept:
            start = float(kept["start"][0])
            values = {key.removeprefix("value_"): kept[key] for key in kept.files if key.startswith("value_")}
            return Series(kept["time"], values, None if start != start else start)
    except (zlib.error, ValueError, KeyError, OSError, EOFError) as wrong:
        raise ShopError(f"The rows of {name} are damaged in this workshop: {wrong}. Import the file again.") from None
