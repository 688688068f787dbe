"""A margin in words."""

from __future__ import annotations

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.judgement.margins import Margin, State
from zeotherm.wording import numbers
from zeotherm.wording.language import _

STATE_WORDS = {
    State.OVER: _("over"), State.SHORT: _("short"), State.CLOSE: _("close"), State.UNKNOWN: _("not known"),
    State.CLEAR: _("clear"),
}  # fmt: skip
NAMED = {"exit_core": _("Exit core"), "strand": _("Filament path"), "heater": _("Heater"),
    "bed_centre_high": _("Middle, at most"), "case_motor_mount": _("Motor mounts"),
}  # fmt: skip


def label(margin: Margin) -> str:
    """The part a margin speaks of."""
    return NAMED.get(margin.key, STATIONS[margin.station].label)


def name_of(limit: str, catalogue: Catalogue) -> str:
    """The part that a limit speaks of."""
    return NAMED.get(limit, STATIONS[catalogue.limits[limit].station].label)


def value(margin: Margin) -> str:
    """Its value with unit."""
    unit = STATIONS[margin.station].unit
    return numbers.with_unit(margin.value, unit, places(margin, unit))


def places(margin: Margin, unit: str) -> int:
    """Decimals: two for a seat of hundredths, one for a bed's minutes, else those of the unit; one more where the room
    would round to zero: what is just past a limit is not "0.0 over"."""
    usual = 1 if margin.key == "bed_ready" else 2 if margin.key == "seat" else numbers.DECIMALS.get(unit, 1)
    return usual + 1 if margin.room is not None and round(abs(margin.room), usual) == 0.0 else usual


def room(margin: Margin) -> str:
    """Room in words: '9.3 K over', '1.8 K room', '0.4 mm too high'."""
    if margin.room is None:
        return _("not known")
    unit = numbers.difference_unit(STATIONS[margin.station].unit)
    amount = numbers.with_unit(abs(margin.room), unit, places(margin, unit))
    if margin.room >= 0:
        return _("{amount} room").format(amount=amount)
    return (
        _("{amount} over").format(amount=amount)
        if margin.state is State.OVER
        else _("{amount} short").format(amount=amount)
    )


def band(margin: Margin) -> str:
    """The 95 % band of the room, or nothing."""
    if margin.band is None:
        return ""
    return numbers.band(margin.band, numbers.difference_unit(STATIONS[margin.station].unit))


def limit(margin: Margin) -> str:
    """The limit with its unit."""
    unit = STATIONS[margin.station].unit
    return numbers.with_unit(margin.limit, unit, 0 if unit == "°C" else None)


def sure(margin: Margin) -> str:
    """How sure it is that the limit holds, in words."""
    if margin.holds is None:
        return _("not known")
    if margin.holds >= 0.95:
        return _("holds")
    if margin.state is State.CLEAR:
        return _("most likely holds")
    return _("does not hold") if margin.holds <= 0.05 else _("too close to call")


def spoken(margin: Margin) -> str:
    """The row as assistive technology reads it: 'Sink base, 54.1 °C, limit 57 °C, 2.9 K room, close'."""
    return ", ".join(
        (label(margin), value(margin), f"{_('limit')} {limit(margin)}", room(margin), STATE_WORDS[margin.state])
    )
