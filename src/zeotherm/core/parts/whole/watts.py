"""What passes between the parts of a machine at one moment of its job: what enters, what leaves, what warms it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from zeotherm.core.parts.hotend.model.in_time import HotendFlows
from zeotherm.core.parts.hotend.model.solved import Solved
from zeotherm.core.parts.whole.network import AIR, BED, ROOF, WALL, Outside
from zeotherm.core.parts.whole.run import History

ENTERS = ("bed", "hotend", "standby", "case", "motor", "carriage_board", "electronics", "sun")
LEAVES = ("walls", "openings", "fan", "coolant")


@dataclass(frozen=True)
class MachineWatts:
    """Watts of one moment. What enters is what leaves and what warms the machine."""

    enters: Mapping[str, float]  # by ENTERS
    leaves: Mapping[str, float]  # by LEAVES: outward
    off_bed: float  # into air and walls
    off_hotend: float  # into the air, by block, fins, fan and filament

    @property
    def given(self) -> float:
        """All that enters [W]."""
        return sum(self.enters.values())

    @property
    def warms(self) -> float:
        """What warms air, walls and parts; below zero while they cool [W]."""
        return self.given - sum(self.leaves.values())


def watts_at(run: History, time: float, hotend: Solved) -> MachineWatts | None:
    """Watts at a time [s] of a run, with the hotend as it is then (`run.moment(time)`).

    None where the hotend's air is stated: nobody knows then where the heat of the others goes. Source: the balance of
    `network.Network`, its own conductances and openings; it closes as the run does (`History.closure`).
    """
    values, stretch, _mark = run.at(time)
    network = stretch.system.network
    a = network.around
    if a.stated is not None:
        return None
    bodies = stretch.system.split(values)[1]
    room, off = a.room(run.clock(time)), hotend.readout.watts
    flows = HotendFlows(
        off.heater, off.off_block + off.off_nozzle, off.into_fan_air, off.off_sink, off.into_mount, off.into_filament
    )
    sun_wall, sun_air = a.extra(run.clock(time))
    duct = network.duct_conductance(hotend.model.air.capacity)
    powers = _powers(run, time)
    passed = network.flows(Outside(room, sun_wall, sun_air, flows, duct), bodies, powers)
    coolant = flows.fan_air if network.coolant else 0.0
    walls, fan = a.outer * (float(bodies[WALL]) - room), duct * (float(bodies[ROOF]) - room)
    bed = float(bodies[BED])
    board = network.own_watts[1]
    return MachineWatts(
        enters={
            "bed": passed.bed, "hotend": flows.heater, "standby": passed.standby, "case": passed.case,
            "motor": passed.motor, "carriage_board": board, "electronics": passed.board - board, "sun": passed.sun,
        },
        leaves={
            "walls": walls, "openings": passed.to_room - walls - fan - coolant, "fan": fan, "coolant": coolant,
        },
        off_bed=a.bed_to_air * (bed - float(bodies[AIR])) + a.bed_to_wall * (bed - float(bodies[WALL])),
        off_hotend=flows.off_block + flows.off_sink + flows.filament + (flows.fan_air - coolant),
    )  # fmt: skip


def _powers(run: History, time: float) -> dict[str, float]:
    """Watts of bed and case heater at a time: straight between two ends of steps, as long as nothing is switched."""
    times = run.times
    after = min(max(int(times.searchsorted(time)), 1), len(times) - 1)
    old, new = run.marks[after - 1], run.marks[after]
    if old.stretch != new.stretch:
        old = new
    length = new.time - old.time
    share = 1.0 if length <= 0.0 else min(max((time - old.time) / length, 0.0), 1.0)
    return {
        "bed": old.bed.watts + share * (new.bed.watts - old.bed.watts),
        "case": old.case.watts + share * (new.case.watts - old.case.watts),
    }
