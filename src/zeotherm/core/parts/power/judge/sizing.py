"""Sizes of a power path: supply, staged warm-up, wires, fuse, contact, switch, and what belongs off the board."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from zeotherm.core.guard.wires import (
    COOL_K,
    FULL_LOAD,
    around_of,
    contact_made_for,
    fuse_beside,
    fuse_for,
    least_mm2,
    sizes,
    switch_made_for,
    switch_rated,
    thick_enough,
)
from zeotherm.core.machine.supplies import FIRST
from zeotherm.core.parts.bed.model.equivalent import BedBody, bed_body
from zeotherm.core.parts.bed.model.inputs import resolve_bed
from zeotherm.core.parts.power.judge.answer import (
    AIR_DOUBTS,
    PowerAnswer,
    asked_of,
    bed_watts_wanted,
    behind_fuse,
    carries,
    warmest,
)
from zeotherm.core.parts.power.model.inputs import WIRES, ContactIn, PathInputs, SwitchIn, with_path_number
from zeotherm.core.parts.power.model.model import PathModel, SolvedPath, solve_path
from zeotherm.core.parts.power.model.supply import HEADROOM, aged, derated, next_rating
from zeotherm.core.physics.wiring import carried_current

DROP_SHARE = 0.03  # of the volts that a wire may take, there and back
RULE_A_MM2 = 6.0  # amps a square millimetre: the bench's rule for short wires in the open
HOTEND_OUTPUT_A = 5.0  # of a board's heater output where it is not told: data sheet range, 4 to 6
HOTEND_WARM_MIN = 3.0  # that a hotend takes once the bed is warm: estimate, 1.5 to 4


@dataclass(frozen=True, slots=True)
class SupplySize:
    """Watts of a supply for everything at once."""

    asked: float  # W
    asked_band: float  # 95 % half-width
    rule: float  # that plus a quarter
    model: float  # so that it still gives what is asked with room, in its air and of its age
    band: float  # 95 % half-width of that: of what is asked, of its air and its ageing
    offered: float | None  # the next that is sold
    share: float  # of its rating that one gives there


@dataclass(frozen=True, slots=True)
class StagedWarmUp:
    """A warm-up that the present supply suffices for."""

    at_once: float  # W, both heaters together
    one_by_one: float  # W, the hotend once the bed is held
    fits: bool
    minutes: float  # that it costs
    throttled: float | None  # share of the bed's watts with which both together fit; None: not even none
    throttled_minutes: float | None


@dataclass(frozen=True, slots=True)
class WireSize:
    """A wire by drop, by what it carries with its fuse, by what the trade uses at least, and by rule of thumb."""

    name: str
    amps: float
    metres: float
    by_drop: float | None  # mm²; None: none that is sold
    by_warmth: float | None
    rule: float  # mm²
    has: float
    least: float  # that the trade uses for it
    fuse: float | None  # that it has to carry, too [A]; None: there is none of its own
    air: float  # the warmest of its job [°C]

    @property
    def wanted(self) -> float | None:
        """The size that meets both."""
        if self.by_drop is None or self.by_warmth is None:
            return None
        return max(self.by_drop, self.by_warmth, self.least)


@dataclass(frozen=True, slots=True)
class FuseSize:
    """A fuse between its load and its wire [A]; none where there is no room between."""

    load: float
    carries: float
    offered: float | None
    has: float


@dataclass(frozen=True, slots=True)
class PartSize:
    """A contact or switch that may carry the bed's current where it sits."""

    key: str
    rated: float  # A, as it moves
    load: float  # share of that
    watts: float
    warm: float  # °C
    band: float  # 95 % half-width of that [K]
    stands: float
    fits: bool
    made: bool  # whether it is made for such volts and such a control at all
    sink: float | None = (
        None  # of a heatsink that would keep a switch cool enough [K/W]; None: none is wanted; zero: none does
    )


@dataclass(frozen=True, slots=True)
class Output:
    """A load on the printer's board, by how much of its output's rating it takes."""

    key: str
    amps: float
    rated: float

    @property
    def load(self) -> float:
        """Share of the rating."""
        return self.amps / self.rated


@dataclass(frozen=True, slots=True)
class PowerSizes:
    """Every size of a path."""

    supply: SupplySize
    staged: StagedWarmUp
    wires: tuple[WireSize, ...]
    fuse: FuseSize
    contacts: tuple[PartSize, ...]
    switches: tuple[PartSize, ...]
    outputs: tuple[Output, ...]


def size_power(answer: PowerAnswer) -> PowerSizes:
    """Every size of the path that an answer is of."""
    return PowerSizes(
        supply_for(answer), staged(answer), wires_for(answer), fuse_of(answer), contacts_for(answer),
        switches_for(answer), outputs_of(answer),
    )  # fmt: skip


def supply_for(answer: PowerAnswer) -> SupplySize:
    """Watts that a supply is to have in its air, at its age, with headroom."""
    given = answer.resolved.inputs
    years, kind = max(given.years, 5.0), given.supply
    share = aged(kind, years) * derated(kind, answer.inlet, given.pressure)
    rule = answer.asked * (1.0 + HEADROOM)
    model = rule / share if share > 0.0 else math.inf
    asked_band = _asked_band(answer)
    warm = derated(kind, answer.inlet + AIR_DOUBTS["supply"], given.pressure) * aged(kind, years)
    widths = asked_band / answer.asked, (share - warm) / share if share > 0.0 else 0.0, kind.yearly.tolerance * years
    return SupplySize(answer.asked, asked_band, rule, model, model * math.hypot(*widths) if share > 0.0 else 0.0,
                      next_rating(model), share)  # fmt: skip


def _asked_band(answer: PowerAnswer) -> float:
    """95 % half-width of what the supply is asked for [W]."""
    given, doubts = answer.resolved.inputs, answer.resolved.doubts
    cold, found = answer.setup.room.mean_c, []
    for name in ("bed_ohms", "volts", "others", "heater_ohms", "heater_volts"):
        model = PathModel(with_path_number(given, name, doubts.get(name, 0.0)))
        found.append(asked_of(replace(answer.full, model=model), cold) - answer.asked)
    return math.hypot(*found)


def staged(answer: PowerAnswer) -> StagedWarmUp:
    """One heater after the other, or a bed held back, within what the supply gives.

    The bed as one body: t = C/G ln(P / (P - G ΔT)) to its set value; while it is held it takes G ΔT.
    """
    given, setup = answer.resolved.inputs, answer.setup
    gives = answer.gives
    steady = given.others + given.on_supplies(1.0, 0.0)[FIRST]
    beside = steady + given.further + given.heater_volts * answer.full.amps.heater
    on_it = given.heated and not given.kind.mains and given.bed_on == FIRST
    bed = answer.asked - beside if on_it else 0.0
    held = min(bed_watts_wanted(setup, answer.catalogue), bed)
    alone = max(steady + bed, beside + held)
    body = bed_body(resolve_bed(setup, answer.catalogue).inputs) if bed > 0.0 else None
    whole = _minutes(body, answer, 1.0) if body is not None else 0.0
    minutes = HOTEND_WARM_MIN if bed > 0.0 else 0.0
    room = gives - beside
    share = min(room / bed, 1.0) if bed > 0.0 else 1.0
    possible = share if bed > 0.0 and held / bed < share else (1.0 if bed <= 0.0 else None)
    longer = _minutes(body, answer, share) if body is not None and possible is not None else None
    extra = longer - whole if longer is not None and whole is not None and math.isfinite(longer) else None
    return StagedWarmUp(answer.asked, alone, alone <= gives, minutes, possible, extra)


def _minutes(body: BedBody, answer: PowerAnswer, share: float) -> float:
    """The bed's warm-up at a share of its watts [min]."""
    loss = body.to_air + body.to_wall
    rise = max(answer.setup.bed.target_c - answer.setup.room.mean_c, 0.0)
    power = share * body.power
    if power <= loss * rise:
        return math.inf
    return float(body.heat / loss * math.log(power / (power - loss * rise)) / 60.0)


def wires_for(answer: PowerAnswer) -> tuple[WireSize, ...]:
    """Every wire, by the drop it may have and the warmth it stands."""
    found = []
    given = answer.resolved.inputs
    for name in WIRES:
        wire, amps = answer.full.model.lines[name].wire, answer.full.amps.through(name)
        volts = given.heater_volts if name == "heater_lead" else given.volts
        air, sold = warmest(answer, name), sizes(answer.catalogue)
        drop = [mm2 for mm2 in sold
                if 2.0 * amps * wire.resistivity * 1.16 * wire.length / (1e-6 * mm2) <= DROP_SHARE * volts]  # fmt: skip
        duty = "mains" if given.kind.mains and name != "heater_lead" else DUTIES[name]
        fuse = _fuse_before(answer, name)
        by_model = {mm2: _carries(given, name, mm2, air) for mm2 in sold}
        around = around_of(answer.setup, answer.catalogue, name, air)
        warm = thick_enough(duty, amps, fuse, around, answer.catalogue, by_model)
        rule = next((one for one in sold if one >= amps / RULE_A_MM2), sold[-1])
        found.append(
            WireSize(name, amps, wire.length, drop[0] if drop else None, warm, rule, 1e6 * wire.area,
                     least_mm2(duty, answer.catalogue), fuse, air)
        )  # fmt: skip
    return tuple(found)


DUTIES = {"feed": "feed", "lead": "bed", "heater_lead": "heater"}


def _fuse_before(answer: PowerAnswer, name: str) -> float | None:
    """The fuse that a wire has to outlast [A]: the bed's, as it is or as it would be; the board's for its feed."""
    given = answer.resolved.inputs
    if name in behind_fuse(given) and not (given.shares_feed and given.fuse <= 0.0):
        return given.fuse if given.fuse > 0.0 else fuse_for(answer.full.amps.bed)
    if name == "feed" and given.shares_feed and given.board_fuse > 0.0:
        return given.board_fuse
    return None


def _carries(given: PathInputs, name: str, mm2: float, around: float) -> float:
    """Current with which a wire of such a size stays so far below its class [A]."""
    wire = replace(getattr(given, name), area=1e-6 * mm2)
    line = PathModel(replace(given, **{name: wire})).lines[name]
    rise = wire.service - COOL_K - around
    if rise <= 0.0:
        return 0.0
    away = float(line.per_metre(np.array([wire.service - COOL_K]), around)[0])
    return carried_current(away, wire.resistivity / wire.area, rise, wire.per_k, around)


def fuse_of(answer: PowerAnswer) -> FuseSize:
    """The fuse that carries the bed for hours and opens before its wire burns."""
    given = answer.resolved.inputs
    amps, most = answer.full.amps.bed, carries(answer, behind_fuse(given))
    return FuseSize(amps, most, fuse_beside(amps, most), given.fuse)


def contacts_for(answer: PowerAnswer) -> tuple[PartSize, ...]:
    """Every kind of contact in the plug's place, sound, as it would be there; those that fit first."""
    given, found = answer.resolved.inputs, []
    keeps = answer.catalogue.motions[answer.setup.power.lead.motion].keeps
    for key, kind in answer.catalogue.contacts.items():
        told = replace(given.plug, ohms=1e-3 * kind.milliohm.value, good=1e-3 * kind.milliohm.value,
                       to_air=kind.air_w_k.value, to_body=kind.body_w_k.value)  # fmt: skip
        solved = _with_part(answer, "plug", told)
        rated = keeps * kind.rated_a.value
        amps, warm = solved.amps.bed, solved.contact("plug")
        made = contact_made_for(kind, given.mains if given.kind.mains else given.volts, mains=given.kind.mains)
        fits = made and amps <= FULL_LOAD * rated and warm <= kind.service_c.value - COOL_K
        worse = (
            replace(told, ohms=told.ohms + 1e-3 * kind.milliohm.tolerance),
            replace(told, to_air=max(told.to_air - kind.air_w_k.tolerance, 0.2 * told.to_air)),
            replace(told, to_body=max(told.to_body - kind.body_w_k.tolerance, 0.2 * told.to_body)),
        )
        band = math.hypot(
            AIR_DOUBTS["board"], *(_with_part(answer, "plug", one).contact("plug") - warm for one in worse)
        )
        found.append(
            PartSize(key, rated, amps / rated, solved.lost_mean("plug"), warm, band, kind.service_c.value, fits, made)
        )
    return tuple(sorted(found, key=lambda one: (not one.fits, one.load)))


def _with_part(answer: PowerAnswer, name: str, told: ContactIn | SwitchIn) -> SolvedPath:
    """The path at rest with another part in a place."""
    model = PathModel(replace(answer.resolved.inputs, **{name: told}))  # type: ignore[arg-type]  # of its own part
    return solve_path(model, answer.air, duty=answer.solved.duty)


def switches_for(answer: PowerAnswer) -> tuple[PartSize, ...]:
    """Every switch that may switch this bed, with its loss, how warm it gets and the heatsink it wants; those that fit
    first."""
    given, found = answer.resolved.inputs, []
    often = answer.catalogue.controls[answer.setup.bed.control].law != "relay"
    for key, kind in answer.catalogue.switches.items():
        if given.kind.mains != kind.mains and (given.kind.mains or kind.drop_v.value > 0.0):
            continue
        told = replace(given.switch, ohms=1e-3 * kind.milliohm.value, per_k=kind.per_k.value, drop=kind.drop_v.value,
                       own=kind.own_w, cooled=kind.cooled_w_k.value, service=kind.service_c.value)  # fmt: skip
        solved = _with_part(answer, "switch", told)
        amps, watts = solved.amps.bed, solved.lost_mean("switch")
        rated, stands = switch_rated(kind, mains=given.kind.mains), kind.service_c.value
        made = switch_made_for(
            kind, given.mains if given.kind.mains else given.volts, mains=given.kind.mains, often=often
        )
        fits = made and amps <= FULL_LOAD * rated and solved.switch_c <= stands - COOL_K
        worse = (
            replace(told, ohms=told.ohms + 1e-3 * kind.milliohm.tolerance),
            replace(told, drop=told.drop + kind.drop_v.tolerance),
            replace(told, cooled=max(told.cooled - kind.cooled_w_k.tolerance, 0.2 * told.cooled)),
        )
        moved = (_with_part(answer, "switch", one).switch_c - solved.switch_c for one in worse)
        band = math.hypot(AIR_DOUBTS["board"], *moved)
        load = amps / rated if rated > 0.0 else math.inf
        found.append(PartSize(key, rated, load, watts, solved.switch_c, band, stands, fits, made,
                              heatsink_for(answer, told)))  # fmt: skip
    return tuple(sorted(found, key=lambda one: (not one.fits, one.load)))


def heatsink_for(answer: PowerAnswer, told: SwitchIn) -> float | None:
    """Thermal resistance of a heatsink [K/W] beside what cools a switch as it comes, that keeps it `COOL_K` below what
    it stands; None: it needs none; zero: its air is too warm for any. P / (T - T_air) = G + 1 / R, at the temperature
    it may have."""
    amps, may = answer.solved.amps, told.service - COOL_K
    if may <= answer.air.board:
        return 0.0
    loss = amps.bed_mean**2 * told.ohms * (1.0 + told.per_k * (may - 25.0)) + told.own
    loss += told.drop * amps.bed * answer.solved.duty.bed
    wanted = loss / (may - answer.air.board) - told.cooled
    return 1.0 / wanted if wanted > 0.0 else None


def own_switch_rating(answer: PowerAnswer) -> float:
    """What the bed's own switch is good for [A]: the one it has, or that one would begin with."""
    given, catalogue = answer.resolved.inputs, answer.catalogue
    if not given.shares_feed:
        return given.switch.rated
    own = next(kind for kind in catalogue.power_paths.values() if kind.described and not kind.shared_feed)
    return catalogue.switches[own.switch].rated_a.value


def outputs_of(answer: PowerAnswer) -> tuple[Output, ...]:
    """The board's outputs by how loaded they are, most first: what belongs on a switch of its own."""
    given, found = answer.resolved.inputs, []
    if given.shares_feed and given.heated:
        found.append(Output("bed", answer.full.amps.bed, given.switch.rated))
    found.append(Output("hotend", answer.full.amps.heater, given.heater_output or HOTEND_OUTPUT_A))
    if given.output_load > 0.0:
        found.append(Output("fans", given.output_load, given.output))
    return tuple(sorted(found, key=lambda one: -one.load))
