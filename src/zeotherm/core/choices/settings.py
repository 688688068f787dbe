"""Settings as part of a repair: what a print is to be set to on a hotend, each by the model or by the guard."""

from __future__ import annotations

import math
from dataclasses import dataclass

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.choices.window import PrintingWindow, flows_at
from zeotherm.core.guard.fitted import Assumed
from zeotherm.core.guard.heat import target
from zeotherm.core.machine.documents import Setup
from zeotherm.core.parts.hotend.judge.capacity import MELT_DOUBT
from zeotherm.core.parts.hotend.model.in_time import storage
from zeotherm.core.parts.hotend.model.model import solve, with_input
from zeotherm.core.parts.hotend.model.readout import read
from zeotherm.core.parts.hotend.model.solved import Solved

FIRST_HOTTER_K = 5.0  # of the first layers, for their hold
EASY_K = 5.0  # room up and down with which a set temperature is left as it is
SOFT_MPA = 100.0  # below which a filament is flexible
OWN_MM = {"metal": 0.8, "liner": 1.5}  # of a retraction, over the slack, by the bore; practice
SOFT_MM = 0.5
SPEED, SPEED_SOFT, SPEED_TUBE = 35.0, 20.0, 40.0  # mm/s
RAMP = (0.0, 0.2, 0.4, 0.6, 0.8, 1.0)  # of the part fan, layer by layer
HELD_SHARE = 0.9  # of the watts that surely arrive, that the fan may leave the heater with
DIP_S, DIP_K = 5.0, 5.0  # until a controller has followed; fall of the block that no protection calls a fault
FAN_ON_C, FAN_OFF_C = 50.0, 45.0  # of the block
LEAST_BACK_MM, LEAST_OWN_MM = 0.5, 0.4
KEPT_MM, MOST_BACK_MM = 1.0, 8.0  # of the margin that stays cold; of what is drawn back at most, over the slack
PRIME_MORE_MM, PRIME_FLOW = 3.0, 3.0  # mm over what was drawn back; mm³/s
PURGE_TIMES = 4.0  # the volume of the hot bore
MM, MM3 = 1e-3, 1e-9


@dataclass(frozen=True, slots=True)
class Settings:
    """What a print is to be set to; lengths in mm of filament, temperatures in °C, shares from zero to one."""

    first: float  # nozzle, first two layers
    then: float
    retraction: float  # at most
    speed: float  # of it [mm/s]
    flow: float  # at most, surely melted [mm³/s]
    fan: tuple[float, ...]  # of the part fan, layer by layer; the last goes on
    fan_wanted: float  # what the job asks for
    fan_on: float
    fan_off: float
    draw_back: float  # at the end, at once; zero: none is safe
    prime: float  # at the next start
    prime_flow: float  # mm³/s
    unload: float
    unload_offered: bool  # whether that is hot enough and every part stands it
    purge: float  # after another plastic
    strand_mm: float  # diameter of the filament


def settings_of(window: PrintingWindow, solved: Solved, catalogue: Catalogue, assumed: Assumed) -> Settings:
    """Settings for the job of a window; solved: the hotend at rest as the job prints. Nothing is hotter than what the
    weakest fitted part is rated to."""
    setup, ceiling = window.setup, window.ceiling.value
    plastic = catalogue.filaments[window.plastic]
    then = _then(window)
    first = min(then + FIRST_HOTTER_K, ceiling, max(window.usual[1], then))
    drive, given = catalogue.drives[setup.hotend.drive], solved.resolved.inputs
    soft, slack = plastic.stiffness.value < SOFT_MPA, drive.slack_mm.value
    own = SOFT_MM if soft else OWN_MM[given.shape.bore]
    speed = SPEED_SOFT if soft else SPEED_TUBE if slack > 0.0 else SPEED
    most, _least = flows_at(window.edges, then)
    neck_top = 1e3 * solved.model.layout.at.neck_top
    margin = solved.readout.values.get("creep_margin") or 0.0  # mm from the softened front to the cold zone
    spare = min(max(margin - KEPT_MM, 0.0), MOST_BACK_MM)  # drawn further, soft filament freezes in the cold end
    draw_back = round(slack + spare, 1) if spare >= LEAST_BACK_MM else 0.0
    if given.shape.bore == "metal":
        own = max(min(own, spare), LEAST_OWN_MM)
    unload = target(catalogue.heat_rules["unload"], setup, catalogue, assumed=assumed)
    area = 0.25 * math.pi * given.shape.strand_d**2
    bore = 0.25 * math.pi * given.shape.bore_d**2 * neck_top
    return Settings(
        math.floor(first), math.floor(then), round(slack + own, 1), speed, (1.0 - MELT_DOUBT) * most,
        _ramp(solved, setup), 0.01 * setup.printing.part_fan_pct, FAN_ON_C, FAN_OFF_C, draw_back,
        draw_back + PRIME_MORE_MM, PRIME_FLOW, math.floor(unload.value), unload.offered,
        math.ceil(PURGE_TIMES * bore / area), given.shape.strand_d,
    )  # fmt: skip


def _then(window: PrintingWindow) -> float:
    """What is set after the first layers: as it is, where there is room, else the middle of the window."""
    room = window.room
    kept = min(window.nozzle, window.ceiling.value)
    if room is None or window.middle is None or (room.fits and min(room.up, room.down) >= EASY_K):
        return math.floor(kept)
    if room.left < 0.0:  # hotter, it would creep the sooner
        return math.floor(min(kept, max(window.middle, window.usual[0])))
    return math.floor(min(max(window.middle, window.usual[0]), window.usual[1], window.ceiling.value))


def _ramp(solved: Solved, setup: Setup) -> tuple[float, ...]:
    """The part fan layer by layer, as far as the job wants it: each step such that the heater surely holds the nozzle
    and the block falls by less than any protection calls a fault before the controller has followed."""
    given = solved.resolved.inputs
    surely = given.heater_power - solved.resolved.doubts.get("heater_power", 0.0)
    wanted = 0.01 * setup.printing.part_fan_pct
    held = float(storage(solved.model).capacity[solved.model.layout.cells_of["block"]].sum())
    steps: list[float] = []
    field, before = solved.field, None
    for share in [*(one for one in RAMP if one < wanted), wanted]:
        model = solved.model.like(with_input(given, "part_fan", share))
        field = solve(model, field)
        watts = read(model, field).values["heater_watts"] or 0.0
        falls = 0.0 if before is None else (watts - before) * DIP_S / max(held, 1.0)
        if watts > HELD_SHARE * surely or falls > DIP_K:
            break
        steps.append(round(share, 2))
        before = watts
    return tuple(steps) or (0.0,)
