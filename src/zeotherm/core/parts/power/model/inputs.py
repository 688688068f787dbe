"""All numbers that a power path depends on, in SI, with the 95 % half-width of each."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Any

from zeotherm.core.catalogue.lookup import DoesNotFitError, take
from zeotherm.core.catalogue.power import Motion, PowerPath, SupplyKind
from zeotherm.core.catalogue.seats import in_one_block
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.numbers import doubt_of
from zeotherm.core.machine.patches import value_at
from zeotherm.core.machine.power import Contact, Wire
from zeotherm.core.machine.supplies import FIRST, LOADS, MAINS, SUPPLIES
from zeotherm.core.parts.power.model.supply import at_wall
from zeotherm.core.physics.electric import heater_power, heater_resistance
from zeotherm.core.physics.wiring import contact_per_kelvin

CONTACTS = ("supply_terminal", "feed_terminal", "plug", "tabs", "heater_terminal", "heater_plug")  # along the current
WIRES = ("feed", "lead", "heater_lead")
WIRE_AT = {  # the wire that ends at a contact
    "supply_terminal": "feed", "feed_terminal": "feed", "plug": "lead", "tabs": "lead",
    "heater_terminal": "heater_lead", "heater_plug": "heater_lead",
}  # fmt: skip
MILLI = 1e-3
HOTEND_WORK = 0.4  # share of the time that its heater is on late in a print: estimate, 0.2 to 0.6
BOARD_OWN_W = 8.0  # of a controller board: estimate, 4 to 15
SURFACE_EMISSIVITY = 0.9  # of insulation
LEAST_SHARE = 0.05  # of its value that a doubted number keeps


@dataclass(frozen=True, slots=True)
class ContactIn:
    """One contact, of its worse pole. Ohms at 20 °C, all else SI."""

    ohms: float
    good: float  # of the other pole
    per_k: float
    to_air: float  # W/K
    to_body: float
    heat: float
    rated: float
    service: float
    wrong: bool
    measured: bool


@dataclass(frozen=True, slots=True)
class WireIn:
    """A pair of wires. SI."""

    area: float
    length: float
    resistivity: float
    per_k: float
    metal_k: float
    metal_heat: float  # J/m³K
    wall: float
    insulation_k: float
    wires: float  # in its bundle
    service: float


@dataclass(frozen=True, slots=True)
class SwitchIn:
    """A switch. SI, its ohms at 25 °C."""

    ohms: float
    per_k: float
    drop: float
    own: float
    cooled: float
    heat: float
    rated: float
    service: float


@dataclass(frozen=True, slots=True)
class SupplyIn:
    """A further supply, or a converter on another one's output. SI."""

    number: str
    kind: SupplyKind
    fed_by: str  # the mains, or a supply by its number
    volts: float
    rating: float  # W
    years: float
    steady: float  # W of what hangs on it beside a bed, motors in motion; not what converters on it take
    motors: float  # W of them that the motors in motion draw


@dataclass(frozen=True, slots=True)
class PathInputs:
    """A resolved power path. Temperatures in °C, all else SI."""

    kind: PowerPath
    supply: SupplyKind
    supply_terminal: ContactIn
    feed: WireIn
    feed_terminal: ContactIn
    switch: SwitchIn
    plug: ContactIn
    lead: WireIn
    tabs: ContactIn
    heater_terminal: ContactIn
    heater_lead: WireIn
    heater_plug: ContactIn
    volts: float  # at the supply's terminals, or of the mains
    bed_ohms: float  # cold; infinite without a bed
    bed_per_k: float
    bed_rated_v: float
    heater_volts: float  # at the supply's terminals, that feed the hotend
    heater_ohms: float  # of its heater
    heater_rated_v: float
    heater_work: float  # share of the time that it is on late in a print
    bed_on: str  # the supply that feeds the bed, by its number
    others: float  # W beside bed and hotend on the board, motors in motion
    motors: float  # W of them that the motors in motion draw
    further: float  # W of further hotends while they are on
    film: float
    rating: float  # W
    years: float
    mains: float
    outlet: float  # A
    strip: float  # W
    fuse: float  # A; zero: none
    output: float  # A of a fan output
    output_load: float  # A
    board_fuse: float  # A; zero: none, or not known
    board: float  # A into the board at most; zero: not known
    heater_output: float  # A of the hotend's output; zero: not known
    efficiency: float  # of the supply, over its kind's
    pressure: float
    supplies: tuple[SupplyIn, ...] = ()  # further ones

    @property
    def heated(self) -> bool:
        """Whether there is a bed with a heater."""
        return math.isfinite(self.bed_ohms)

    @property
    def shares_feed(self) -> bool:
        """Whether the feed wire carries the board's loads besides the bed's."""
        return _shared(self.kind, self.bed_on)

    def on_supplies(self, motion: float, bed_watts: float) -> dict[str, float]:
        """What every supply gives by its number [W], without what the board takes of the first one; motion: as in
        `drawn`; bed_watts: of the bed, at the terminals of what feeds it."""
        fed = {one.number: one.steady - (1.0 - motion) * one.motors for one in self.supplies} | {FIRST: 0.0}
        if not self.kind.mains:
            fed[self.bed_on] += bed_watts
        left = {one.number: one for one in self.supplies if one.fed_by != MAINS}
        while left:  # those first on which no converter is left
            at = next(number for number in left if all(one.fed_by != number for one in left.values()))
            one = left.pop(at)
            fed[one.fed_by] += at_wall(one.kind, fed[at], one.rating, self.efficiency)
        return fed

    def drawn(self, motion: float, heater: float) -> float:
        """Watts on the board beside bed and the hotend in front; motion: of the motors, over that of a print; heater:
        share of the time that the hotend in front is on, which further ones are taken to be, too: those that stand by
        are on for less [-]."""
        return self.others - (1.0 - motion) * min(self.motors, self.others) + heater * self.further

    @property
    def board_amps(self) -> float:
        """Into the board beside bed and the hotend in front, with all further ones on [A]."""
        return (self.others + self.further) / max(self.heater_volts, 1.0)

    @property
    def hotend(self) -> float:
        """Watts of the hotend while it is on, nothing lost on its way."""
        return self.heater_volts**2 / self.heater_ohms

    @property
    def beside(self) -> float:
        """Watts on the board beside the bed, late in a print."""
        return self.others + self.heater_work * (self.hotend + self.further)


@dataclass(frozen=True, slots=True)
class ResolvedPath:
    """Inputs, and the doubt of each by its dotted name (95 %)."""

    inputs: PathInputs
    doubts: dict[str, float]


def shares_feed(setup: Setup, catalogue: Catalogue) -> bool:
    """The same of a setup. Raises DoesNotFitError."""
    return _shared(take(catalogue, "power_paths", setup.power.path, "power.path"), setup.power.bed_from)


def _shared(path: PowerPath, bed_on: str) -> bool:
    return path.shared_feed and bed_on == FIRST


def resolve_path(setup: Setup, catalogue: Catalogue, tolerances: dict[str, float] | None = None) -> ResolvedPath:
    """Look up the parts of a power path, convert to SI, gather the doubts.

    tolerances: better known 95 % half-widths by path, in the path's unit. Raises DoesNotFitError: an unknown part, a
    switch that may not switch the mains, a fuse larger than its rating allows is judged, not refused.
    """
    known, power = tolerances or {}, setup.power
    path: PowerPath = take(catalogue, "power_paths", power.path, "power.path")
    supply: SupplyKind = take(catalogue, "supplies", power.supply, "power.supply")
    shape = take(catalogue, "beds", setup.bed.part, "bed.part")
    heated = shape.heater.power_w > 0.0 and setup.bed.heater_w > 0.0
    if heated and path.described and path.mains != (shape.supply == "mains"):
        which = "a mains bed" if shape.supply == "mains" else "a low-voltage bed"
        raise DoesNotFitError("power.path", f"{which} is fitted, and {path.label.lower()} does not feed one.")
    doubts: dict[str, float] = {}
    contacts = {name: _contact(setup, catalogue, name, known, doubts) for name in CONTACTS}
    wires = {name: _wire(setup, catalogue, name, known, doubts) for name in WIRES}
    fed_at = "power.mains_v" if path.mains else volts_path(power.bed_from)
    volts = float(value_at(setup, fed_at))
    doubts["volts"] = doubt_of(setup, fed_at, known)
    ohms = heater_resistance(setup.bed.heater_w, shape.heater.rated_v) if heated else math.inf
    if heated:
        doubts["bed_ohms"] = ohms * doubt_of(setup, "bed.heater_w", known) / setup.bed.heater_w
    kind = take(catalogue, "bed_heaters", shape.heater.kind, "bed.part")
    others = BOARD_OWN_W + sum(_loads_of(setup, FIRST).values())
    hotend = heater_resistance(setup.hotend.heater_power_w, setup.hotend.heater_rated_v)
    doubts["heater_ohms"] = hotend * doubt_of(setup, "hotend.heater_power_w", known) / setup.hotend.heater_power_w
    doubts["heater_volts"] = doubt_of(setup, "power.out_v", known)
    spread = math.hypot(*(doubt_of(setup, f"power.{name}_w", known) for name in _loads_of(setup, FIRST)), 0.0)
    doubts |= {"others": spread, "heater_work": 0.2, "film": 0.2,
               "strip": doubt_of(setup, "power.strip_w", known), "mains": doubt_of(setup, "power.mains_v", known),
               "years": doubt_of(setup, "power.years", known),
               "efficiency": supply.efficiency_tolerance / supply.efficiency[-1][1]}  # fmt: skip
    fans_v = float(value_at(setup, volts_path(power.fans_from)))
    inputs = PathInputs(
        kind=path, supply=supply, supply_terminal=contacts["supply_terminal"], feed=wires["feed"],
        feed_terminal=contacts["feed_terminal"], plug=contacts["plug"], lead=wires["lead"], tabs=contacts["tabs"],
        heater_terminal=contacts["heater_terminal"], heater_lead=wires["heater_lead"],
        heater_plug=contacts["heater_plug"],
        switch=_switch(setup, catalogue, path, doubts), volts=volts,
        bed_ohms=ohms, bed_per_k=kind.ohms_per_k.value, bed_rated_v=shape.heater.rated_v,
        heater_volts=power.out_v, heater_ohms=hotend, heater_rated_v=setup.hotend.heater_rated_v,
        heater_work=HOTEND_WORK, bed_on=power.bed_from, others=others,
        motors=_loads_of(setup, FIRST).get("motors", 0.0),
        further=further_w(setup, catalogue, power.out_v), film=1.0,
        rating=power.supply_w, years=power.years, mains=power.mains_v, outlet=power.outlet_a,
        strip=power.strip_w + heaters_w(setup),
        fuse=power.fuse_a, output=power.output_a, output_load=power.output_fans_w / max(fans_v, 1.0),
        board_fuse=power.board_fuse_a, board=power.board_a, heater_output=power.heater_output_a, efficiency=1.0,
        pressure=setup.surroundings.pressure_kpa * 1e3, supplies=_supplies(setup, catalogue, known, doubts),
    )  # fmt: skip
    return ResolvedPath(inputs, {name: width for name, width in doubts.items() if width > 0.0})


def volts_path(number: str) -> str:
    """The path of what a supply gives [V].

    >>> volts_path("S1"), volts_path("S2")
    ('power.out_v', 'supplies.S2.out_v')
    """
    return "power.out_v" if number == FIRST else f"{SUPPLIES}.{number}.out_v"


def bed_fed_at(setup: Setup) -> float:
    """What the supply gives that feeds a low-voltage bed [V]."""
    return float(value_at(setup, volts_path(setup.power.bed_from)))


def _loads_of(setup: Setup, number: str) -> dict[str, float]:
    """What hangs on a supply beside bed and hotends, by its name in `power` [W]."""
    steady = (load for load in LOADS if load != "bed" and getattr(setup.power, f"{load}_from") == number)
    return {load: float(getattr(setup.power, f"{load}_w")) for load in steady}


def _supplies(
    setup: Setup, catalogue: Catalogue, known: dict[str, float], doubts: dict[str, float]
) -> tuple[SupplyIn, ...]:
    found = []
    for at, (number, one) in enumerate(sorted(setup.supplies.items())):
        loads = _loads_of(setup, number)
        kind = take(catalogue, "supplies", one.supply, f"{SUPPLIES}.{number}.supply")
        found.append(
            SupplyIn(number, kind, one.fed_by, one.out_v, one.supply_w, one.years, sum(loads.values()),
                     loads.get("motors", 0.0))
        )  # fmt: skip
        doubts[f"supplies.{at}.steady"] = math.hypot(
            *(doubt_of(setup, f"power.{name}_w", known) for name in loads), 0.0
        )
        doubts[f"supplies.{at}.years"] = doubt_of(setup, f"{SUPPLIES}.{number}.years", known)
    return tuple(found)


def check_supplies(setup: Setup, catalogue: Catalogue) -> None:
    """Refuse a converter on the mains or to the wrong side, and a mains supply on another one's output."""
    first = take(catalogue, "supplies", setup.power.supply, "power.supply")
    if first.converts:
        raise DoesNotFitError("power.supply", f"{first.label.lower()}: the board's supply runs on mains.")
    for number, one in setup.supplies.items():
        kind = take(catalogue, "supplies", one.supply, f"{SUPPLIES}.{number}.supply")
        take(catalogue, "power_sources", one.fed_by, f"{SUPPLIES}.{number}.fed_by")
        if kind.converts and one.fed_by == MAINS:
            raise DoesNotFitError(
                f"{SUPPLIES}.{number}.fed_by", f"a {kind.label.lower()} runs on another supply, not on mains."
            )
        if kind.converts:
            before = float(value_at(setup, volts_path(one.fed_by)))
            if (one.out_v < before) != (kind.converts == "down"):
                raise DoesNotFitError(
                    f"{SUPPLIES}.{number}.out_v",
                    f"a {kind.label.lower()} cannot make {one.out_v:g} V from {before:g} V.",
                )
        elif one.fed_by != MAINS:
            raise DoesNotFitError(
                f"{SUPPLIES}.{number}.fed_by",
                f"{kind.label.lower()}: it runs on mains. Only a converter can run on {one.fed_by}.",
            )


def _contact(setup: Setup, catalogue: Catalogue, name: str, known: dict[str, float], doubts: dict[str, float]
             ) -> ContactIn:  # fmt: skip
    told: Contact = getattr(setup.power, name)
    kind = take(catalogue, "contacts", told.kind, f"power.{name}.kind")
    state = take(catalogue, "contact_states", told.state, f"power.{name}.state")
    motion = _motion(setup, catalogue, name)
    measured = told.milliohm > 0.0
    milliohm = told.milliohm if measured else kind.milliohm.value * state.times.value
    if measured:
        width = doubt_of(setup, f"power.{name}.milliohm", known)
    else:
        shares = (kind.milliohm.tolerance / kind.milliohm.value, state.times.tolerance / state.times.value)
        width = min(math.hypot(*shares), 0.95) * milliohm
    doubts[f"{name}.ohms"] = MILLI * width
    doubts[f"{name}.to_air"] = kind.air_w_k.tolerance
    doubts[f"{name}.to_body"] = kind.body_w_k.tolerance
    wire: Wire = getattr(setup.power, WIRE_AT[name])
    metal = take(catalogue, "wire_metals", wire.metal, f"power.{WIRE_AT[name]}.metal")
    return ContactIn(
        MILLI * milliohm, MILLI * min(kind.milliohm.value, milliohm), contact_per_kelvin(metal.per_k.value),
        kind.air_w_k.value, kind.body_w_k.value, kind.heat_j_k, kind.rated_a.value * motion.keeps,
        kind.service_c.value, kind.wrong, measured,
    )  # fmt: skip


def _motion(setup: Setup, catalogue: Catalogue, name: str) -> Motion:
    """Of the wire that ends at a contact."""
    wire = WIRE_AT[name]
    motion: Motion = take(catalogue, "motions", getattr(setup.power, wire).motion, f"power.{wire}.motion")
    return motion


def _wire(setup: Setup, catalogue: Catalogue, name: str, known: dict[str, float], doubts: dict[str, float]
          ) -> WireIn:  # fmt: skip
    told: Wire = getattr(setup.power, name)
    metal = take(catalogue, "wire_metals", told.metal, f"power.{name}.metal")
    cover = take(catalogue, "wire_insulations", told.insulation, f"power.{name}.insulation")
    take(catalogue, "motions", told.motion, f"power.{name}.motion")
    doubts[f"{name}.area"] = 1e-6 * doubt_of(setup, f"power.{name}.mm2", known)
    doubts[f"{name}.length"] = doubt_of(setup, f"power.{name}.metres", known)
    doubts[f"{name}.resistivity"] = metal.resistivity_ohm_m.tolerance
    return WireIn(
        1e-6 * told.mm2, told.metres, metal.resistivity_ohm_m.value, metal.per_k.value, metal.conductivity_w_mk.value,
        metal.capacity_j_m3k.value, MILLI * cover.wall_mm.value, cover.conductivity_w_mk.value, told.bundle,
        cover.service_c.value,
    )  # fmt: skip


def _switch(setup: Setup, catalogue: Catalogue, path: PowerPath, doubts: dict[str, float]) -> SwitchIn:
    kind = take(catalogue, "switches", setup.power.switch, "power.switch")
    if path.mains and not kind.mains:
        raise DoesNotFitError("power.switch", f"{kind.label.lower()} may not switch the mains.")
    if not path.mains and kind.drop_v.value > 0.0:
        raise DoesNotFitError("power.switch", f"{kind.label.lower()}: it never lets go of direct current.")
    doubts |= {"switch.ohms": MILLI * kind.milliohm.tolerance, "switch.drop": kind.drop_v.tolerance,
               "switch.cooled": kind.cooled_w_k.tolerance}  # fmt: skip
    return SwitchIn(
        MILLI * kind.milliohm.value, kind.per_k.value, kind.drop_v.value, kind.own_w, kind.cooled_w_k.value,
        kind.heat_j_k, kind.rated_a.value, kind.service_c.value,
    )  # fmt: skip


def further_w(setup: Setup, catalogue: Catalogue, volts: float) -> float:
    """What the heaters of further hotends draw on these volts while they are on [W]; those that are off meanwhile, and
    those in one block with the one in front, draw nothing. Raises DoesNotFitError."""
    heated = [
        one.hotend for number, one in setup.toolheads.items()
        if one.printing.idle_c > 0.0 and not in_one_block(setup, number, catalogue)
    ]  # fmt: skip
    return sum(heater_power(one.heater_power_w, one.heater_rated_v, volts) for one in heated)


def heaters_w(setup: Setup) -> float:
    """What an enclosure's heaters draw from the same outlet while they heat [W]; zero where they have no target."""
    case = setup.case
    return case.heater_w + case.heater2_w if case.target_c > 0.0 else 0.0


def with_path_number(inputs: PathInputs, name: str, by: float) -> PathInputs:
    """The path with one number moved, kept above a twentieth of itself; name: as in `ResolvedPath.doubts`."""
    part, _dot, inner = name.rpartition(".")
    if part.startswith(f"{SUPPLIES}."):
        at, its = int(part.rpartition(".")[2]), inputs.supplies
        return replace(inputs, supplies=(*its[:at], _moved(its[at], inner, by), *its[at + 1 :]))
    if part:
        return replace(inputs, **{part: _moved(getattr(inputs, part), inner, by)})
    moved: PathInputs = _moved(inputs, name, by)
    return moved


def _moved(one: Any, name: str, by: float) -> Any:
    before = float(getattr(one, name))
    return replace(one, **{name: max(before + by, LEAST_SHARE * before)})
