"""A hotend put together from the shelf: slots, what comes of a build, watts, the cheapest that does."""

from __future__ import annotations

import math

import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.choices.build.cheapest import little, meets, search
from zeotherm.core.choices.build.cold_side import cold_side
from zeotherm.core.choices.build.judged import HEAT_UP, MOST_FLOW, first_built, fully_built
from zeotherm.core.choices.build.slots import candidates, chosen_in, emptied, filled, fitted_in
from zeotherm.core.choices.build.wanted import wanted_of
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.build import Build
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.parts.enclosure.judge.warmth import air_late
from zeotherm.core.parts.hotend.model.inputs import resolve
from zeotherm.core.parts.power.judge.voltage import matrix
from zeotherm.core.parts.whole.run import heat_up, simulate
from zeotherm.wording.build import open_points, verdict

CATALOGUE = shipped()
SHORT = {"schedule": {"print_min": 30.0, "cool_min": 0.0, "soak_min": 0.0}}
LINED = patched(Setup(), {"hotend": {"template": "compact_lined", "break_part": "lined_steel"}, **SHORT})
METAL = patched(Setup(), SHORT)
FEW = ("plate_cold_end", "slim_all_metal", "lined_titanium", "axial_40_24v", "silicone", "brass")
EVERYTHING = frozenset(Setup().paths())


@pytest.fixture(scope="module")
def metal():
    return simulate(METAL, CATALOGUE)


@pytest.fixture(scope="module")
def lined():
    return simulate(LINED, CATALOGUE)


def wanted(run, **asked):
    return wanted_of(Build(**asked), run.setup, air_late(run), CATALOGUE)


def built(run, change=None, known=EVERYTHING, **asked):
    return first_built(run.setup, change or {}, wanted(run, **asked), run, known)


def with_part(run, slot: str, key: str, change=None):
    one = next(one for one in candidates(slot, run.setup, run.setup, CATALOGUE, {}) if one.key == key)
    return filled(change or {}, one, run.setup, CATALOGUE)


def test_what_nobody_asked_for_is_as_the_job_is_set(metal):
    found = wanted(metal)
    printing = METAL.printing
    assert (found.plastics, found.nozzle, found.flow) == ((printing.filament,), printing.nozzle_c, printing.flow_mm3_s)
    assert found.least_flow == 0.5 * found.flow
    assert found.air == METAL.surroundings.fan_air_c
    two = wanted(metal, plastics=["abs", "none such", "petg"], nozzle_c=255.0)
    assert two.plastics == ("abs", "petg")
    assert two.nozzle_for("petg", CATALOGUE) <= CATALOGUE.filaments["petg"].usual_range[1]
    assert two.hottest(CATALOGUE) == "abs"
    assert set(two.at_others(CATALOGUE)) <= {"petg"}


def test_a_nozzle_hotter_than_its_plastic_stands_is_said_not_clipped(metal):
    found = built(metal, plastics=["pla"], nozzle_c=290.0)
    assert found.setup.printing.nozzle_c == 290.0
    assert found.row("clash:plastic_too_hot").state is State.OVER
    assert not found.meets_all


@pytest.mark.parametrize("slot", CATALOGUE.slots)
def test_every_slot_offers_what_fits_with_what_is_there_first(slot):
    offers = candidates(slot, METAL, METAL, CATALOGUE, {})
    assert offers[0].fitted
    assert not offers[0].change
    assert len({one.key for one in offers}) == len(offers)
    for one in offers[1:]:
        change = filled({}, one, METAL, CATALOGUE)
        after = patched(METAL, change)
        assert chosen_in(CATALOGUE.slots[slot], change, CATALOGUE)
        assert after != METAL or one.cost == 0.0
        assert not chosen_in(CATALOGUE.slots[slot], emptied(change, CATALOGUE.slots[slot], CATALOGUE), CATALOGUE)


def test_a_hotend_of_the_other_bore_brings_its_break_and_takes_what_was_in_it_along(metal):
    change = with_part(metal, "break", "titanium", with_part(metal, "nozzle", "hardened"))
    change = with_part(metal, "hotend", "compact_lined", change)
    after = patched(METAL, change).hotend
    assert CATALOGUE.breaks[after.break_part].bore == "liner"
    assert (after.nozzle, after.block) == ("own", "own")
    back = emptied(change, CATALOGUE.slots["hotend"], CATALOGUE)
    assert patched(METAL, back).hotend.template == METAL.hotend.template


def test_a_hotend_for_other_filament_is_no_candidate():
    keys = {one.key for one in candidates("hotend", METAL, METAL, CATALOGUE, {})}
    assert "strand_285_all_metal" not in keys


def test_a_fan_for_other_volts_gets_what_the_supply_gives(metal):
    fan = patched(METAL, with_part(metal, "cooling", "axial_30_12v")).fan
    assert (fan.part, fan.voltage_v) == ("axial_30_12v", METAL.hotend.supply_v)
    found = built(metal, with_part(metal, "cooling", "axial_30_12v"))
    row = found.row("volts:fan")
    assert row is not None
    assert row.state is State.OVER
    assert row.wrong.times == pytest.approx(4.0, rel=0.05)


def test_volts_make_watts_by_the_square():
    told = matrix((5.0, 12.0, 24.0, 48.0))
    for (rated, gets), times in told.items():
        assert times == pytest.approx((gets / rated) ** 2)
    assert told[12.0, 24.0] == 4.0
    assert told[24.0, 12.0] == 0.25


def test_the_shops_own_price_counts():
    offers = {one.key: one for one in candidates("nozzle", METAL, METAL, CATALOGUE, {("nozzles", "carbide"): 1.5})}
    assert offers["carbide"].cost == 1.5


def test_what_nobody_entered_is_never_clear(metal):
    found = built(metal, known=frozenset())
    assert all(one.state is not State.CLEAR for one in found.slots)
    change = with_part(metal, "sensor", "platinum_100")
    picked = built(metal, change, known=frozenset())
    sensor = next(one for one in picked.slots if one.slot == "sensor")
    assert sensor.known
    amplifier = picked.row("clash:amplifier")
    assert amplifier is not None
    assert amplifier.state is State.UNKNOWN


def test_parts_that_do_not_go_into_each_other_are_said_and_nothing_is_solved(metal):
    found = built(metal, {"hotend": {"nozzle": "brass_long"}})
    row = found.row("fits")
    assert row is not None
    assert "long melt" in row.refusal
    assert row.slot == "nozzle"
    assert not found.meets_all


def test_a_lined_hotend_asked_for_a_hot_plastic_is_over_at_its_liner(lined):
    found = built(lined, plastics=["abs"], nozzle_c=260.0)
    assert not found.meets_all
    liner = next(one for one in found.slots if one.slot == "hotend")
    assert liner.state is State.OVER
    assert found.row("clash:liner_too_hot") is None  # the limit says it, once is enough
    metal = built(lined, with_part(lined, "hotend", "slim_all_metal"), plastics=["abs"], nozzle_c=260.0)
    assert metal.row("liner_end").state is State.CLEAR


def test_bands_flow_and_heat_up_of_a_whole_build(metal):
    found = fully_built(built(metal, flow_mm3_s=6.0, hot_within_s=90.0), EVERYTHING)
    late, flow = found.row(HEAT_UP), found.row(MOST_FLOW)
    assert late.margin.value == pytest.approx(heat_up(found.setup, CATALOGUE))
    assert late.margin.room == pytest.approx(90.0 - late.margin.value)
    assert flow.margin.room == pytest.approx(1e9 * found.melts - 6.0)
    assert found.row("exit_core") is None  # the flow tells it
    assert all(one.margin.band is not None for one in found.rows if one.margin is not None)


def test_a_heavier_block_warms_slower_and_more_watts_quicker():
    base = heat_up(METAL, CATALOGUE)
    assert heat_up(patched(METAL, {"hotend": {"block": "copper"}}), CATALOGUE) > 1.1 * base
    assert heat_up(patched(METAL, {"hotend": {"heater_power_w": 60.0}}), CATALOGUE) < 0.75 * base
    assert math.isinf(heat_up(patched(METAL, {"hotend": {"heater_power_w": 5.0}}), CATALOGUE))


def test_a_search_says_what_each_part_is_for_and_that_nothing_is_cheaper(lined):
    offers = {slot: tuple(one for one in candidates(slot, LINED, LINED, CATALOGUE, {}) if one.key in FEW)
              for slot in CATALOGUE.slots}  # fmt: skip
    asked = wanted(lined, plastics=["abs"], nozzle_c=255.0)
    *steps, last = search(LINED, asked, lined, EVERYTHING, offers=lambda slot: offers[slot])
    early = next(one for one in steps if one.early is not None)
    assert early.best is None, "one that does is told before the cheapest is known"
    assert meets(early.does, asked.sure)
    assert early.early_price >= last.price
    assert last.over
    assert last.proved
    assert last.best is not None
    assert "hotend" in last.needed
    assert {one.slot for one in last.best.slots if one.chosen} == set(last.needed)
    assert last.second is None or last.second_price >= last.price
    told = {one.label: one for one in little(last)}
    assert "40 mm axial, 24 V" in told  # a fan does nothing for a liner at the nozzle
    assert abs(told["40 mm axial, 24 V"].gain) < 1.0


def test_what_is_fitted_and_does_needs_nothing(metal):
    (only,) = search(METAL, wanted(metal), metal, EVERYTHING)
    assert only.best is not None
    assert only.best.change == {}
    assert only.price == 0.0


def test_a_cartridge_of_no_shelf_is_told_by_its_stamp(metal):
    odd = patched(METAL, {"hotend": {"heater_power_w": 33.0}})
    slot = CATALOGUE.slots["cartridge"]
    assert fitted_in(slot, odd, CATALOGUE) == ""
    assert candidates("cartridge", odd, odd, CATALOGUE, {})[0].label == "24 V, 33 W"
    assert fitted_in(slot, METAL, CATALOGUE) == "v24_w40"


def test_a_cold_side_says_what_it_gets_and_what_it_wants(metal):
    warm = wanted(metal, plastics=["pla", "petg"], air_c=55.0)
    found = cold_side(METAL, warm, metal)
    assert found.plastic == "pla"
    assert found.stops_at is not None
    assert (found.wants is None or found.wants > found.flow) == (found.stops_at < 55.0)
    cool = cold_side(METAL, wanted(metal, plastics=["pla"], air_c=15.0), metal)
    assert cool.wants < cool.flow


def test_every_cartridge_warms_the_machine_by_its_stamp_and_its_supply():
    for one in candidates("cartridge", METAL, METAL, CATALOGUE, {}):
        cartridge = CATALOGUE.cartridges[one.key]
        power = resolve(patched(METAL, filled({}, one, METAL, CATALOGUE)), CATALOGUE).inputs.heater_power
        stamped = cartridge.power_w.value * (METAL.hotend.supply_v / cartridge.rated_v) ** 2
        assert power == pytest.approx(stamped, rel=0.06)  # less what its wiring takes


def test_what_is_still_to_be_looked_up_is_said_and_never_sound(metal):
    change = with_part(metal, "sensor", "platinum_100")
    found = fully_built(built(metal, change), EVERYTHING)
    assert open_points(found, CATALOGUE) == "Still to look up: sensor needs an amplifier."
    assert verdict(found, CATALOGUE).state is State.UNKNOWN
    told = fully_built(built(metal, known=frozenset()), frozenset())
    assert "heat break" in verdict(told, CATALOGUE).reason
    assert "more." in verdict(told, CATALOGUE).reason  # figures of no slot count as well
    partly = fully_built(built(metal, known=EVERYTHING - {"hotend.sink_joint"}), EVERYTHING - {"hotend.sink_joint"})
    assert partly.open == ("Paste on the heat break",)
    assert verdict(partly, CATALOGUE).state is State.UNKNOWN
    assert found.open == ()
    whole = fully_built(built(metal), EVERYTHING)
    assert open_points(whole, CATALOGUE) == ""
    assert verdict(whole, CATALOGUE).state in (State.CLEAR, State.CLOSE)
