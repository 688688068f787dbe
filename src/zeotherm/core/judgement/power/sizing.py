"""Sizes of a power path: supply, staged warm-up, wires, fuse, contact, switch, and what belongs off the board."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from zeotherm.core.judgement.power.answer import FUSE_SHARE, PowerAnswer, bed_watts_wanted, carries
from zeotherm.core.physics.wiring import carried_current
from zeotherm.core.twin.bed.equivalent import BedBody, bed_body
from zeotherm.core.twin.bed.inputs import resolve_bed
from zeotherm.core.twin.power.inputs import PathInputs
from zeotherm.core.twin.power.model import PathModel, solve_path
from zeotherm.core.twin.power.supply import HEADROOM, aged, derated, next_rating

SIZES_MM2 = (0.25, 0.34, 0.5, 0.75, 1.0, 1.5, 2.5, 4.0, 6.0, 10.0)
FUSES_A = (1.0, 2.0, 3.0, 5.0, 7.5, 10.0, 15.0, 20.0, 25.0, 30.0, 40.0, 50.0)
DROP_SHARE = 0.03  # of the volts that a wire may take, there and back
COOL_K = 10.0  # below its class that a wire is sized for
RULE_A_MM2 = 6.0  # amps a square millimetre: the bench's rule for short wires in the open
FULL_LOAD = 0.8  # of a contact's or switch's rating that is used
HOTEND_OUTPUT_A = 5.0  # of a board's heater output: data sheet range, 4 to 6
HOTEND_WARM_MIN = 3.0  # that a hotend takes once the bed is warm: estimate, 1.5 to 4


@dataclass(frozen=True, slots=True)
class SupplySize:
    """Watts of a supply for everything at once."""

    asked: float  # W
    rule: float  # that plus a quarter
    model: float  # so that it still gives what is asked with room, in its air and of its age
    offered: float | None  # the next that is sold
    share: float  # of its rating that one gives there


@dataclass(frozen=True, slots=True)
class Staged:
    """A warm-up that the present supply suffices for."""

    at_once: float  # W, both heaters together
    one_by_one: float  # W, the hotend once the bed is held
    fits: bool
    minutes: float  # that it costs
    throttled: float | None  # share of the bed's watts with which both together fit; None: not even none
    throttled_minutes: float | None


@dataclass(frozen=True, slots=True)
class WireSize:
    """A wire by drop, warmth and rule of thumb."""

    name: str
    amps: float
    metres: float
    by_drop: float | None  # mm²; None: none that is sold
    by_warmth: float | None
    rule: float  # mm²
    has: float

    @property
    def wanted(self) -> float | None:
        """The size that meets both."""
        if self.by_drop is None or self.by_warmth is None:
            return None
        return max(self.by_drop, self.by_warmth)


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
    stands: float
    fits: bool


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
    staged: Staged
    wires: tuple[WireSize, ...]
    fuse: FuseSize
    contacts: tuple[PartSize, ...]
    switches: tuple[PartSize, ...]
    outputs: tuple[Output, ...]


def size_power(answer: PowerAnswer) -> PowerSizes:
    """Every size of the path that an answer is of."""
    return PowerSizes(
        supply_for(answer), staged(answer), wires_for(answer), fuse_for(answer), contacts_for(answer),
        switches_for(answer), outputs_of(answer),
    )  # fmt: skip


def supply_for(answer: PowerAnswer) -> SupplySize:
    """Watts that a supply is to have in its air, at its age, with headroom."""
    given = answer.resolved.inputs
    share = aged(given.supply, max(given.years, 5.0)) * derated(given.supply, answer.inlet, given.pressure)
    rule = answer.asked * (1.0 + HEADROOM)
    model = rule / share if share > 0.0 else math.inf
    return SupplySize(answer.asked, rule, model, next_rating(model), share)


def staged(answer: PowerAnswer) -> Staged:
    """One heater after the other, or a bed held back, within what the supply gives.

    The bed as one body: t = C/G ln(P / (P - G ΔT)) to its set value; while it is held it takes G ΔT.
    """
    given, setup = answer.resolved.inputs, answer.setup
    gives = answer.gives
    hotend = given.others_full - given.others
    bed = 0.0 if given.kind.mains or not math.isfinite(given.bed_ohms) else answer.asked - given.others_full
    held = min(bed_watts_wanted(setup, answer.catalogue), bed)
    alone = max(given.others_full - hotend + bed, given.others_full + held)
    body = bed_body(resolve_bed(setup, answer.catalogue).inputs) if bed > 0.0 else None
    whole = _minutes(body, answer, 1.0) if body is not None else 0.0
    minutes = HOTEND_WARM_MIN if bed > 0.0 else 0.0
    room = gives - given.others_full
    share = min(room / bed, 1.0) if bed > 0.0 else 1.0
    possible = share if bed > 0.0 and held / bed < share else (1.0 if bed <= 0.0 else None)
    longer = _minutes(body, answer, share) if body is not None and possible is not None else None
    extra = longer - whole if longer is not None and whole is not None and math.isfinite(longer) else None
    return Staged(answer.asked, alone, alone <= gives, minutes, possible, extra)


def _minutes(body: BedBody, answer: PowerAnswer, share: float) -> float:
    """The bed's warm-up at a share of its watts [min]."""
    loss = body.to_air + body.to_wall
    rise = max(answer.setup.bed.target_c - answer.setup.room.mean_c, 0.0)
    power = share * body.power
    if power <= loss * rise:
        return math.inf
    return float(body.heat / loss * math.log(power / (power - loss * rise)) / 60.0)


def wires_for(answer: PowerAnswer) -> tuple[WireSize, ...]:
    """Feed and lead, by the drop they may have and the warmth they stand."""
    found = []
    for name, amps in (("feed", answer.full.amps.feed), ("lead", answer.full.amps.bed)):
        line = answer.full.model.lines[name]
        wire, volts = line.wire, answer.resolved.inputs.volts
        around = getattr(answer.air, name)
        drop = [mm2 for mm2 in SIZES_MM2
                if 2.0 * amps * wire.resistivity * 1.16 * wire.length / (1e-6 * mm2) <= DROP_SHARE * volts]  # fmt: skip
        warm = [mm2 for mm2 in SIZES_MM2 if _carries(answer.resolved.inputs, name, mm2, around) >= amps]
        found.append(
            WireSize(name, amps, wire.length, drop[0] if drop else None, warm[0] if warm else None,
                     next((one for one in SIZES_MM2 if one >= amps / RULE_A_MM2), SIZES_MM2[-1]), 1e6 * wire.area)
        )  # fmt: skip
    return tuple(found)


def _carries(given: PathInputs, name: str, mm2: float, around: float) -> float:
    """Current with which a wire of such a size stays so far below its class [A]."""
    wire = replace(getattr(given, name), area=1e-6 * mm2)
    line = PathModel(replace(given, **{name: wire})).lines[name]
    rise = wire.service - COOL_K - around
    if rise <= 0.0:
        return 0.0
    away = float(line.per_metre(np.array([wire.service - COOL_K]), around)[0])
    return carried_current(away, wire.resistivity / wire.area, rise, wire.per_k, around)


def fuse_for(answer: PowerAnswer) -> FuseSize:
    """The fuse that carries the bed for hours and opens before its wire burns."""
    amps, most = answer.full.amps.bed, carries(answer.full, answer.air)
    fits = [one for one in FUSES_A if FUSE_SHARE * one >= amps and one <= most]
    return FuseSize(amps, most, fits[0] if fits else None, answer.resolved.inputs.fuse)


def contacts_for(answer: PowerAnswer) -> tuple[PartSize, ...]:
    """Every kind of contact in the plug's place, sound, as it would be there; those that fit first."""
    given, found = answer.resolved.inputs, []
    keeps = answer.catalogue.motions[answer.setup.power.lead.motion].keeps
    for key, kind in answer.catalogue.contacts.items():
        told = replace(given.plug, ohms=1e-3 * kind.milliohm.value, good=1e-3 * kind.milliohm.value,
                       to_air=kind.air_w_k.value, to_body=kind.body_w_k.value)  # fmt: skip
        solved = solve_path(PathModel(replace(given, plug=told)), answer.air, duty=answer.solved.duty)
        rated = keeps * kind.rated_a.value
        amps, warm = solved.amps.bed, solved.contact("plug")
        fits = amps <= FULL_LOAD * rated and warm <= kind.service_c.value - COOL_K and not kind.wrong
        watts = solved.amps.bed_mean**2 * solved.contact_ohms("plug")
        found.append(PartSize(key, rated, amps / rated, watts, warm, kind.service_c.value, fits))
    return tuple(sorted(found, key=lambda one: (not one.fits, one.load)))


def switches_for(answer: PowerAnswer) -> tuple[PartSize, ...]:
    """Every switch that may switch this bed, with its loss and how warm it gets; those that fit first."""
    given, found = answer.resolved.inputs, []
    for key, kind in answer.catalogue.switches.items():
        if given.kind.mains != kind.mains and (given.kind.mains or kind.drop_v.value > 0.0):
            continue
        told = replace(given.switch, ohms=1e-3 * kind.milliohm.value, per_k=kind.per_k.value, drop=kind.drop_v.value,
                       own=kind.own_w, cooled=kind.cooled_w_k.value, service=kind.service_c.value)  # fmt: skip
        solved = solve_path(PathModel(replace(given, switch=told)), answer.air, duty=answer.solved.duty)
        amps = solved.amps.bed
        watts = solved.lost("switch") * amps * solved.duty + told.own
        rated, stands = kind.rated_a.value, kind.service_c.value
        fits = amps <= FULL_LOAD * rated and solved.switch_c <= stands - COOL_K
        found.append(PartSize(key, rated, amps / rated, watts, solved.switch_c, stands, fits))
    return tuple(sorted(found, key=lambda one: (not one.fits, one.load)))


def own_switch_rating(answer: PowerAnswer) -> float:
    """What the bed's own switch is good for [A]: the one it has, or that one would begin with."""
    given, catalogue = answer.resolved.inputs, answer.catalogue
    if not given.kind.shared_feed:
        return given.switch.rated
    own = next(kind for kind in catalogue.power_paths.values() if kind.described and not kind.shared_feed)
    return catalogue.switches[own.switch].rated_a.value


def outputs_of(answer: PowerAnswer) -> tuple[Output, ...]:
    """The board's outputs by how loaded they are, most first: what belongs on a switch of its own."""
    given, setup = answer.resolved.inputs, answer.setup
    found = []
    if given.kind.shared_feed and math.isfinite(given.bed_ohms):
        found.append(Output("bed", answer.full.amps.bed, given.switch.rated))
    hotend = (given.others_full - given.others) / 0.6 / max(setup.power.out_v, 1.0)
    found.append(Output("hotend", hotend, HOTEND_OUTPUT_A))
    if given.output_load > 0.0:
        found.append(Output("fans", given.output_load, given.output))
    return tuple(sorted(found, key=lambda one: -one.load))
