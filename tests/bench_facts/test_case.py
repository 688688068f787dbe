"""Enclosures, as every bench knows them."""

from __future__ import annotations

from dataclasses import replace

from tests.core.test_chamber import CATALOGUE, PRINTING, setup_of, solved
from zeotherm.core.parts.enclosure.judge.answer import first_case
from zeotherm.core.parts.enclosure.model.solved import SolvedChamber

HEATED = {"heater_w": 400.0, "target_c": 60.0, "vents_open_pct": 0.0}
COLD_BED = replace(PRINTING, bed_up=0.0, bed_down=0.0, bed_rad_up=0.0, bed_rad_down=0.0)


def held(place: str, sensor: float, **more: float) -> SolvedChamber:
    """A large panelled enclosure, its bed off."""
    return solved(COLD_BED, "panelled_frame", **HEATED, heater_at=place, sensor_pct=sensor, **more)


def test_a_low_heater_warms_the_roof_more_than_the_print(fact):
    found = held("floor", 25.0)
    fact("heater low: roof over print", found.high - found.low, 3.0, 20.0, "K")
    corners = held("corners", 25.0)
    fact("heaters in the corners: roof over print", corners.high - corners.low, 1.0, 8.0, "K")
    bed = solved(kind="panelled_frame")
    fact("bed alone: roof over print", bed.high - bed.low, 0.1, 5.0, "K")


def test_a_roof_heater_without_mixing_leaves_the_print_cold(fact):
    roof, print_ = 60.0, held("roof", 90.0).low
    fact("heater and sensor under the roof: print behind", roof - print_, 15.0, 40.0, "K")
    mixed = held("roof_blown", 90.0)
    fact("the same with a fan of its own: print behind", roof - mixed.low, 3.0, 15.0, "K")


def test_what_has_no_losses_of_its_own_is_as_warm_as_its_air(fact):
    answer = first_case(setup_of(spool_at="inside_low", board_at="inside_low"), CATALOGUE)
    over = {name: answer.values[f"case_{name}"] - answer.solved.low for name in ("spool", "board")}
    fact("spool over the air around it", over["spool"], -1.0, 3.0, "K")
    fact("board over the air around it, by its own 8 W", over["board"], 10.0, 35.0, "K")


def test_a_heater_without_a_set_value_is_off(fact):
    off = solved(COLD_BED, "panelled_frame", **(HEATED | {"target_c": 0.0}), heater_at="floor")
    fact("heater without a set value", off.power, 0.0, 0.0, "W")
