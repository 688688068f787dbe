"""The bed's twin and what is judged of it."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from zeotherm.core.catalogue import shipped
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.parts.bed.judge.answer import airs_of, first_bed, heated, moment, room_air, with_course
from zeotherm.core.parts.bed.judge.cutting import cut_list, outline, sheets_for
from zeotherm.core.parts.bed.judge.rivals import rivals
from zeotherm.core.parts.bed.judge.sizing import Costs, Sizer, expansion, feeds, payback
from zeotherm.core.parts.bed.judge.sure import asked_of, full_bed
from zeotherm.core.parts.bed.judge.tuning import held, relay
from zeotherm.core.parts.bed.model.controlled import Controller, controlled, controller_of
from zeotherm.core.parts.bed.model.equivalent import bed_body
from zeotherm.core.parts.bed.model.in_time import run_bed
from zeotherm.core.parts.bed.model.inputs import resolve_bed
from zeotherm.core.parts.bed.model.model import BedModel, solve_bed
from zeotherm.core.parts.bed.model.readout import course_of, read_bed
from zeotherm.core.parts.whole.around import resolve_around

CATALOGUE = shipped()
HEATED = [key for key, bed in CATALOGUE.beds.items() if bed.heater.power_w > 0.0]
FEW = 14


def setup_of(kind: str = "wide_bed", room: float = 9.0, **bed: float | str) -> Setup:
    entry = CATALOGUE.beds[kind]
    given = {"part": kind, "heater_w": entry.heater.power_w, "sheet": entry.sheet, "target_c": 75.0, "aim_c": 70.0}
    return patched(Setup(), {"bed": given | bed, "room": {"mean_c": room, "swing_k": 0.0}})


def model_of(setup: Setup, cells: int = FEW) -> BedModel:
    inputs = resolve_bed(setup, CATALOGUE).inputs
    return BedModel(inputs, inputs.in_room, cells)


def test_at_least_eight_kinds_of_bed_and_what_they_differ_in():
    beds = [CATALOGUE.beds[key] for key in HEATED]
    assert len(beds) >= 8
    assert {bed.outline for bed in beds} == {"rectangle", "round"}
    assert {bed.supply for bed in beds} == {"low voltage", "mains"}
    assert {bed.heater.kind for bed in beds} == {"copper_tracks", "alloy_foil", "wire_pad"}
    assert any(bed.moves for bed in beds)
    assert any(bed.heater.voids for bed in beds)
    assert {bed.sheet for bed in beds} >= {"steel_on_magnet", "glass", "pei"}


@pytest.mark.parametrize("kind", HEATED)
def test_every_kind_holds_its_set_value_and_its_watts_add_up(kind):
    solved = solve_bed(model_of(setup_of(kind)))
    readout = read_bed(solved)
    assert solved.holds
    assert readout.values["bed_sensor"] == pytest.approx(75.0, abs=0.01)
    assert abs(readout.watts.taken_up) < 1e-3 * solved.power
    assert max(readout.values["bed_corner"], readout.values["bed_edge"]) <= readout.values["bed_centre"]
    assert readout.values["bed_heater"] >= 75.0 - 1.0
    temperatures = [one.temperature for one in readout.interfaces]
    assert temperatures[0] == min(temperatures[:-1])  # from the face down to the heater it grows warmer
    assert 9.0 < readout.values["bed_corner"] < 75.0


@settings(max_examples=25, deadline=None)
@given(st.floats(0.5, 30.0), st.floats(0.5, 30.0), st.sampled_from(["cork", "felt", "faced_board", "ceramic_mat"]))
def test_more_insulation_never_raises_the_loss(one, other, material):
    thin, thick = sorted((one, other))
    watts = [solve_bed(model_of(setup_of(insulation=material, insulation_mm=mm), 8)).power for mm in (thin, thick)]
    assert watts[1] <= watts[0] + 0.02


def test_a_bed_that_cannot_reach_its_set_value_says_what_it_reaches():
    solved = solve_bed(model_of(setup_of(heater_w=60.0)))
    assert not solved.holds
    assert solved.power == pytest.approx(solved.available, rel=1e-3)
    assert 30.0 < read_bed(solved).values["bed_sensor"] < 75.0
    run = run_bed(model_of(setup_of(heater_w=60.0)), 600.0, longest=1800.0)
    assert run.warm is None
    assert course_of(run).ready is None


def test_copper_tracks_lose_a_quarter_of_their_power_at_a_hundred_degrees():
    model = model_of(setup_of("middle_bed"))
    hot = model.available(np.full(model.grid.inside.shape, 100.0))
    assert hot / model.inputs.heater == pytest.approx(1 / 1.314, abs=0.01)


def test_four_percent_more_volts_are_eight_more_watts_and_an_earlier_bed():
    usual, more = (model_of(setup_of(volts_pct=volts)) for volts in (100.0, 104.0))
    assert more.inputs.heater / usual.inputs.heater == pytest.approx(1.0816)
    assert run_bed(more, 0.0).warm < run_bed(usual, 0.0).warm


def test_a_sensor_off_the_plate_is_refused_with_where_the_plate_ends():
    with pytest.raises(DoesNotFitError, match="ends 200 mm"):
        resolve_bed(setup_of(sensor_x_mm=230.0), CATALOGUE)
    with pytest.raises(DoesNotFitError, match="round"):
        resolve_bed(setup_of("round_bed", sensor_x_mm=120.0, sensor_y_mm=120.0), CATALOGUE)


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"heater": {"kind": "wire_pad", "power_w": 100.0, "rated_v": 24.0, "border_mm": 160.0}}, "nothing is left"),
        ({"layers": [{"name": "plate", "material": "moon_rock", "mm": 3.0}]}, "no material 'moon_rock'"),
        ({"layers": [{"name": "plate", "material": "aluminium_alloy", "mm": 0.0}]}, "greater than 0"),
        ({"heater": {"kind": "magic", "power_w": 100.0, "rated_v": 24.0, "border_mm": 5.0}}, "'magic'"),
    ],
)
def test_beds_that_cannot_be_are_refused(change, said):
    own = CATALOGUE.beds["wide_bed"].model_dump(mode="json") | change
    with pytest.raises(ValidationError, match=said):
        CATALOGUE.with_own({"beds": {"own": own}})


def test_a_job_of_before_has_its_kinds_watts_and_an_aim():
    bed = Setup.model_validate({**Setup().model_dump(), "bed": {"part": "wide_bed", "target_c": 75.0}}).bed
    assert (bed.heater_w, bed.aim_c) == (450.0, 72.0)


def test_the_network_takes_what_the_bed_is_made_of():
    bare, wrapped = (resolve_around(setup_of(insulation=what), CATALOGUE).around for what in ("none", "felt"))
    assert wrapped.bed_to_air + wrapped.bed_to_wall < 0.8 * (bare.bed_to_air + bare.bed_to_wall)
    assert wrapped.bed_heat > bare.bed_heat


@pytest.mark.parametrize("kind", HEATED)
def test_the_body_of_the_network_loses_about_what_the_field_does(kind):
    setup = setup_of(kind, room=25.0)
    body = bed_body(resolve_bed(setup, CATALOGUE).inputs)
    whole = body.to_air + body.to_wall  # a kelvin of the plate's mean, above which its sensor stands
    held = whole * 50.0 / (1.0 + whole * body.reads_by)
    assert held == pytest.approx(solve_bed(model_of(setup)).power, rel=0.06)


def test_the_course_ends_where_the_bed_rests_and_its_energy_closes():
    run = run_bed(model_of(setup_of()), 3.0 * 3600.0, 3600.0)
    assert run.closure < 1e-6
    assert np.allclose(run.moment(run.off).plate, solve_bed(model_of(setup_of())).plate, atol=0.05)
    assert run.moment(0.0).plate.max() == pytest.approx(9.0)
    assert float(np.nanmax(run.moment(run.off + 3500.0).plate)) < 30.0


def test_a_bed_under_a_print_keeps_its_heat():
    open_face, covered = (read_bed(solve_bed(model_of(setup_of(covered_pct=share)))) for share in (0.0, 80.0))
    assert covered.watts.up < open_face.watts.up
    assert covered.values["bed_centre"] > open_face.values["bed_centre"]


def test_a_draught_cools_the_face():
    still, blown = (read_bed(solve_bed(model_of(setup_of(draught_m_s=speed)))) for speed in (0.0, 1.0))
    assert blown.values["bed_corner"] < still.values["bed_corner"] - 0.5


def test_a_void_is_a_cold_spot_where_it_lies():
    own = CATALOGUE.beds["wide_bed"].model_dump(mode="json")
    own["heater"]["voids"] = [{"x_mm": 100.0, "y_mm": 60.0, "width_mm": 80.0, "depth_mm": 80.0}]
    catalogue = CATALOGUE.with_own({"beds": {"wide_bed": own}})
    inputs = resolve_bed(setup_of(), catalogue).inputs
    solved = solve_bed(BedModel(inputs, inputs.in_room, 28))
    face, on = solved.through.face, solved.model.grid
    there, mirrored = (float((on.weights(x, 0.06) * face).sum()) for x in (0.1, -0.1))
    assert there < mirrored - 0.5


# judged


def test_a_wide_cold_bed_is_short_at_its_corners_and_late():
    setup = setup_of(heater_w=285.0, wanted_min=4.0)
    answer = full_bed(with_course(first_bed(setup, CATALOGUE, cells=FEW)))
    corner, ready = answer.margin("bed_corner"), answer.margin("bed_ready")
    assert corner is not None
    assert ready is not None
    assert corner.state is State.SHORT
    assert ready.state is State.OVER
    assert all(margin.band is not None for margin in answer.margins if margin.room is not None)
    assert all(margin.source for margin in answer.margins)
    gains = {one.path: one.gain for one in answer.strengths}
    assert gains["bed.heater_w"] > 0.0  # a late bed wants watts
    assert answer.strengths == sorted(answer.strengths, key=lambda one: -one.gain)


def test_printed_gains_are_what_solving_that_step_gives():
    setup = setup_of()
    answer = full_bed(with_course(first_bed(setup, CATALOGUE)))
    key = answer.worst.key
    for one in answer.strengths[:3]:
        path = one.path.removeprefix("bed.")
        again = with_course(first_bed(setup_of(**{path: one.to}), CATALOGUE))
        gain = again.margin(key).room - answer.worst.room
        assert one.gain == pytest.approx(gain, abs=max(0.2 * abs(gain), 0.15))


def test_an_insulation_in_its_place_is_held_against_its_class():
    hot = first_bed(setup_of(insulation="packaging_foam", target_c=110.0, clearance_mm=30.0), CATALOGUE, cells=FEW)
    cool = first_bed(setup_of(insulation="packaging_foam", target_c=60.0, clearance_mm=30.0), CATALOGUE, cells=FEW)
    assert hot.margin("bed_insulation").state is State.OVER
    assert cool.margin("bed_insulation").room > 0.0
    assert "bed_insulation_hot" in hot.facts
    assert "bed_insulation_hot" not in cool.facts


def test_a_magnet_past_its_limit_fails():
    answer = first_bed(setup_of(target_c=110.0, heater_w=600.0), CATALOGUE, cells=FEW)
    assert answer.margin("bed_magnet").state is State.OVER


def test_insulation_thicker_than_the_room_below_is_short_of_it():
    answer = first_bed(
        setup_of(insulation="felt", insulation_mm=10.0, clearance_mm=9.0, sag_mm=1.0), CATALOGUE, cells=8
    )
    assert answer.margin("bed_clearance").room == pytest.approx(-2.0)


def test_no_bed_is_no_bed():
    assert not heated(patched(Setup(), {"bed": {"part": "none", "heater_w": 0.0}}), CATALOGUE)
    assert not heated(patched(Setup(), {"bed": {"target_c": 0.0}}), CATALOGUE)
    assert heated(setup_of(), CATALOGUE)


def test_another_moment_of_the_course_can_be_read():
    answer = first_bed(setup_of(), CATALOGUE, cells=8)
    with pytest.raises(ValueError, match="not known"):
        moment(answer, 60.0)
    course = with_course(answer)
    assert moment(course, 60.0).values["bed_centre"] < course.readout.values["bed_centre"]


def test_the_bed_stands_in_its_case(curlew_run):
    airs = airs_of(curlew_run)
    late = airs(0.9 * curlew_run.end)
    assert late.above > room_air(curlew_run.setup)(0.9 * curlew_run.end).above + 3.0


@pytest.fixture(scope="module")
def curlew_run():
    from zeotherm.core.parts.whole.run import simulate

    setup = setup_of("small_bed", room=24.0, target_c=60.0)
    return simulate(
        patched(setup, {"surroundings": {"air_from": "case"}, "case": {"part": "bench_locker", "vents_open_pct": 0.0},
                        "schedule": {"print_min": 60.0, "cool_min": 5.0}}),
        CATALOGUE,
    )  # fmt: skip


# sized


@pytest.fixture(scope="module")
def sizer():
    setup = setup_of(heater_w=285.0, clearance_mm=21.0)
    answer = first_bed(setup, CATALOGUE, cells=FEW)
    return Sizer(setup, CATALOGUE, asked_of(answer), Costs(0.30, 20.0, 6.0 * 3600.0))


def test_savings_diminish_and_their_slope_is_that_of_the_series_resistances(sizer):
    curve = sizer.curve("felt")
    assert (np.diff(curve.watts) < 0.0).all()
    assert curve.marginal(0.003) > curve.marginal(0.010) > curve.marginal(0.020) > 0.0
    assert 0.001 < curve.half < 0.006
    # at the curve's own points: d/dt of U (T - T air) with U = 1 / (R + t/k), at the mean of the underside
    k = CATALOGUE.insulations["felt"].conductivity_w_mk.value
    area, rise, t = 0.12, 75.0 - 9.0, 0.012
    outside = 1.0 / 7.5
    by_hand = area * rise / k / (outside + t / k) ** 2 * 1e-3
    assert curve.marginal(t) == pytest.approx(by_hand, rel=0.2)


def test_what_may_not_be_fitted_is_blocked_with_the_number(sizer):
    foam = sizer.sized("packaging_foam", 0.010)
    assert foam.too_hot
    assert foam.warm_side == pytest.approx(75.5, abs=2.0)
    thick = sizer.sized("felt", 0.025)
    assert thick.too_thick
    assert thick.spare == pytest.approx(-0.005)
    best = sizer.best("felt")
    assert best is not None
    assert best.allowed
    assert best.thickness == 0.010
    assert sizer.best("packaging_foam") is None


def test_a_saving_pays_its_cost_back(sizer):
    felt = sizer.sized("felt", 0.010)
    assert felt.saved_watts == pytest.approx(45.0, abs=8.0)
    assert felt.saved_joules == pytest.approx(felt.saved_watts * 6.0 * 3600.0, rel=0.05)
    assert felt.saved_money == pytest.approx(felt.saved_joules / 3.6e6 * 0.30 * 20.0)
    assert felt.payback_months == pytest.approx(felt.cost / felt.saved_money)
    assert payback(10.0, 0.0) == math.inf
    assert payback(10.0, -1.0) == math.inf


def test_watts_for_a_time_have_the_bed_ready_in_that_time(sizer):
    watts = sizer.watts_for(600.0, 5.0)
    assert watts is not None
    again = setup_of(heater_w=watts, room=5.0, clearance_mm=21.0)
    assert course_of(run_bed(model_of(again), 900.0)).ready == pytest.approx(600.0, rel=0.03)
    assert sizer.watts_for(5.0, 5.0) is None
    heavier = replace(model_of(again).inputs, mass=1.08)
    late = course_of(run_bed(BedModel(heavier, heavier.in_room, FEW), 900.0)).ready - 600.0
    assert late > 10.0
    assert 0.03 * watts < sizer.heater_band(watts, 5.0) < 0.4 * watts


def test_what_a_bed_reaches_in_the_coldest_room(sizer):
    assert sizer.reachable(0.0) < sizer.reachable(20.0)
    assert 3.0 < sizer.reachable_band(0.0) < 30.0


def test_a_saving_carries_its_band(sizer):
    felt = sizer.sized("felt", 0.010)
    assert 0.05 * felt.saved_watts < felt.band < 0.5 * felt.saved_watts


def test_a_preheat_is_staged_within_the_supply(sizer):
    roomy, tight = sizer.staged(500.0, 25.0, 40.0), sizer.staged(300.0, 25.0, 40.0)
    assert roomy.together
    assert not tight.together
    assert tight.throttled_to == pytest.approx(235.0)
    assert tight.bed_first < tight.throttled
    assert 0.02 * tight.bed_first < tight.band < 0.4 * tight.bed_first
    assert sizer.staged(60.0, 25.0, 40.0).throttled is None


def test_a_mains_bed_takes_nothing_from_the_supply():
    answer = first_bed(setup_of("large_mains_bed"), CATALOGUE, cells=FEW)
    sizer_of_mains = Sizer(answer.setup, CATALOGUE, asked_of(answer), Costs(0.30, 20.0, 6.0 * 3600.0))
    staged = sizer_of_mains.staged(120.0, 30.0, 40.0)
    assert staged.together
    assert staged.peak == pytest.approx(70.0)
    assert staged.throttled_to == pytest.approx(sizer_of_mains.bare.heater)
    assert staged.band is not None
    assert not sizer_of_mains.staged(60.0, 30.0, 40.0).together


def test_mains_relieves_the_supply_and_low_voltage_loads_it():
    low, mains = feeds(resolve_bed(setup_of(), CATALOGUE).inputs, 450.0)
    assert (low.supply_watts, mains.supply_watts) == (450.0, 0.0)
    assert low.amps == pytest.approx(18.75)
    assert low.from_outlet > mains.from_outlet
    assert low.density == pytest.approx(450.0 / (35.0 * 25.0 - 6.0 * 2.6), rel=0.02)


def test_the_stack_grows_as_its_layers_do():
    setup = setup_of("round_bed", sheet="bare")
    grown = expansion(resolve_bed(setup, CATALOGUE).inputs, CATALOGUE, setup, 20.0, 120.0)
    by_hand = (0.2e-3 * 25e-6 + 0.1e-3 * 150e-6 + 3e-3 * 23.5e-6) * 100.0
    assert grown == pytest.approx(by_hand)


def test_surprises_are_computed_both_ways():
    setup = patched(setup_of(), {"case": {"part": "bench_locker"}})
    answer = first_bed(setup, CATALOGUE, cells=FEW)
    found = {one.key: one for one in rivals(setup, CATALOGUE, asked_of(answer))}
    assert found["drop_middle"].change > 0.2  # the middle alone leaves the border colder by comparison
    assert found["drop_border"].change < -0.5  # and the border then evens it out
    assert abs(found["peak"].change) < 0.01 * found["peak"].before
    assert found["hold"].change < -0.15 * found["hold"].before
    assert found["case"].change < 0.0  # less heat leaves the bed for the case


# cut


def test_the_cut_list_of_a_wide_bed():
    bed = setup_of(insulation="felt", insulation_mm=10.0).bed
    cut = cut_list(CATALOGUE.beds["wide_bed"], bed, CATALOGUE)
    assert (cut.outline.width, cut.outline.depth, cut.holes, cut.sheets) == (400.0, 300.0, 4, 1)
    holes = 4 * math.pi / 4 * 9.0**2
    assert cut.outline.area == pytest.approx(400.0 * 300.0 - holes - 30.0 * 14.0)
    assert 4.0 < cut.tape_m < 9.0


def test_a_border_cover_has_an_opening_and_a_round_bed_no_corners():
    border = outline(CATALOGUE.beds["wide_bed"], setup_of(insulation="felt", cover="border").bed, CATALOGUE)
    assert border.opening == (240.0, 180.0)
    rounded = outline(CATALOGUE.beds["round_bed"], setup_of("round_bed", insulation="felt").bed, CATALOGUE)
    assert rounded.perimeter == pytest.approx(math.pi * 260.0, rel=1e-6)
    assert replace(rounded, holes=()).area == pytest.approx(math.pi / 4 * 260.0**2)


@given(st.floats(50, 900), st.floats(50, 900))
def test_sheets_cover_what_they_are_cut_for(width, depth):
    count = sheets_for(width, depth, (500.0, 400.0))
    assert count * 500.0 * 400.0 >= (width + 10.0) * (depth + 10.0) * 0.99


# tuned


def test_the_relay_swings_as_the_describing_function_says():
    """Where -1/N(a) of a relay with hysteresis meets the plate's own transfer function, from watts to reading."""
    model, lag = model_of(setup_of(heater_w=285.0)), 6.0
    still = solve_bed(model)
    at, area, inside = still.through, model.grid.area, model.grid.inside
    loss = np.diag(((at.slope_up + at.slope_down + model.mounts) * area + model.plate.edge).ravel())
    units = np.eye(inside.size).reshape(-1, *inside.shape)
    loss += np.array([model.plate.spreading(unit).ravel() for unit in units])
    slab, inner = model.inputs.slabs[0], model.heater_resistance
    heater_lag = slab.capacity * slab.thickness * inner

    def transfer(s: complex) -> complex:
        plate = np.linalg.solve(loss + s * np.diag(model.capacity.ravel()), (model.pattern * area).ravel())
        over = model.inputs.sensor_depth * inner * (model.sensor * model.pattern).sum() * model.sensor_heated
        return (model.sensor.ravel() @ plate + over) / (1.0 + lag * s) / (1.0 + heater_lag * s)

    def wrong(omega: float) -> float:  # -1/N = -π/4d (√(a² - ε²) + jε)
        return (transfer(1j * omega) * 0.5 * still.available).imag + math.pi * 0.3 / 4.0

    omegas = np.linspace(0.05, 1.5, 150)
    omega = float(omegas[np.flatnonzero(np.diff(np.sign([wrong(float(one)) for one in omegas])))[0]])
    assert relay(model, lag).period == pytest.approx(2.0 * math.pi / omega, rel=0.2)


def test_proposed_values_bring_the_bed_up_without_swinging():
    model = model_of(setup_of(heater_w=285.0))
    tuned = relay(model, 6.0)
    course = held(model, tuned, 6.0)
    assert course.over < 3.0
    assert np.abs(course.reads[course.late] - 75.0).max() < 0.5
    assert tuned.line.startswith("M304 P")
    with pytest.raises(ValueError, match="does not bring"):
        relay(model_of(setup_of(heater_w=100.0)), 6.0)


# controlled


def test_a_lagging_sensor_lets_the_bed_run_over():
    model = model_of(setup_of(heater_w=285.0))
    quick, slow = (controlled(model, Controller("relay", lag, 0.5)) for lag in (3.0, 30.0))
    assert quick.over < slow.over
    assert quick.face_swing < slow.face_swing
    assert quick.period < slow.period
    assert quick.reached < slow.reached


def test_in_proportion_a_bed_stays_below_its_set_value_by_what_it_loses():
    """At rest the share of full power is the miss over the band, and that power is what the reading asks."""
    model = model_of(setup_of(heater_w=285.0))
    course = controlled(model, Controller("proportional", 6.0, 5.0), held_for=5400.0)
    low, high = course.swing
    assert high - low < 0.05
    share = (75.0 - low) / 5.0
    assert course.shares[-1] == pytest.approx(share, abs=1e-3)
    there = solve_bed(replace(model, inputs=replace(model.inputs, target=low)))
    assert share * there.available == pytest.approx(there.power, rel=0.01)


def test_controllers_are_read_from_the_setup():
    assert controller_of(setup_of(), CATALOGUE) is None
    given = controller_of(setup_of(control="pid", gain_p=20.0, sensor_lag_s=9.0), CATALOGUE)
    assert (given.law, given.p, given.lag) == ("pid", 20.0, 9.0)
    with pytest.raises(DoesNotFitError, match="witchcraft"):
        controller_of(setup_of(control="witchcraft"), CATALOGUE)


# lifted


def test_a_heater_lifted_by_its_wires_grows_hot_there_and_leaves_the_face_above_cold():
    flat, lifted = (solve_bed(model_of(setup_of(lifted_mm=mm), 40)) for mm in (0.0, 1.0))
    where = lifted.model.grid.share_of(lifted.model.inputs.shape.heater.wires) > 0.9
    assert float((lifted.through.heater - flat.through.heater)[where].max()) > 15.0
    assert float((lifted.through.heater - flat.through.heater)[~where & (lifted.model.lift == 0.0)].max()) < 3.0
    assert abs(read_bed(lifted).watts.taken_up) < 1e-3 * lifted.power


def test_a_lifted_heater_stands_over_its_plate_by_the_gaps_own_resistance():
    lifted = solve_bed(model_of(setup_of(lifted_mm=0.5), 40))
    model, at = lifted.model, lifted.through
    row, column = np.unravel_index(int(np.argmax(model.lift)), model.lift.shape)
    inner = model.heater_resistance[row, column]
    over = inner * (lifted.power * model.pattern[row, column] - at.down[row, column])
    assert at.heater[row, column] - lifted.plate[row, column] == pytest.approx(over, rel=1e-3)
    assert 1.0 / model.lift[row, column] == pytest.approx(0.030 / 0.0005 + 7.6, rel=0.04)


def test_what_is_one_with_its_board_cannot_lift():
    with pytest.raises(DoesNotFitError, match="nothing there can lift"):
        resolve_bed(setup_of("middle_bed", lifted_mm=0.5), CATALOGUE)
