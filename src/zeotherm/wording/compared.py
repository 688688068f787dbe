"""What is compared, as the rows of a table."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Any

from zeotherm.core.catalogue.knowledge import RemedyComparison
from zeotherm.core.choices.build.judged import HEAT_UP, MOST_FLOW, Row
from zeotherm.core.choices.compared import RemedyTried
from zeotherm.core.judgement.bands import Band
from zeotherm.core.parts.power.judge.voltage import Mismatch, matrix
from zeotherm.wording import voltage
from zeotherm.wording.build import NOT_KNOWN, times
from zeotherm.wording.language import _
from zeotherm.wording.numbers import plain, with_unit

HEADS = {
    "sink_base": _("Heatsink base, °C"), "creeps": _("Creeps from, °C at the print"), "heater": _("Held by, W"),
    HEAT_UP: _("Hot in, s"), MOST_FLOW: _("Melts, mm³/s"), "grams": _("Grams"),
}  # fmt: skip
TRIED, AIR = _("Tried"), _("Air, °C")
VOLTS = (12.0, 24.0, 36.0, 48.0)
COLDEST_ROOM_C = 10.0  # that anybody prints in
DIGITS = {MOST_FLOW: 1, "heater": 1}


def heads(about: RemedyComparison) -> list[str]:
    """Of the columns."""
    return [TRIED, *([AIR] if len(about.airs_c) > 1 else []), *(HEADS[key] for key in about.tells)]


def rows(about: RemedyComparison, found: Sequence[RemedyTried]) -> list[list[str]]:
    """Each with its 95 % bands."""
    return [[one.label, *([plain(one.air, 0)] if len(about.airs_c) > 1 else []), *_cells(about, one)] for one in found]


def _cells(about: RemedyComparison, one: RemedyTried) -> list[str]:
    if not one.built.answers:
        return [_("does not fit") if _refused(one) else _("no answer"), *("" for _key in about.tells[1:])]
    return [TELLS.get(key, _limit)(one, key) for key in about.tells]


def _refused(one: RemedyTried) -> str:
    return next((row.refusal for row in one.built.rows if row.refusal), "")


def refusals(found: Sequence[RemedyTried]) -> list[str]:
    """Why some of it does not go into this machine, each once."""
    return [why for why in dict.fromkeys(_refused(one) for one in found) if why]


def _limit(one: RemedyTried, key: str) -> str:
    row = one.built.row(key)
    if row is None or row.margin is None or row.margin.value is None:
        return _("never") if key == HEAT_UP else NOT_KNOWN
    return _banded(row.margin.value, _band_of(one, row), DIGITS.get(key, 0))


def _band_of(one: RemedyTried, row: Row) -> Band | None:
    """Of the value itself; a margin's is of its room, which doubts the limit as well."""
    answer = one.built.answers.get(row.plastic)
    assert row.margin is not None
    band = answer.bands.values.get(row.margin.station) if answer is not None and answer.bands is not None else None
    return band or row.margin.band


def _creeps(one: RemedyTried, _key: str) -> str:
    cold = one.cold
    if cold is None:
        return NOT_KNOWN
    if cold.stops_at is None:
        return _("in no air tried")
    if cold.stops_at < COLDEST_ROOM_C:
        return _("in any room")
    return _banded(cold.stops_at, Band(cold.band, cold.band), 0)


def _grams(one: RemedyTried, _key: str) -> str:
    return NOT_KNOWN if one.built.grams is None else plain(one.built.grams, 0)


TELLS: dict[str, Callable[[RemedyTried, str], str]] = {"creeps": _creeps, "grams": _grams}


def _banded(value: float, band: Band | None, digits: int) -> str:
    if not math.isfinite(value):
        return _("never")
    if band is None:
        return plain(value, digits)
    return _("{value} ±{band}").format(value=plain(value, digits), band=plain(max(band.down, band.up), digits))


def as_data(found: Sequence[RemedyTried]) -> list[dict[str, Any]]:
    """The same as plain numbers."""
    told = []
    for one in found:
        margins = {row.key: row.margin for row in one.built.rows if row.margin is not None}
        told.append({
            "label": one.label, "air_c": one.air, "grams": one.built.grams,
            "creeps_from_c": one.cold.stops_at if one.cold is not None else None,
            "refused": _refused(one) or None,
            **{key: margins[key].value for key in HEADS if key in margins},
        })  # fmt: skip
    return told


def table(head: Sequence[str], lines: Sequence[Sequence[str]]) -> str:
    """A table in Markdown."""
    every = [head, ["---"] * len(head), *lines]
    return "".join(f"| {' | '.join(line)} |\n" for line in every)


def volts_table() -> str:
    """Every cartridge on every supply: times its rated watts, and what would happen."""
    found = matrix(VOLTS)
    head = [_("Cartridge"), *(_("on {volts}").format(volts=with_unit(gets, "V", 0)) for gets in VOLTS)]
    lines = [
        [
            with_unit(rated, "V", 0),
            *(_volts(Mismatch("heater", rated, gets, 0.0, found[rated, gets])) for gets in VOLTS),
        ]
        for rated in VOLTS
    ]
    return table(head, lines)


def _volts(one: Mismatch) -> str:
    if one.rated_v == one.gets_v:
        return _("right")
    return f"{times(one.times)}: {voltage.brief(one)}"
