"""How hot anything may be made that the program proposes: what the plastic asks for, capped by the weakest fitted part.

Steps, checks, the hint beside a nozzle's temperature, what may be entered there, and lines for a controller all ask
here; nothing proposes a temperature by a formula of its own.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

from zeotherm.core.catalogue.entry import Figure
from zeotherm.core.catalogue.fitting import hotend_of
from zeotherm.core.catalogue.procedures import HeatRule, HeatSource
from zeotherm.core.catalogue.seats import in_one_block
from zeotherm.core.catalogue.shelves import Catalogue, Filament
from zeotherm.core.guard.fitted import ALL_ENTERED, Assumed, Possible, possible
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.toolheads import others_in_front

LINER = "liner_end"  # the limit of a PTFE liner
LAST_PLASTIC = "last_filament"  # the choice that tells what ran before
SAME, UNKNOWN = "same", "unknown"
STEP_ROOM_K = 3.0  # below which a hotter try is no other try
SAME_K = 0.05
NO_GLOW_SHARE = 0.9  # of a source's own gas that metal in it may come to


@dataclass(frozen=True, slots=True)
class Cap:
    """What one fitted part stands [°C], the lower edge of its limit's band."""

    part: str
    value: float
    source: str


@dataclass(frozen=True, slots=True)
class Target:
    """The temperature of a step [°C]."""

    value: float  # what is offered: the wish, or the cap
    wish: float
    least: float
    cap: Cap | None  # the weakest part; None where nothing that is warmed has a limit
    assumed: str = ""  # the plastic that the last one was taken to be, where nobody told

    @property
    def offered(self) -> bool:
        """Whether the step does at this temperature what it is for."""
        return self.value >= self.least

    @property
    def capped(self) -> bool:
        """Whether a part holds it below the wish."""
        return self.value < self.wish

    @property
    def room(self) -> float:
        """What may still be added before the weakest part gives in [K]."""
        return self.cap.value - self.value if self.cap is not None else 0.0


def has_liner(setup: Setup, catalogue: Catalogue) -> bool:
    """Whether a PTFE liner reaches down to where the block may warm it."""
    return catalogue.hotends[setup.hotend.template].tube_end != "break"


def plastics(setup: Setup, catalogue: Catalogue, last: str = UNKNOWN) -> list[Filament]:
    """What may be in the bore: the plastic that is printed and, where it was told, the one before it."""
    own = catalogue.filaments[setup.printing.filament]
    before = catalogue.filaments.get(last, own)
    return [own] if before is own else [own, before]


def caps(
    setup: Setup, catalogue: Catalogue, *, liner: bool = True, last: str = UNKNOWN, planned: Setup | None = None,
    assumed: Assumed = ALL_ENTERED,
) -> list[Cap]:  # fmt: skip
    """What each part at the block stands, and the plastic in it, weakest first.

    liner: whether it is in the hotend now; last: the plastic that ran before; planned: the machine with parts that are
    being fitted: where it is not known which of both is in it, the weaker counts. The lower edge of the catalogue's
    figure, value less tolerance: what is known to hold, not what mostly holds. A sensor that reads low lets the block
    run hotter than shown by so much, which is kept off every cap. assumed: what nobody entered; whatever may be there
    instead counts where it stands less.
    """
    found = _caps_of(setup, catalogue, liner=liner, last=last)
    if planned is not None and planned != setup:
        found += _caps_of(planned, catalogue, liner=liner, last=last)
    found = sorted(found, key=lambda cap: cap.value)
    in_it = liner or not has_liner(setup, catalogue)  # where none was known of, nobody took it out
    others = _weakest_of(possible(setup, assumed, catalogue), catalogue, liner=in_it, last=last)
    return sorted([*_not_ruled_out(found[0].value, others), *found], key=lambda cap: cap.value)


def _weakest_of(
    machines: tuple[Possible, ...], catalogue: Catalogue, *, liner: bool, last: str
) -> list[tuple[Possible, Cap]]:
    """The weakest part of each machine that it may be; kept for the last ones, since an order asks at every step."""
    if _Kept.machines is not machines:
        _Kept.machines, _Kept.found = machines, {}
    if (liner, last) not in _Kept.found:
        told = [(one, _caps_of(one.setup, catalogue, liner=liner, last=last)) for one in machines]
        _Kept.found[liner, last] = [(one, min(caps, key=lambda cap: cap.value)) for one, caps in told]
    return _Kept.found[liner, last]


class _Kept:
    """What was asked last of machines that it may be."""

    machines: tuple[Possible, ...] = ()
    found: dict[tuple[bool, str], list[tuple[Possible, Cap]]] = {}  # noqa: RUF012  # replaced, never shared


def _not_ruled_out(weakest: float, others: list[tuple[Possible, Cap]]) -> list[Cap]:
    """The weakest part of each machine that it may be, where that is weaker than what is assumed."""
    found = []
    for one, cap in others:
        if cap.value < weakest - SAME_K:
            fact = one.fact if one.fact[1:2].isdigit() else f"{one.fact[:1].lower()}{one.fact[1:]}"
            part = f"{cap.part} (not ruled out: {fact} is not entered)"
            found.append(Cap(part, cap.value, cap.source))
    return found


def _caps_of(setup: Setup, catalogue: Catalogue, *, liner: bool, last: str) -> list[Cap]:
    """Of the hotend in front, and of those that hang in its block: what warms one warms them all."""
    found = _own_caps_of(setup, catalogue, liner=liner, last=last)
    for number, other in others_in_front(setup):
        if in_one_block(setup, number, catalogue):
            others = _own_caps_of(other, catalogue, liner=True, last=UNKNOWN)
            found += [replace(one, part=f"{number}'s {one.part}") for one in others]
    return found


def _own_caps_of(setup: Setup, catalogue: Catalogue, *, liner: bool, last: str) -> list[Cap]:
    shape, nozzle = hotend_of(setup, catalogue), catalogue.nozzles[setup.hotend.nozzle]
    sensor, sleeve = catalogue.sensors[setup.hotend.sensor], catalogue.sleeves[setup.hotend.sleeve]
    made = catalogue.breaks[setup.hotend.break_part]
    told: list[tuple[str, Figure | None]] = [(sensor.label, sensor.service_c)]
    if sleeve.thickness_mm.value > 0.0:
        told.append((sleeve.label, sleeve.service_c))
    told.append((f"nozzle, {nozzle.label.lower()}", nozzle.service_c))
    for label, key in (("block", shape.block_material), ("nozzle", shape.nozzle_material),
                       ("heat break", made.block_side), ("heat break's neck", made.neck)):  # fmt: skip
        told.append((f"{label}, {catalogue.materials[key].label}", catalogue.materials[key].service_c))
    told += [(f"{one.label} in the nozzle", one.hottest) for one in plastics(setup, catalogue, last)]
    low = min(setup.hotend.sensor_offset_k, 0.0)
    found = [_cap(label, figure, low) for label, figure in told if figure is not None]
    if liner and has_liner(setup, catalogue):
        limit = catalogue.limits[LINER]
        assert limit.value is not None
        found.append(Cap("PTFE liner", limit.value - limit.tolerance + low, limit.source))
    return found


def body_caps(
    body: str, source: HeatSource, setup: Setup, catalogue: Catalogue, assumed: Assumed = ALL_ENTERED
) -> list[Cap]:
    """What a part stands that is warmed off the machine, and how far its source of heat takes it; weakest first.

    body: sink, with the break in it, or break. assumed: what nobody entered, as for `caps`.
    """
    found = _body_caps_of(body, setup, catalogue)
    told = [(one, _body_caps_of(body, one.setup, catalogue)) for one in possible(setup, assumed, catalogue)]
    others = [(one, min(caps, key=lambda cap: cap.value)) for one, caps in told if caps]
    found += _not_ruled_out(min((cap.value for cap in found), default=math.inf), others)
    reach = setup.room.mean_c + NO_GLOW_SHARE * (source.air_c - setup.room.mean_c)
    found.append(Cap(source.label, reach, source.source))
    return sorted(found, key=lambda cap: cap.value)


def _body_caps_of(body: str, setup: Setup, catalogue: Catalogue) -> list[Cap]:
    made = catalogue.breaks[setup.hotend.break_part]
    metals = {made.sink_side, made.neck, made.block_side} | ({"aluminium_alloy"} if body == "sink" else set())
    materials = (catalogue.materials[one] for one in sorted(metals))
    return [_cap(one.label, one.service_c) for one in materials if one.service_c is not None]


def target(
    rule: HeatRule, setup: Setup, catalogue: Catalogue, *, liner: bool = True, last: str = UNKNOWN,
    planned: Setup | None = None, more: float = 0.0, body: str = "", source: HeatSource | None = None,
    assumed: Assumed = ALL_ENTERED,
) -> Target:  # fmt: skip
    """The temperature of a step by its rule.

    more: what is added to it at a further try [K]. body and source: what is warmed off the machine, and by what;
    nothing of the block caps it then. Others as for `caps`.
    """
    both = rule.bore == "both"
    wish = max(_figure(name, setup, catalogue, last, planned, both) + add for name, add in rule.of.items()) + more
    least = max(_figure(name, setup, catalogue, last, planned, both) + add for name, add in rule.least.items())
    before = catalogue.filaments[setup.printing.filament].label if both and last == UNKNOWN else ""
    if source is not None:
        weakest = body_caps(body, source, setup, catalogue, assumed)[0]
    else:
        weakest = caps(setup, catalogue, liner=liner, last=last, planned=planned, assumed=assumed)[0]
    return Target(min(wish, weakest.value), wish, least, weakest, before)


@dataclass(frozen=True, slots=True)
class PrintWindow:
    """Nozzle temperatures between which a plastic is printed with the parts as they are fitted [°C]."""

    low: float
    high: float
    cap: Cap | None  # the part that ends it; None: the plastic's usual range or the cold end does
    melts: float  # from which it leaves evenly at this flow
    stiff: float  # up to which the neck stays stiff

    @property
    def none(self) -> bool:
        """Whether no temperature does it all."""
        return self.low > self.high


def window(
    setup: Setup, catalogue: Catalogue, melts: float, stiff: float, assumed: Assumed = ALL_ENTERED
) -> PrintWindow:
    """What a nozzle may be set to: within the plastic's usual range, hot enough to melt evenly at this flow, no hotter
    than a stiff neck and the weakest fitted part allow. melts, stiff [°C]: from the solved state."""
    plastic = catalogue.filaments[setup.printing.filament]
    weakest = caps(setup, catalogue, assumed=assumed)[0]
    usual = plastic.usual_range
    high = min(stiff, usual[1], weakest.value)
    return PrintWindow(max(melts, usual[0]), high, weakest if high >= weakest.value else None, melts, stiff)


def nozzle_cap(setup: Setup, catalogue: Catalogue, assumed: Assumed = ALL_ENTERED) -> Cap:
    """The most that a nozzle may be set to on this machine with this plastic."""
    return caps(setup, catalogue, assumed=assumed)[0]


def bed_cap(setup: Setup, catalogue: Catalogue, assumed: Assumed = ALL_ENTERED) -> Cap | None:
    """The most that a bed may be set to: what its weakest layer stands, sheet included; None: none has a limit.
    assumed: what nobody entered, as for `caps`."""
    found = _bed_cap_of(setup, catalogue)
    others = [(one, _bed_cap_of(one.setup, catalogue)) for one in possible(setup, assumed, catalogue)]
    weaker = _not_ruled_out(found.value if found else math.inf, [(one, cap) for one, cap in others if cap is not None])
    return min([*weaker, *([found] if found else [])], key=lambda cap: cap.value, default=None)


def _bed_cap_of(setup: Setup, catalogue: Catalogue) -> Cap | None:
    bed = catalogue.beds[setup.bed.part]
    layers = [*bed.layers, *catalogue.sheets[setup.bed.sheet].layers]
    materials = {layer.material: catalogue.materials[layer.material] for layer in layers}
    found = [_cap(one.label, one.service_c) for one in materials.values() if one.service_c is not None]
    return min(found, key=lambda cap: cap.value, default=None)


def _figure(name: str, setup: Setup, catalogue: Catalogue, last: str, planned: Setup | None, both: bool) -> float:
    if name == "degrees":
        return 0.0
    own = catalogue.filaments[setup.printing.filament]
    inside = plastics(setup, catalogue, last) if both else [own]
    if name == "hottest_planned":
        return max(setup.printing.nozzle_c, planned.printing.nozzle_c if planned is not None else -273.0)
    if name == "nozzle":
        return max(setup.printing.nozzle_c, *(one.nozzle_c.value for one in inside if one is not own), -273.0)
    return max(_of(one, name).value for one in inside)


def _of(plastic: Filament, name: str) -> Figure:
    figures: Mapping[str, Figure] = {"release_c": plastic.release}
    figure: Figure = figures[name] if name in figures else getattr(plastic, name)
    return figure


def _cap(label: str, figure: Figure, offset: float = 0.0) -> Cap:
    return Cap(label, figure.value - figure.tolerance + offset, figure.source)
