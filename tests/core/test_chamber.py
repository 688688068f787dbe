"""The enclosure's twin and what is judged of it."""

from __future__ import annotations

import math
from dataclasses import replace

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from zeotherm.core.catalogue import shipped
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.parts.enclosure.judge.answer import (
    around_of,
    encloses,
    first_case,
    held_case,
    own_rise,
    time_constant,
    with_case_course,
)
from zeotherm.core.parts.enclosure.judge.sizing import cut_out, gone_wrong, heater_for, tried, vents_for
from zeotherm.core.parts.enclosure.judge.sure import full_case, with_case_bands
from zeotherm.core.parts.enclosure.model.inputs import resolve_chamber, with_chamber_number
from zeotherm.core.parts.enclosure.model.model import FRAME_LOW, LOW, ChamberModel, EnclosureAround
from zeotherm.core.parts.enclosure.model.solved import SolvedChamber, run_chamber, solve_chamber
from zeotherm.core.parts.whole.network import AIR, ROOF
from zeotherm.core.parts.whole.run import History, simulate

CATALOGUE = shipped()
JUMP_SHARE = 5e-3  # of the watts, that a film's jump of 6 % on one face may leave open
CLOSED = [key for key, case in CATALOGUE.cases.items() if case.walls is not None]
PRINTING = EnclosureAround(20.0, 90.0, 0.5, 0.25, 0.4, 0.2, 0.22, 20.0, 10.0)


def setup_of(kind: str = "bench_locker", **case: float | str) -> Setup:
    entry = CATALOGUE.cases[kind]
    size = {"width_mm": entry.width_mm, "depth_mm": entry.depth_mm, "height_mm": entry.height_mm}
    bed = {"part": "middle_bed", "heater_w": 220.0, "target_c": 80.0, "aim_c": 75.0}
    given = {"part": kind, "vents_open_pct": 5.0, **size, **case}
    return patched(Setup(), {"case": given, "bed": bed, "room": {"mean_c": 20.0, "swing_k": 0.0},
                             "surroundings": {"air_from": "case"}})  # fmt: skip


def solved(around: EnclosureAround = PRINTING, kind: str = "bench_locker", **case: float | str) -> SolvedChamber:
    return solve_chamber(ChamberModel(resolve_chamber(setup_of(kind, **case), CATALOGUE).inputs), around)


def test_at_least_eight_kinds_of_case():
    assert len(CATALOGUE.cases) >= 8
    walls = {case.walls for case in CATALOGUE.cases.values()}
    assert walls >= {"fabric", "acrylic", "plywood", "chipboard", "sheet_steel", "lined_steel", None}


@pytest.mark.parametrize("kind", CLOSED)
def test_every_kind_comes_to_rest_and_its_watts_add_up(kind):
    found = solved(kind=kind)
    assert sum(found.lost.values()) == pytest.approx(found.given, rel=1e-6)
    assert 25.0 < found.low < 75.0
    for wall in found.model.inputs.walls:
        assert 20.0 < found.face(wall.name, outer=True) <= found.face(wall.name) + 1e-9
    assert abs(found.high - found.low) < 3.0  # a bed mixes its air


@settings(max_examples=15, deadline=None)
@given(st.sampled_from(CLOSED), st.floats(0.0, 60.0), st.floats(1.0, 40.0))
def test_opening_never_warms_and_watts_never_cool(kind, open_pct, more):
    there, wider = (solved(kind=kind, vents_open_pct=one) for one in (open_pct, open_pct + more))
    assert wider.low <= there.low + 1e-6
    hotter = solved(replace(PRINTING, low=PRINTING.low + more), kind=kind, vents_open_pct=open_pct)
    assert hotter.low >= there.low - 1e-6
    warmer = solved(replace(PRINTING, room=PRINTING.room + 0.3 * more), kind=kind, vents_open_pct=open_pct)
    assert warmer.low >= there.low - 1e-6


HEATER = st.fixed_dictionaries({
    "heater_w": st.sampled_from([0.0, 150.0, 800.0, 3000.0]),
    "heater_at": st.sampled_from(list(CATALOGUE.heater_places)),
    "heater_cap_c": st.sampled_from([0.0, 45.0, 90.0]), "heater_fades_c": st.sampled_from([0.0, 60.0, 140.0]),
    "heater2_w": st.sampled_from([0.0, 400.0]), "heater2_cap_c": st.sampled_from([0.0, 50.0]),
    "target_c": st.sampled_from([0.0, 50.0, 110.0]), "sensor_pct": st.sampled_from([0.0, 50.0, 100.0]),
    "exhaust_m3h": st.sampled_from([0.0, 30.0, 400.0]), "intake_m3h": st.sampled_from([0.0, 30.0, 400.0]),
    "recirculation_m3h": st.sampled_from([0.0, 60.0, 400.0]),
})  # fmt: skip


AT_THE_JUMP = {  # a plate stands where the published film above it jumps: nothing is in balance there to the last watt
    "heater_w": 800.0, "heater_at": "roof", "heater_cap_c": 0.0, "heater_fades_c": 140.0, "heater2_w": 400.0,
    "heater2_cap_c": 0.0, "target_c": 50.0, "sensor_pct": 100.0, "exhaust_m3h": 0.0, "intake_m3h": 30.0,
    "recirculation_m3h": 60.0,
}  # fmt: skip


@settings(max_examples=60, deadline=None)
@given(st.sampled_from(CLOSED), HEATER, st.floats(0.0, 100.0), st.sampled_from(list(CATALOGUE.linings)))
@example("bench_locker", AT_THE_JUMP, 92.0, "bright")
@example(
    "bench_locker", {**AT_THE_JUMP, "sensor_pct": 0.0, "intake_m3h": 0.0, "recirculation_m3h": 0.0}, 71.0, "bright"
)
def test_any_case_that_may_be_described_comes_to_rest(kind, heater, open_pct, lining):
    found = solved(kind=kind, vents_open_pct=open_pct, lining=lining, **heater)
    off = abs(sum(found.lost.values()) - found.given)
    assert off < 1e-6 * found.given + 1e-3 or off < JUMP_SHARE * found.given


@pytest.mark.parametrize("kind", CLOSED)
def test_more_wall_insulation_never_cools_the_air(kind):
    bare, foam, thick = (solved(kind=kind, lining=one) for one in ("none", "foam", "thick_foam"))
    assert bare.low <= foam.low <= thick.low


@pytest.mark.parametrize("kind", CLOSED)
def test_a_bright_lining_cuts_the_beds_watts_and_hardly_moves_the_air(kind):
    bare, bright = solved(kind=kind), solved(kind=kind, lining="bright")
    if CATALOGUE.panels[CATALOGUE.cases[kind].walls].layers[0].material != "bright_film":
        assert bright.bed_watts < bare.bed_watts - 0.5
    assert abs(bright.low - bare.low) < 2.5


def test_a_roof_heater_without_mixing_satisfies_its_sensor_long_before_the_print():
    heater = {"heater_w": 300.0, "target_c": 60.0, "heater_at": "roof", "sensor_pct": 90.0}
    still, mixed, beside = (solved(**{**heater, **more}) for more in ({}, {"recirculation_m3h": 60.0},
                                                                      {"heater_at": "floor"}))  # fmt: skip
    assert still.holds
    assert still.reading == pytest.approx(60.0, abs=0.01)
    assert 15.0 < 60.0 - still.low < 40.0
    assert 60.0 - mixed.low < 0.6 * (60.0 - still.low)
    assert still.low < beside.low < beside.high - 4.0  # its plume warms the roof first, as a bed's does


def test_the_order_of_heater_places_comes_out_of_the_model():
    """Low and several: evenly; one alone lets the roof run ahead; high and blown: soon, and hotter at the roof."""
    heater = {"heater_w": 400.0, "target_c": 60.0, "sensor_pct": 25.0, "vents_open_pct": 0.0}
    bare = replace(PRINTING, bed_up=0.0, bed_down=0.0, bed_rad_up=0.0, bed_rad_down=0.0)
    at = {place: solved(bare, "panelled_frame", **heater, heater_at=place) for place in CATALOGUE.heater_places}
    apart = {place: found.high - found.low for place, found in at.items()}
    assert 1.0 < apart["corners"] < apart["floor"] - 2.0
    assert apart["corners"] < apart["roof_blown"] - 2.0
    assert apart["floor_blown"] < apart["floor"]
    assert apart["roof_blown"] < 0.3 * apart["roof"]
    assert at["roof"].low < 58.0  # all its watts do not reach the print
    assert at["corners"].power < at["roof_blown"].power < at["roof"].power


def test_a_heater_without_a_set_value_is_off_everywhere():
    """In the balance, in its own hours, in its bands and in the machine's hours."""
    setup = setup_of(heater_w=300.0, target_c=0.0)
    answer = with_case_bands(first_case(setup, CATALOGUE))
    bare = first_case(setup_of(), CATALOGUE)
    assert answer.solved.power == 0.0
    assert answer.solved.low == pytest.approx(bare.solved.low, abs=1e-6)
    assert all(share < 1e-12 for shares in answer.bands.shares.values() for name, share in shares.items()
               if name.startswith("heater"))  # fmt: skip
    course = with_case_course(answer, lambda _time: PRINTING, 3600.0, 3000.0)
    assert course.run.joules["heater"] == 0.0
    assert all(mark.case.watts == 0.0 for mark in simulate(setup, CATALOGUE).marks)


def test_frame_and_machine_lag_behind_the_air_in_the_first_minutes():
    """The air is warm minutes before what it warms; at rest both are alike but for what the frame radiates."""
    model = ChamberModel(resolve_chamber(setup_of(heater_w=300.0, target_c=60.0, sensor_pct=25.0), CATALOGUE).inputs)
    run = run_chamber(model, lambda _time: PRINTING, 4.0 * 3600.0)
    soon, late = run.moment(300.0).values, run.moment(4.0 * 3600.0).values
    assert soon[LOW] - soon[FRAME_LOW] > 8.0
    assert 0.0 < late[LOW] - late[FRAME_LOW] < 0.6 * (soon[LOW] - soon[FRAME_LOW])  # it radiates to the walls
    follows = ChamberModel(replace(model.inputs, content_lag=5.0))  # as one with the air
    assert run.moment(300.0).low - run_chamber(follows, lambda _time: PRINTING, 300.0).moment(300.0).low > 3.0


def test_an_exhaust_costs_about_its_enthalpy_flow():
    there, blown = solved(), solved(exhaust_m3h=20.0)
    carried = 20.0 / 3600.0 * 1.16 * 1006.0 * (blown.high - 20.0)
    assert blown.air_lost == pytest.approx(carried, rel=0.15)
    assert 5.0 < there.low - blown.low < 15.0
    ways = {name: watts for name, watts in blown.lost.items() if name in ("gaps", "vents", "exhaust")}
    assert sum(ways.values()) == pytest.approx(blown.air_lost)
    assert max(ways, key=lambda name: ways[name]) == "exhaust"
    assert "exhaust" not in there.lost
    assert 0.0 < blown.radiated < blown.given


def test_an_intake_moves_what_an_exhaust_does_and_both_together_add_to_the_gaps():
    out, into, both = (solved(**one) for one in ({"exhaust_m3h": 20.0}, {"intake_m3h": 20.0},
                                                 {"exhaust_m3h": 20.0, "intake_m3h": 20.0}))  # fmt: skip
    assert into.low == pytest.approx(out.low, abs=1e-6)
    assert into.lost["intake"] == pytest.approx(out.lost["exhaust"])
    assert "exhaust" not in into.lost
    assert "intake" not in both.lost
    flow, stack, passes = both.laws.moved.through, both.laws.moved.stack, 0.85 * 20.0 / 3600.0
    assert flow == pytest.approx(passes + stack)
    assert both.low < out.low - 0.5  # the gaps pass what they would without fans
    assert both.lost["exhaust"] == pytest.approx(both.air_lost * passes / flow)
    for one in (out, into, both):
        assert sum(one.lost.values()) == pytest.approx(one.given, rel=1e-6)


def test_a_case_that_is_blown_into_warns_of_what_comes_out_of_its_gaps():
    assert "case_blown" in first_case(setup_of(intake_m3h=20.0), CATALOGUE).facts
    assert "case_blown" not in first_case(setup_of(exhaust_m3h=20.0), CATALOGUE).facts


@pytest.mark.parametrize(
    "fans", [{"exhaust_m3h": 10.0}, {"exhaust_m3h": 25.0}, {"intake_m3h": 25.0, "exhaust_m3h": 10.0}]
)
def test_the_machines_hours_end_where_a_case_with_fans_comes_to_rest(fans):
    setup = patched(setup_of(**fans), {"schedule": {"print_min": 600.0}})
    run = simulate(setup, CATALOGUE, tolerance=0.3)
    case = first_case(setup, CATALOGUE, arounds=around_of(setup, CATALOGUE, run)).solved
    late = run.bodies(run.off - 1.0)
    assert late[AIR] == pytest.approx(case.low, abs=1.3)  # 0.8 without fans: its walls are one there
    assert late[ROOF] == pytest.approx(case.high, abs=1.3)


def test_recirculation_at_equal_films_never_lowers_the_mean():
    still = ChamberModel(resolve_chamber(setup_of(), CATALOGUE).inputs)
    one = solve_chamber(still, PRINTING)

    class Same(ChamberModel):
        def inner_films(self, faces, low, high, turned):
            return still.inner_films(faces, low, high, 0.0)

    turned = solve_chamber(Same(replace(still.inputs, recirculation=0.02)), PRINTING)
    assert turned.low + turned.high >= one.low + one.high - 0.3


def test_a_case_of_its_own_make_is_refused_where_it_cannot_be():
    locker = CATALOGUE.cases["bench_locker"].model_dump()
    for change, told in (
        ({"gap_cm2": {**locker["gap_cm2"], "value": -3.0}}, "gap_cm2"),
        ({"window_pct": 140.0}, "window_pct"),
        ({"width_mm": 5.0}, "width_mm"),
    ):
        with pytest.raises(ValidationError, match=told):
            CATALOGUE.with_own({"cases": {"mine": {**locker, **change}}})
    thin = {"label": "Nothing", "layers": [{"name": "wall", "material": "plywood", "mm": 0.0}]}
    with pytest.raises(ValidationError, match="mm"):
        CATALOGUE.with_own({"panels": {"thin": thin}})


def test_insulating_the_bed_cools_a_passive_case():
    found = {one.key: one for one in tried(first_case(setup_of(), CATALOGUE))}
    assert found["bed"].by < -0.5
    assert found["bed"].bed_by < -5.0
    assert found["foam"].by > 1.0
    assert found["shut"].by > 1.0
    assert found["exhaust"].by < -4.0
    assert abs(found["recirculation"].by) < 2.0
    assert found["together"].by > found["foam"].by
    assert found["exhaust"].changes > 3.0 * found["recirculation"].changes
    assert found["exhaust"].lost > found["recirculation"].lost
    assert 0.5 < found["exhaust"].follows <= 1.0


def test_preheating_moves_when_not_where():
    answer = first_case(setup_of(), CATALOGUE)
    tau = answer.settles_in
    assert 600.0 < tau < 7200.0
    arounds = around_of(answer.setup, CATALOGUE)
    cold = with_case_course(answer, arounds, 8.0 * tau, 8.0 * tau).run
    late = cold.moment(8.0 * tau)
    assert late.low == pytest.approx(answer.solved.low, abs=0.1)
    model = answer.solved.model
    assert time_constant(model, replace(answer.solved.around, room=25.0)) == pytest.approx(tau, rel=0.2)


@pytest.mark.parametrize(
    ("case", "said"),
    [
        ({"height_mm": 300.0}, "lower than its openings are apart"),
        ({"width_mm": 150.0, "depth_mm": 150.0, "height_mm": 400.0}, "the largest wall has"),
        ({"lining": "gold"}, "gold"),
        ({"heater_at": "moon"}, "moon"),
    ],
)
def test_cases_that_cannot_be_are_refused(case, said):
    with pytest.raises(DoesNotFitError, match=said):
        resolve_chamber(setup_of(**case), CATALOGUE)


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (
            {"gap_cm2": {"value": 1.0, "tolerance": 0.1, "source": "estimate", "confidence": "low"}, "walls": None},
            "two",
        ),
        ({"walls": "moon_cheese"}, "no panel 'moon_cheese'"),
        ({"width_mm": 5.0}, "greater than or equal to 100"),
    ],
)
def test_kinds_that_cannot_be_are_refused(change, said):
    own = CATALOGUE.cases["bench_locker"].model_dump(mode="json") | change
    with pytest.raises(ValidationError, match=said):
        CATALOGUE.with_own({"cases": {"own": own}})
    panel = {"label": "None at all", "layers": [{"name": "board", "material": "plywood", "mm": 0.0}]}
    with pytest.raises(ValidationError, match="greater than 0"):
        CATALOGUE.with_own({"panels": {"own": panel}})


def test_a_case_of_before_has_the_size_of_its_kind():
    data = {**Setup().model_dump(), "case": {"part": "side_vented", "vents_open_pct": 0.0}}
    assert Setup.model_validate(data).case.width_mm == CATALOGUE.cases["side_vented"].width_mm


def test_an_open_machine_has_no_case():
    assert not encloses(patched(Setup(), {"case": {"part": "open_frame"}}), CATALOGUE)
    with pytest.raises(ValueError, match="nothing encloses"):
        first_case(patched(Setup(), {"case": {"part": "open_frame"}}), CATALOGUE)


def test_what_sits_inside_stands_in_its_air_and_what_sits_outside_in_the_room():
    inside, outside, bay = (first_case(setup_of(supply_at=one), CATALOGUE)
                            for one in ("inside_low", "outside", "bay"))  # fmt: skip
    assert inside.values["case_supply"] == pytest.approx(
        inside.solved.low + own_rise(inside.setup, CATALOGUE, CATALOGUE.occupants["supply"]).value
    )
    assert outside.values["case_supply"] == pytest.approx(
        20.0 + own_rise(outside.setup, CATALOGUE, CATALOGUE.occupants["supply"]).value
    )
    assert outside.values["case_supply"] < bay.values["case_supply"] < inside.values["case_supply"]
    assert inside.solved.low > outside.solved.low  # its losses warm the case


def test_bands_and_strengths():
    heated = {"heater_w": 300.0, "target_c": 60.0, "sensor_pct": 25.0}
    case = heated | {"supply_at": "inside_low", "motors_at": "outside", "printed_plastic": "abs"}
    answer = full_case(first_case(setup_of(**case), CATALOGUE))
    supply = answer.margin("case_supply")
    assert supply.state.bad
    assert 3.0 < supply.band.up < 20.0
    best = {one.path: one for one in answer.strengths}
    assert best["case.supply_at"].to == "outside"
    assert best["case.supply_at"].gain > 20.0
    assert answer.complete
    assert {"case", "case_heater"} <= answer.facts
    bare = first_case(answer.setup, CATALOGUE)
    assert with_case_bands(bare).margins[0].band is not None


# sized


def test_a_heater_holds_what_it_is_sized_for():
    answer = first_case(setup_of(), CATALOGUE)
    heater = heater_for(answer, 60.0, 1800.0, 15.0)
    assert 0.0 < heater.hold.band < 0.5 * heater.hold.value
    assert heater.fast.value > heater.hold.value
    given = replace(answer.resolved.inputs, heater=heater.hold.value, target=math.inf)
    again = solve_chamber(ChamberModel(given), replace(answer.solved.around, room=15.0))
    assert again.low == pytest.approx(60.0, abs=0.2)
    assert heater_for(answer, 140.0, 10.0, 0.0).fast is None


def test_how_far_to_open():
    answer = first_case(setup_of(vents_open_pct=0.0), CATALOGUE)
    share = vents_for(answer, answer.solved.low - 5.0)
    assert 0.0 < share.value < 0.5
    opened = first_case(setup_of(vents_open_pct=100.0 * share.value), CATALOGUE)
    assert opened.solved.low == pytest.approx(answer.solved.low - 5.0, abs=0.3)
    assert vents_for(answer, 90.0).value == 0.0
    assert vents_for(answer, 20.5) is None


@pytest.mark.parametrize("name", ["film", "wall_factor", "gap"])
def test_a_size_found_anew_with_one_doubt_lies_within_its_band(name):
    """The bands are of first order: what each doubt does to a size against the size looked for again with it."""
    answer = first_case(setup_of(vents_open_pct=0.0), CATALOGUE)
    doubts, given = answer.resolved.doubts, answer.resolved.inputs
    off = replace(answer.resolved, inputs=with_chamber_number(given, name, getattr(given, name) + doubts[name]))
    alone = replace(answer, resolved=replace(answer.resolved, doubts={name: doubts[name]}))

    def sizes(one):
        heater = heater_for(one, 60.0, 1800.0, 15.0)
        return heater.hold, heater.fast, vents_for(one, answer.solved.low - 5.0)

    solved = solve_chamber(ChamberModel(off.inputs), answer.solved.around)
    for told, again in zip(sizes(alone), sizes(replace(answer, resolved=off, solved=solved)), strict=True):
        assert abs(again.value - told.value) == pytest.approx(told.band, rel=0.15, abs=0.004 * told.value)


def test_a_cut_out_stands_between_control_and_the_weakest_part():
    assert cut_out(first_case(setup_of(), CATALOGUE)) is None
    heated = {"heater_w": 300.0, "target_c": 45.0}
    sound = cut_out(first_case(setup_of(**heated, printed_plastic="abs"), CATALOGUE))
    assert sound.possible
    assert sound.low == 55.0
    assert not sound.blocked
    hot = cut_out(first_case(setup_of(**heated, printed_plastic="abs", cutout_c=120.0), CATALOGUE))
    assert hot.blocked
    crowded = cut_out(first_case(setup_of(**heated, supply_at="inside_low"), CATALOGUE))
    assert not crowded.possible
    assert crowded.weakest == "case_supply"


def test_what_comes_of_a_fault():
    answer = first_case(
        setup_of(heater_w=400.0, target_c=50.0, recirculation_m3h=30.0, supply_at="inside_low"), CATALOGUE
    )
    found = {one.key: one for one in gone_wrong(answer)}
    assert set(found) == {"sticks", "door", "fan"}
    assert found["sticks"].low > answer.solved.low + 10.0
    assert found["sticks"].station
    assert found["sticks"].after < 3600.0
    assert found["door"].low < answer.solved.low
    assert {one.key for one in gone_wrong(first_case(setup_of(), CATALOGUE))} == {"door"}


def _off(run: History) -> float:
    return next(one.start for one in run.stretches if one.kind == "cool")


def test_the_machines_air_and_the_cases_own_agree():
    setup = patched(setup_of(), {"schedule": {"print_min": 240.0, "cool_min": 30.0}})
    run = simulate(setup, CATALOGUE)
    answer = first_case(setup, CATALOGUE, arounds=around_of(setup, CATALOGUE, run))
    late = float(run.bodies(_off(run) - 60.0)[0])
    assert late == pytest.approx(0.5 * (answer.solved.low + answer.solved.high), abs=6.0)
    warmed = simulate(patched(setup, {"case": {"heater_w": 300.0, "target_c": 60.0}}), CATALOGUE)
    assert float(warmed.bodies(_off(warmed) - 60.0)[0]) == pytest.approx(60.0, abs=8.0)
    assert warmed.closure < 1e-6


def test_every_limit_of_a_case_says_its_source():
    resolved = resolve_chamber(setup_of(target_c=60.0), CATALOGUE)
    limits = held_case(setup_of(target_c=60.0), CATALOGUE, resolved)
    assert {one.key for one in limits} >= {"case_wanted", "case_supply", "case_board", "case_spool", "case_printed",
                                           "case_face"}  # fmt: skip
    assert all(one.source for one in limits)


def test_a_door_that_opens_comes_on_the_strip_at_its_time():
    opened = {"door": {"label": "Door opens", "at_min": 90.0, "change": {"case": {"vents_open_pct": 100.0}}}}
    setup = patched(setup_of(heater_w=300.0, target_c=50.0, sensor_pct=25.0), {"faults": opened})
    arounds = around_of(setup, CATALOGUE)
    answer = with_case_course(first_case(setup, CATALOGUE), arounds, 10_800.0, 9000.0)
    run = answer.run
    assert run.moment(5300.0).low == pytest.approx(50.0, abs=1.0)
    assert run.moment(7200.0).low < 45.0
    assert run.moment(7200.0).model.inputs.vents_open == 1.0
    assert run.moment(5300.0).model.inputs.vents_open == 0.05
    assert run.closure < 1e-6
