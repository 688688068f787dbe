"""The slots of a hotend and what may go into each: whole changes of the machine, with what they cost."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any

from zeotherm.core.catalogue.fitting import fed_volts
from zeotherm.core.catalogue.lookup import take
from zeotherm.core.catalogue.own import NOT_PARTS
from zeotherm.core.catalogue.shelves import BuildSlot, Catalogue
from zeotherm.core.choices.board import offered
from zeotherm.core.choices.build.wanted import BuildWish
from zeotherm.core.judgement.standing import counts_for
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.patches import Patch, is_part, merged, patch_at, patched_paths, sets, value_at, without

CARTRIDGES, HOTENDS, BREAKS, FANS = "cartridges", "hotends", "breaks", "fans"
LIKE_RATED = (0.85, 1.15)  # of its volts that count as the same supply
SAME_W = 0.5
WANTED = frozenset({"printing.filament", "printing.nozzle_c", "printing.flow_mm3_s", "printing.part_fan_pct"})
MAKES_AIR = frozenset({"surroundings.fan_air_c", "room.mean_c", "case.vents_open_pct", "bed.target_c"})
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
    minutes: float
    fitted: bool  # in the machine as found


def check_build(setup: Setup, catalogue: Catalogue) -> None:
    """Whether what is in every slot is on its shelf. Raises DoesNotFitError."""
    for slot in catalogue.slots.values():
        if slot.shelf != CARTRIDGES:
            take(catalogue, slot.shelf, str(value_at(setup, slot.at)), slot.at)


def fitted_in(slot: BuildSlot, setup: Setup, catalogue: Catalogue) -> str:
    """What is in a slot, by its key on the shelf; empty: nothing of the shelf is like it."""
    if slot.shelf != CARTRIDGES:
        return str(value_at(setup, slot.at))
    hotend = setup.hotend
    return next(
        (key for key, one in catalogue.cartridges.items()
         if abs(one.power_w.value - hotend.heater_power_w) < SAME_W and one.rated_v == hotend.heater_rated_v), "",
    )  # fmt: skip


def in_slot(slot: BuildSlot, setup: Setup, catalogue: Catalogue) -> str:
    """What is in a slot, as it is called."""
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
        made.append(Candidate(name, now, in_slot(slot, found, catalogue), {}, 0.0, 0.0, True))
    for key, entry in catalogue.shelf(slot.shelf).items():
        if key in NOT_PARTS and key != "none":
            continue
        if slot.shelf == HOTENDS and entry.strand_d != catalogue.hotends[found.hotend.template].strand_d:
            continue  # its extruder takes filament of one width
        if slot.shelf == BREAKS and entry.bore != catalogue.hotends[built.hotend.template].bore:
            continue
        if key == now:
            if key not in NOT_PARTS:
                made.append(Candidate(name, key, entry.label, {}, 0.0, 0.0, True))
            continue
        price = prices.get((slot.shelf, key), entry.price)
        change = _change(slot, key, entry, found, catalogue)
        made.append(Candidate(name, key, entry.label, change, price, slot.minutes, False))
    for key, one in offered(found, catalogue).items():
        if key in slot.remedies:
            made.append(Candidate(name, key, one.label, one.change, one.cost, one.minutes, False))
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


def is_known(slot: BuildSlot, change: Patch, known: Collection[str], catalogue: Catalogue) -> bool:
    """Whether anybody entered what is in a slot, or a build puts it there."""
    return set(known).issuperset((slot.at, *slot.known_by)) or chosen_in(slot, change, catalogue)


def not_entered(
    setup: Setup, change: Patch, wanted: BuildWish, known: Collection[str], catalogue: Catalogue
) -> tuple[str, ...]:
    """What a build stands on that nobody entered, by its labels: parts in its slots first, then figures that count."""
    slots = catalogue.slots.values()
    entered = {*known, *WANTED, *(MAKES_AIR if wanted.air_entered else ())}
    entered.update(path for slot in slots for path in (slot.at, *slot.known_by))
    facts = (fact for fact in catalogue.facts.values() if counts_for(fact, "hotend", setup, catalogue))
    return (
        *(slot.label for slot in slots if not is_known(slot, change, known, catalogue)),
        *(fact.label for fact in facts if not all(path in entered or sets(change, path) for path in fact.paths)),
    )


def chosen_in(slot: BuildSlot, change: Patch, catalogue: Catalogue) -> bool:
    """Whether a build puts a part into a slot."""
    return sets(change, slot.at) or any(is_part(catalogue.remedies[key].change, change) for key in slot.remedies)


def emptied(change: Patch, slot: BuildSlot, catalogue: Catalogue) -> Patch:
    """A build without what it puts into a slot: there the part as found stays."""
    paths = [slot.at, *patched_paths(slot.brings)]
    if slot.shelf == CARTRIDGES:
        paths.append("hotend.heater_rated_v")
    if slot.shelf == FANS:
        paths += ["fan.voltage_v", "surroundings.air_from"]
    if slot.shelf == HOTENDS:  # what was put into it goes with it
        paths += [one.at for one in catalogue.slots.values() if one.shelf in (BREAKS, "blocks", "nozzles")]
    return without(change, paths)


def filled(change: Patch, one: Candidate, found: Setup, catalogue: Catalogue) -> Patch:
    """A build with a part in its slot, in place of what it puts there; a heat break that the new hotend does not take
    gives way to the one it comes with."""
    whole = merged(emptied(change, catalogue.slots[one.slot], catalogue), one.change)
    built = patched(found, whole)
    shape = catalogue.hotends[built.hotend.template]
    if catalogue.breaks[built.hotend.break_part].bore != shape.bore:
        whole = merged(whole, patch_at("hotend.break_part", shape.default_break))
    return whole
