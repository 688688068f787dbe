"""The slots of a hotend and what may go into each: whole changes of the machine, with what they cost."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any

from zeotherm.core.catalogue.fitting import fed_volts
from zeotherm.core.catalogue.own import NOT_PARTS
from zeotherm.core.catalogue.shelves import BuildSlot, Catalogue
from zeotherm.core.choices.board import offered
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.patches import Patch, merged, patch_at, sets, value_at

CARTRIDGES, HOTENDS, BREAKS, FANS = "cartridges", "hotends", "breaks", "fans"
LIKE_RATED = (0.85, 1.15)  # of its volts that count as the same supply
SAME_W = 0.5
Prices = Mapping[tuple[str, str], float]  # of the shop's drawer, by shelf and key
NO_PRICES: Prices = MappingProxyType({})


@dataclass(frozen=True, slots=True)
class Candidate:
    """A part that may go into a slot."""

    slot: str
    key: str
    label: str
    change: Patch  # over the machine as found
    cost: float | None  # none: not known
    grams: float | None  # on the carriage; none: not known
    minutes: float
    fitted: bool  # in the machine as found


def fitted_in(slot: BuildSlot, setup: Setup, catalogue: Catalogue) -> str:
    """What is in a slot, by its key on the shelf; empty: nothing of the shelf is like it."""
    if slot.shelf != CARTRIDGES:
        return str(value_at(setup, slot.at))
    hotend = setup.hotend
    return next(
        (key for key, one in catalogue.cartridges.items()
         if abs(one.power_w.value - hotend.heater_power_w) < SAME_W and one.rated_v == hotend.heater_rated_v), "",
    )  # fmt: skip


def in_slot(slot: BuildSlot, setup: Setup, catalogue: Catalogue, change: Patch | None = None) -> str:
    """What is in a slot, as it is called; change: what a build puts in, which may be no part but some work."""
    for key in slot.remedies:
        if change is not None and not sets(change, slot.at) and part_of(catalogue.remedies[key].change, change):
            return catalogue.remedies[key].label
    key = fitted_in(slot, setup, catalogue)
    if key:
        source = catalogue.air_sources[setup.surroundings.air_from]
        label = str(catalogue.shelf(slot.shelf)[key].label)
        return source.label if slot.shelf == FANS and source.loop_w_k.value > 0.0 else label
    return f"{setup.hotend.heater_rated_v:g} V, {setup.hotend.heater_power_w:g} W"


def candidates(name: str, found: Setup, built: Setup, catalogue: Catalogue, prices: Prices) -> tuple[Candidate, ...]:
    """What may go into a slot, what is fitted first, then by price and name.

    found: the machine as found, which a change is over; built: with what is in the other slots now; prices: what the
    shop pays, else the shelf's rough ones count.
    """
    slot = catalogue.slots[name]
    now = fitted_in(slot, found, catalogue)
    made = []
    if not now or now in NOT_PARTS:
        made.append(Candidate(name, now, in_slot(slot, found, catalogue), {}, 0.0, 0.0, 0.0, True))
    for key, entry in catalogue.shelf(slot.shelf).items():
        if key in NOT_PARTS and key != "none":
            continue
        if slot.shelf == HOTENDS and entry.strand_d != catalogue.hotends[found.hotend.template].strand_d:
            continue  # its extruder takes filament of one width
        if slot.shelf == BREAKS and entry.bore != catalogue.hotends[built.hotend.template].bore:
            continue
        if key == now:
            if key not in NOT_PARTS:
                made.append(Candidate(name, key, entry.label, {}, 0.0, entry.grams, 0.0, True))
            continue
        price = prices.get((slot.shelf, key), entry.price)
        change = _change(slot, key, entry, found, catalogue)
        made.append(Candidate(name, key, entry.label, change, price, entry.grams, slot.minutes, False))
    for key, one in offered(found, catalogue).items():
        if key in slot.remedies:
            made.append(Candidate(name, key, one.label, one.change, one.cost, None, one.minutes, False))
    return tuple(sorted(made, key=lambda one: (not one.fitted, one.cost is None, one.cost or 0.0, one.label)))


def _change(slot: BuildSlot, key: str, entry: Any, found: Setup, catalogue: Catalogue) -> Patch:
    """What fitting a part changes; a fan on another voltage than the one before gets what the supply gives."""
    change = dict(slot.brings)
    if slot.shelf == CARTRIDGES:
        return {"hotend": {"heater_power_w": entry.power_w.value, "heater_rated_v": entry.rated_v}}
    change = merged(change, patch_at(slot.at, key))
    if slot.shelf == FANS:
        before = catalogue.fans[found.fan.part].rated_v
        if not LIKE_RATED[0] <= entry.rated_v / before <= LIKE_RATED[1]:
            change = merged(change, patch_at("fan.voltage_v", fed_volts(found, catalogue)))
    if slot.shelf == HOTENDS and entry.bore != catalogue.hotends[found.hotend.template].bore:
        change = merged(change, patch_at("hotend.break_part", entry.default_break))
    return change


def chosen_in(slot: BuildSlot, change: Patch, catalogue: Catalogue) -> bool:
    """Whether a build puts a part into a slot."""
    return sets(change, slot.at) or any(part_of(catalogue.remedies[key].change, change) for key in slot.remedies)


def part_of(one: Patch, whole: Patch) -> bool:
    """Whether a change is part of a whole one; one that changes nothing is part of none."""
    for key, value in one.items():
        other = whole.get(key)
        if isinstance(value, dict):
            if not isinstance(other, dict) or not part_of(value, other):
                return False
        elif other != value:
            return False
    return bool(one)


def emptied(change: Patch, slot: BuildSlot, catalogue: Catalogue) -> Patch:
    """A build without what it puts into a slot: there the part as found stays."""
    paths = [slot.at, *_paths(slot.brings)]
    if slot.shelf == CARTRIDGES:
        paths.append("hotend.heater_rated_v")
    if slot.shelf == FANS:
        paths += ["fan.voltage_v", "surroundings.air_from"]
    if slot.shelf == HOTENDS:  # what was put into it goes with it
        paths += [one.at for one in catalogue.slots.values() if one.shelf in (BREAKS, "blocks", "nozzles")]
    return _without(change, set(paths))


def filled(change: Patch, one: Candidate, found: Setup, catalogue: Catalogue) -> Patch:
    """A build with a part in its slot, in place of what it puts there; a heat break that the new hotend does not take
    gives way to the one it comes with."""
    whole = merged(emptied(change, catalogue.slots[one.slot], catalogue), one.change)
    built = patched(found, whole)
    shape = catalogue.hotends[built.hotend.template]
    if catalogue.breaks[built.hotend.break_part].bore != shape.bore:
        whole = merged(whole, patch_at("hotend.break_part", shape.default_break))
    return whole


def _paths(change: Patch, head: str = "") -> list[str]:
    found = []
    for key, value in change.items():
        found += _paths(value, f"{head}{key}.") if isinstance(value, dict) else [f"{head}{key}"]
    return found


def _without(change: Patch, paths: set[str], head: str = "") -> Patch:
    kept: Patch = {}
    for key, value in change.items():
        if isinstance(value, dict):
            inner = _without(value, paths, f"{head}{key}.")
            if inner:
                kept[key] = inner
        elif f"{head}{key}" not in paths:
            kept[key] = value
    return kept
