"""Toolheads that stand by: where their heat goes, and what those in one block draw from its heater."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.toolheads import setup_with, turned
from zeotherm.core.parts.hotend.model.inputs import NECK_DOUBT, HotendAir, resolve
from zeotherm.core.parts.hotend.model.model import build, solve
from zeotherm.core.parts.hotend.model.readout import Watts, read
from zeotherm.core.parts.whole.run import simulate
from zeotherm.core.parts.whole.standby import DOUBT, standby

CATALOGUE = shipped()
CASED = {"surroundings": {"air_from": "case"}, "case": {"part": "side_vented", "vents_open_pct": 10.0},
         "schedule": {"print_min": 90.0, "cool_min": 10.0}}  # fmt: skip
LINED = {"template": "compact_lined", "break_part": "lined_steel"}


def twin(**other) -> Setup:
    return patched(setup_with(patched(Setup(), CASED), "T1"), {"toolheads": {"T1": other}})


def still(setup: Setup, nozzle: float, air: float) -> Watts:
    """Watts of T1, hot and still, in full: its own field on the fine grid."""
    given = resolve(turned(setup, "T1").model_copy(update={"toolheads": {}}), CATALOGUE).inputs
    model = build(replace(given.in_air(HotendAir(air, air, air)), nozzle=nozzle, sensor_offset=0.0, flow=0.0,
                          part_fan=0.0, heater_power=90.0))  # fmt: skip
    return read(model, solve(model)).watts


def test_heat_of_standing_by_goes_where_heat_of_as_many_watts_goes(record):
    """The whole machine against the same with a lamp of as many watts in its air: the enclosure comes to the same."""
    twins = simulate(twin(hotend={"beside": "own_carriage"}, printing={"idle_c": 220.0}), CATALOGUE)
    late = twins.off - 1.0
    watts = twins.printing.system.network.standby_watts(twins.bodies(late))
    lamp = {"heats": {"lamp": {"label": "Lamp", "watts": watts, "from_h": 0.0, "to_h": 24.0, "into": "air"}}}
    lit, alone = (simulate(patched(patched(Setup(), CASED), more), CATALOGUE) for more in (lamp, {}))
    apart = float(np.abs(twins.bodies(late) - lit.bodies(late)).max())
    warmer = float((twins.bodies(late) - alone.bodies(late))[0])
    record(
        "Toolhead standing by in an enclosure", "a lamp of as many watts",
        f"{apart:.3f} K of {warmer:.1f} K, energy closes to {twins.closure:.0e}", "0.1 K, 1e-4",
    )  # fmt: skip
    assert apart < 0.1
    assert warmer > 1.0
    assert twins.closure < 1e-4


def test_what_it_gives_is_linear_enough_about_the_air_it_is_solved_in(record):
    setup = twin(hotend={**LINED, "beside": "own_carriage"}, printing={"idle_c": 180.0})
    law = standby(setup, CATALOGUE)
    off = [law.watts(air, air) / still(setup, 180.0, air).heater - 1.0 for air in (20.0, 40.0, 60.0)]
    worst = max(map(abs, off))
    record("Watts of a toolhead standing by, 20 to 60 °C", "its own field", f"{worst:.1%}", f"{0.5 * DOUBT:.1%}")
    assert worst < 0.5 * DOUBT


def test_necks_in_one_block_draw_what_their_fields_say(record):
    found = []
    for hotend in (
        {},
        LINED,
        {"break_part": "titanium"},
        {"break_part": "bimetal"},
        {"template": "long_melt_all_metal"},
    ):
        shared = twin(hotend={**hotend, "beside": "shared_block"})
        apart, together = (resolve(one, CATALOGUE).inputs.heater_power for one in (twin(hotend=hotend), shared))
        watts = still(shared, shared.printing.nozzle_c, 35.0)
        cold = watts.into_fan_air + watts.off_sink + watts.into_mount + watts.into_filament
        found.append((apart - together) / cold)
    record(
        "Necks of further hotends in one block, five breaks", "their own fields",
        f"{min(found):.2f} to {max(found):.2f} times", f"within {NECK_DOUBT:.0%}",
    )  # fmt: skip
    assert all(1.0 - NECK_DOUBT < one < 1.0 + NECK_DOUBT for one in found)
