"""Causes: what the catalogue must be, how facts move the ranking, what is checked next, cold ohms."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
from pydantic import ValidationError

from tests.bench_facts.machines import machine
from zeotherm.core.catalogue import shipped
from zeotherm.core.causes.effects import effects
from zeotherm.core.causes.next_check import plan
from zeotherm.core.causes.ohms import cold_ohms, told_by
from zeotherm.core.causes.outcomes import GRID, Outcome, outcome
from zeotherm.core.causes.ranking import Facts, Table
from zeotherm.core.causes.worlds import AS_FOUND, departures, hypotheses, sound_machine
from zeotherm.core.machine.documents import Reading, Setup, patched
from zeotherm.core.machine.intake import Ohms
from zeotherm.core.machine.patches import patch_at
from zeotherm.core.parts.hotend.judge.risk import FailureWay, Risk
from zeotherm.wording import causes as causes_words

CATALOGUE = shipped().of_trouble("hotend")
LINED = {"hotend": {"template": "compact_lined", "break_part": "lined_steel"}}
CASED = {"surroundings": {"air_from": "case"}, "case": {"part": "side_vented", "vents_open_pct": 100.0}}


def table(setup: Setup | None = None, outcomes=None, shop=None) -> Table:
    setup = setup or Setup()
    return Table(hypotheses(setup, CATALOGUE), outcomes or {}, CATALOGUE, shop)


def facts(**answers: str) -> Facts:
    return Facts({asked: (option,) for asked, option in answers.items()})


def shares(found: Table, given: Facts) -> dict[str, float]:
    return {one.key: one.probability for one in found.rank(given).causes}


def ran(fails=0.9, soak=0.8, **cures: float) -> Outcome:
    """A world that fails late in a share of cases, between forty minutes and four hours."""
    failed = np.interp(np.log(GRID), np.log([60.0, 300.0, 2400.0, 14400.0]), [0.0, 0.5 * (1 - soak), 1 - soak, 1.0])
    stations = {"sink_base": np.array([20.0, 55.0])}
    times, widths = np.array([0.0, 7200.0]), {"sink_base": 3.0}
    return Outcome(fails, failed, Risk(()), cures, times, 9.0, stations, widths)


def all_ran(found: Table, like: dict[str, Outcome], other: Outcome) -> Table:
    outcomes = {i: like.get(one.cause, other) for i, one in enumerate(found.worlds) if one.setup is not None}
    return Table(found.worlds, {**outcomes, AS_FOUND: other}, CATALOGUE, found.shop)


def test_probabilities_sum_to_one_and_every_number_has_its_reason():
    ranking = table().rank(facts(goes_wrong="thin", when="at_once"))
    assert sum(one.probability for one in ranking.causes) == pytest.approx(1.0)
    for cause in CATALOGUE.causes.values():
        assert cause.why
        assert cause.mends
        assert all(len(reason) > 3 for _share, reason in cause.shows.values())


@pytest.mark.parametrize("key", [key for key in CATALOGUE.causes if key != "other"])
def test_every_cause_leads_when_all_speaks_for_it(key):
    cause = CATALOGUE.causes[key]
    setup = patched(Setup(), {**CASED, **(LINED if cause.bore == "liner" else {})})
    best: dict[str, tuple[float, str]] = {}
    for answer, (share, _reason) in cause.shows.items():
        asked, _dot, option = answer.partition(".")
        if share > best.get(asked, (0.3, ""))[0]:
            best[asked] = (share, option)
    told = Facts({asked: (option,) for asked, (_share, option) in best.items()})
    found = table(setup)
    outcomes = {key: ran(0.97, shade=0.9) if key == "sun_room" else ran(0.97)}
    first = [one.key for one in all_ran(found, outcomes, ran(0.3)).rank(told).causes][:3]
    assert key in first


def test_unknown_is_not_no():
    found = table()
    silent = shares(found, facts(goes_wrong="nothing"))
    against = shares(found, facts(goes_wrong="nothing", needle="same"))
    for_it = shares(found, facts(goes_wrong="nothing", needle="frees"))
    assert against["clog"] < silent["clog"] < for_it["clog"]


def test_a_late_failure_speaks_for_what_warms_the_surroundings_and_against_dirt():
    found = table(patched(Setup(), CASED))
    late, early = (shares(found, facts(goes_wrong="nothing", when=when)) for when in ("soak", "at_once"))
    worlds = all_ran(found, {"warm_case": ran(soak=0.95), "long_retract": ran(soak=0.05)}, ran(fails=0.03))
    simulated = shares(worlds, facts(goes_wrong="nothing", when="soak"))
    assert late["clog"] < early["clog"]
    assert simulated["warm_case"] > 3.0 * late["warm_case"]
    assert simulated["warm_case"] > simulated["long_retract"]


def test_a_world_that_prints_on_speaks_against_its_cause():
    found = table(patched(Setup(), CASED))
    fails = all_ran(found, {"lint": ran(fails=0.95)}, ran(fails=0.5))
    prints = all_ran(found, {"lint": ran(fails=0.03)}, ran(fails=0.5))
    given = facts(goes_wrong="nothing", when="soak")
    assert shares(prints, given)["lint"] < 0.4 * shares(fails, given)["lint"]
    lint = next(one for one in prints.rank(given).causes if one.key == "lint")
    assert any(item.key == "prints_on" for item in lint.evidence)


def test_a_reading_is_held_against_its_own_hour_with_a_band():
    found = all_ran(table(), {}, ran())
    given = Facts({}, {"sink_base": Reading(value=38.0, clock_h=10.0)})
    shown = next(item for item in found.rank(given).first.evidence if item.key == "sink_base")
    assert shown.predicted == pytest.approx((37.5 - 3.0, 37.5 + 3.0))


def test_contradictions_and_what_no_cause_explains_are_said():
    found = all_ran(table(), {}, ran())
    assert found.rank(facts(goes_wrong="nothing", hand_feed="free")).contradictions == ("nothing_and_free",)
    hot = Facts({}, {"sink_base": Reading(value=140.0)})
    assert found.rank(hot).unexplained == ("sink_base",)
    assert found.rank(Facts({}, {"sink_base": Reading(value=54.0)})).unexplained == ()


def test_causes_that_the_facts_do_not_part_are_named():
    ranking = table().rank(facts(goes_wrong="thin", drive="slips", hand_feed="free", gear="shallow"))
    leading = {ranking.causes[0].key, ranking.causes[1].key}
    assert leading == {"worn_gear", "idler_soft"}
    assert [set(pair[:2]) for pair in ranking.alike] == [leading]
    assert ranking.alike[0][2] in ("gear_look", "idler")


def test_what_is_refuted_is_ruled_out_by_name():
    given = facts(goes_wrong="corners", when="at_once", pressure_off="cured", hand_feed="free")
    ranking = table().rank(given)
    assert ranking.first.key == "pressure_lead"
    dead = next(one for one in ranking.causes if one.key == "fan_dead")
    assert dead.ruled_out_by is not None
    assert dead.ruled_out_by.key in ("goes_wrong.corners", "pressure_off.cured")


def test_nothing_is_bought_before_a_free_check_could_refute_it():
    setup = patched(Setup(), CASED)
    found = all_ran(table(setup), {}, ran())
    for given in (facts(), facts(goes_wrong="nothing", when="soak"), facts(goes_wrong="thin", strand="curls")):
        checks = plan(found, given, setup).checks
        assert checks
        assert not any(CATALOGUE.checks[one.key].buys for one in checks)


def test_fan_checks_come_early_by_themselves_where_it_fails_late():
    setup = patched(Setup(), CASED)
    found = all_ran(table(setup), {}, ran(substitute_air=0.9))
    checks = plan(found, facts(goes_wrong="nothing", when="soak"), setup).checks
    assert sum(CATALOGUE.checks[one.key].fan for one in checks[:3]) >= 2
    substitute = next(one for one in checks if one.key == "substitute_air")
    assert substitute.outlasts == pytest.approx(1.5 * ran().time(0.5))


def test_what_was_done_or_left_out_is_not_offered_again():
    setup = Setup()
    first = plan(table(), facts(goes_wrong="thin"), setup).checks[0].key
    assert first not in [one.key for one in plan(table(), facts(goes_wrong="thin"), setup, [first]).checks]
    option = next(iter(CATALOGUE.checks[first].options))
    done = plan(table(), facts(goes_wrong="thin", **{first: option}), setup).checks
    assert first not in [one.key for one in done]


def test_branches_say_what_each_answer_would_do():
    found, given = table(), facts(goes_wrong="thin", strand="curls")
    one = next(item for item in plan(found, given, Setup()).checks if item.key == "needle")
    assert sum(branch.probability for branch in one.branches) == pytest.approx(1.0)
    for branch in one.branches:
        after = found.rank(Facts({**given.answers, "needle": (branch.option,)}))
        assert after.first.key == branch.first
        assert after.first.probability == pytest.approx(branch.after, abs=1e-6)
    assert one.bits > 0.0


def test_asking_stops_once_one_cause_is_sure():
    given = facts(goes_wrong="nothing", bend="snaps", plug="snapped", age="months", other_spool="cured")
    stopped = plan(table(), given, Setup())
    assert stopped.enough
    assert stopped.why == "decided"


def test_the_shops_own_jobs_shift_what_is_common():
    plain, shop = table(), table(shop={"wet": 30})
    assert shop.priors["wet"] > 3.0 * plain.priors["wet"]
    assert sum(shop.priors.values()) == pytest.approx(1.0)


def test_causes_follow_the_machine():
    metal = {one.cause for one in hypotheses(Setup(), CATALOGUE)}
    lined = {one.cause for one in hypotheses(patched(Setup(), LINED), CATALOGUE)}
    opened = {one.cause for one in hypotheses(patched(Setup(), {"surroundings": {"air_from": "room"}}), CATALOGUE)}
    assert {"liner_gap", "coupler_play"} <= lined - metal
    assert {"long_retract", "cold_restart"} <= metal - lined
    assert "warm_case" not in opened


def test_the_machine_found_is_set_right_before_one_cause_is_put_in():
    setup = patched(Setup(), {**CASED, "fan": {"guard_blocked_pct": 90.0}, "printing": {"retraction_mm": 4.0}})
    off = departures(setup, CATALOGUE)
    assert set(off) == {"fan.guard_blocked_pct", "printing.retraction_mm"}
    sound = sound_machine(setup, CATALOGUE, off)
    assert (sound.fan.guard_blocked_pct, sound.printing.retraction_mm) == (0.0, 1.0)
    lint = [one for one in hypotheses(setup, CATALOGUE) if one.cause == "lint"]
    assert [one.setup.fan.guard_blocked_pct for one in lint] == [90.0]
    assert [sign.path for sign in lint[0].signs] == ["fan.guard_blocked_pct"]


def test_a_world_is_blamed_only_for_what_a_sound_machine_would_not_do():
    setup = patched(Setup(), {"fan": {"voltage_v": 0.0}, "schedule": {"print_min": 60.0, "cool_min": 0.0}})
    alone = outcome(setup, CATALOGUE)
    assert alone.fails > 0.9
    assert alone.between(40.0, None) < 0.5
    assert outcome(setup, CATALOGUE, anyway=alone.risk).fails < 0.1


def test_what_causes_do_is_told_by_the_model():
    setup = machine(35.0, schedule__print_min=240.0)
    sound, dead, weak, starved = itertools.islice(effects(setup, CATALOGUE), 4)
    assert (sound.cause, dead.cause, weak.cause, starved.cause) == ("", "fan_dead", "fan_weak", "fan_weak")
    assert math.isinf(sound.hours)
    assert dead.hours < 0.2
    assert sound.jams_above > weak.jams_above > starved.jams_above > dead.jams_above
    assert sound.base < weak.base < starved.base < dead.base
    assert causes_words.changed(sound.setup, dead.setup, CATALOGUE) == ["Fan voltage 0.0 V"]
    assert [causes_words.lasts(hours) for hours in (math.inf, 0.1, 2.0)] == ["never", "6 min", "2.0 h"]


def test_a_way_to_fail_rises_through_its_quantiles():
    way = FailureWay(100.0, 1000.0, 5000.0, "feed")
    assert [round(way.by(time), 2) for time in (10.0, 100.0, 1000.0, 5000.0, 1e6)] == [0.0, 0.1, 0.5, 0.9, 1.0]


@pytest.mark.parametrize(
    ("patch", "where"),
    [
        ({"causes": {"clog": {"shows": {"needle.nothing": [0.5, "no such answer"]}}}}, "causes.clog.shows"),
        ({"causes": {"clog": {"shows": {"needle.frees": [0.9, "much"], "needle.same": [0.9, "too"]}}}}, "sum to 1.80"),
        ({"causes": {"clog": {"remedies": ["magic"]}}}, "causes.clog.remedies"),
        ({"causes": {"clog": {"domain": "weather"}}}, "causes.clog.domain"),
        ({"questions": {"depends": {"options": {"hour": {"label": "x", "base": 0.06, "cured_by": "y"}}}}}, "cured_by"),
        ({"questions": {"when": {"options": {"soak": {"label": "x", "base": 0.9}}}}}, "sum to 1.70"),
    ],
)
def test_a_wrong_catalogue_is_refused_with_its_field(patch, where):
    with pytest.raises(ValidationError, match=where):
        CATALOGUE.with_own(patch)


@pytest.mark.parametrize(
    ("read", "kinds", "answer"),
    [
        (Ohms(heater=14.3, sensor=113e3), {"heater": "expected", "sensor": "expected"}, "expected"),
        (Ohms(heater=3.7), {"heater": "other_voltage"}, "heater_off"),
        (Ohms(heater=14.3, sensor=1090.0), {"heater": "expected", "sensor": "other_sensor"}, "sensor_off"),
        (Ohms(heater=0.1, sensor=113e3), {"heater": "short", "sensor": "expected"}, "broken"),
        (Ohms(sensor=2e7), {"sensor": "open"}, "broken"),
        (Ohms(heater=14.3), {"heater": "expected"}, None),
        (Ohms(), {}, None),
    ],
)
def test_cold_ohms_tell_what_is_fitted(read, kinds, answer):
    found = cold_ohms(Setup(), CATALOGUE, read)
    assert {one.what: one.kind for one in found if one.kind} == kinds
    assert told_by(found) == answer


def test_cold_ohms_name_what_they_would_fit():
    heater = next(one for one in cold_ohms(Setup(), CATALOGUE, Ohms(heater=3.7)) if one.what == "heater")
    assert (heater.expected, heater.fits) == (pytest.approx(14.4), "12 V")
    cold = patched(Setup(), patch_at("hotend.sensor", "platinum"))
    sensor = next(one for one in cold_ohms(cold, CATALOGUE, Ohms(sensor=114e3)) if one.what == "sensor")
    assert "Bead thermistor" in sensor.fits
