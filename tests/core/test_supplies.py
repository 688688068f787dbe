"""Several supplies and rails: what hangs on which, what each is asked for, and how they are judged."""

from __future__ import annotations

from itertools import pairwise

import pytest
from pydantic import ValidationError

from tests.all_known import all_known
from zeotherm.core.catalogue import shipped
from zeotherm.core.catalogue.fitting import offering
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.judgement.margins import State
from zeotherm.core.judgement.standing import not_told
from zeotherm.core.machine.documents import Job, Setup, declaration, patched
from zeotherm.core.machine.known import Known
from zeotherm.core.machine.patches import together
from zeotherm.core.machine.supplies import FIRST, MAINS, feeds
from zeotherm.core.parts.enclosure.judge.answer import first_case, occupants
from zeotherm.core.parts.power.judge.answer import PowerAnswer, first_power
from zeotherm.core.parts.power.judge.nets import usual_feed
from zeotherm.core.parts.power.judge.sizing import staged, supply_for
from zeotherm.core.parts.power.judge.sure import with_power_bands
from zeotherm.core.parts.power.judge.voltage import mismatches
from zeotherm.core.parts.power.model.inputs import check_supplies
from zeotherm.core.parts.power.model.model import FULL, Amps, amps_of
from zeotherm.core.parts.power.model.supply import at_wall
from zeotherm.core.parts.whole.around import own_watts
from zeotherm.wording.power import supplies, verdict

CATALOGUE = shipped()
OWN_SWITCH = {"power": {"path": "bed_by_module", "lights_w": 9.0}}
SECOND = {"S2": {"supply": "boxed_fan", "supply_w": 350.0}}
RAIL = {"S3": {"supply": "step_down", "fed_by": FIRST, "out_v": 5.0, "supply_w": 15.0}}


def powered(supplies: dict | None = None, **power) -> PowerAnswer:
    """The power path at rest of an open machine whose bed has a switch of its own."""
    change = {"power": {**OWN_SWITCH["power"], **power}, "supplies": supplies or {}}
    return first_power(patched(Setup(), change), CATALOGUE)


def asked(answer: PowerAnswer) -> dict[str, float]:
    return {one.number: one.asked for one in answer.supplies}


def at_switching_on(answer: PowerAnswer) -> Amps:
    """What flows with everything on and the bed cold."""
    return amps_of(answer.full.model, answer.full, FULL, answer.setup.room.mean_c)


def test_a_bed_on_another_supply_leaves_the_first_one_alone():
    one, two = powered(), powered(SECOND, bed_from="S2")
    bed = two.full.model.inputs.volts * at_switching_on(two).bed
    assert asked(two)["S2"] == pytest.approx(bed, rel=1e-9)
    assert asked(one)[FIRST] == pytest.approx(asked(two)[FIRST] + bed, rel=0.01)
    shared = powered(SECOND, path="bed_on_board", switch="board_transistor", bed_from="S2")
    alone = powered(path="bed_on_board", switch="board_transistor")
    assert shared.full.amps.feed == pytest.approx(shared.full.amps.bed)  # its feed carries the bed's amps alone
    assert alone.full.amps.feed > alone.full.amps.bed + 1.0


def test_a_rail_asks_the_supply_that_feeds_it_for_its_losses_too():
    one, two = powered(), powered(RAIL, lights_from="S3")
    kind = CATALOGUE.supplies["step_down"]
    assert asked(two)["S3"] == 9.0
    assert asked(two)[FIRST] - asked(one)[FIRST] == pytest.approx(at_wall(kind, 9.0, 15.0) - 9.0, abs=0.05)
    chain = powered(RAIL | {"S2": {"supply": "step_down", "fed_by": "S3", "out_v": 4.0}}, lights_from="S2")
    assert asked(chain)["S2"] < asked(chain)["S3"] < asked(chain)["S3"] + asked(one)[FIRST]


def test_each_is_judged_in_its_own_air():
    cased = {"case": {"part": "side_vented", "supply_at": "outside"}, **OWN_SWITCH,
             "supplies": {"S2": {**SECOND["S2"], "supply_at": "inside_low"}}}  # fmt: skip
    setup = patched(Setup(), together(cased, {"power": {"bed_from": "S2"}}))
    answer = with_power_bands(first_power(setup, CATALOGUE))
    keys = {one.key for one in answer.margins}
    assert {"power_load", "power_inlet", "S2.power_load", "S2.power_inlet"} <= keys
    assert not {one for one in keys if one.startswith(("S3", "S4"))}
    assert answer.air.further[0] > answer.air.supply + 1.0
    own = answer.margin("S2.power_load")
    assert own.band.down > 0.0
    assert own.limit == pytest.approx(next(one for one in answer.supplies if one.number == "S2").gives)
    inside = first_case(setup, CATALOGUE)
    assert {one.key for one in inside.margins} >= {"case_supply", "S2.case_supply"}
    without = patched(setup, {"supplies": {"S2": {"supply_at": "outside"}}})
    assert inside.solved.low > first_case(without, CATALOGUE).solved.low  # what it loses warms the case


def test_what_a_supply_gives_off_follows_its_load():
    setup = patched(Setup(), together(OWN_SWITCH, {"supplies": SECOND, "power": {"bed_from": "S2"}}))
    plain = patched(Setup(), OWN_SWITCH)
    first = CATALOGUE.occupants["supply"]
    second = first.model_copy(update={"station": "S2.case_supply", "at": "supplies.S2.supply_at"})
    both = own_watts(setup, CATALOGUE, first), own_watts(setup, CATALOGUE, second)
    assert min(both) >= CATALOGUE.supplies["boxed_fanless"].idle_w
    assert both[0] < own_watts(plain, CATALOGUE, first)
    assert "S2.case_supply" in occupants(setup, CATALOGUE, 25.0, 25.0, 25.0, 101325.0)
    undescribed = patched(setup, {"power": {"path": "unknown"}})
    assert own_watts(undescribed, CATALOGUE, second) > 0.0


def test_an_overloaded_one_leads_the_verdict_by_its_number():
    answer = powered({"S2": {"supply": "brick", "supply_w": 60.0}}, bed_from="S2")
    assert answer.worst.key == "S2.power_load"
    assert answer.worst.state is State.OVER
    assert verdict(answer).headline.startswith("S2 is overloaded by")
    assert answer.tightest.number == "S2"
    assert [line.partition(":")[0] for line in supplies(answer)] == ["S1", "S2"]
    assert supplies(powered()) == []


def test_a_bed_of_the_wrong_voltage_for_its_own_supply_is_told():
    low = patched(Setup(), together(OWN_SWITCH, {"supplies": {"S2": {"out_v": 12.0}}, "power": {"bed_from": "S2"}}))
    told = [one for one in mismatches(low, CATALOGUE) if one.part == "bed"]
    assert not told  # fewer volts: another limit speaks of it
    high = patched(low, {"supplies": {"S2": {"out_v": 48.0}}})
    (one,) = [one for one in mismatches(high, CATALOGUE) if one.part == "bed"]
    assert (one.gets_v, one.burns) == (48.0, True)
    selector = patched(high, {"supplies": {"S2": {"out_v": 24.0, "selector_v": 115.0}}})
    assert [one.part for one in mismatches(selector, CATALOGUE)] == ["supply"]
    assert usual_feed(high, CATALOGUE).volts == 48.0


def test_sizes_speak_of_the_first_supply_without_what_hangs_elsewhere():
    one, two = powered(), powered(SECOND, bed_from="S2")
    assert supply_for(two).asked < supply_for(one).asked
    assert staged(two).at_once == pytest.approx(two.asked)
    assert staged(two).minutes == 0.0  # nothing of the bed can be put off to spare it


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"power": {"bed_from": "S3"}}, "power.bed_from names S3, which is not there"),
        ({"power": {"fans_from": MAINS}}, "power.fans_from names mains"),
        ({"supplies": {"S7": {}}}, "supplies.S7: their numbers are S2 to S4"),
        ({"printed": {"P1": {}}}, "printed.P1: their numbers are P2 to P6"),
        ({"supplies": {"S2": {"fed_by": "S4"}}}, "supplies.S2.fed_by names S4, which is not there"),
        ({"supplies": {"S2": {"fed_by": "S2"}}}, "supplies.S2 feeds itself"),
        ({"supplies": {"S2": {"fed_by": "S3"}, "S3": {"fed_by": "S2"}}}, "feeds itself by way of S3"),
    ],
)
def test_what_cannot_be_wired_is_refused_at_its_place(change, said):
    with pytest.raises(ValidationError, match=said):
        patched(Setup(), change)


@pytest.mark.parametrize(
    ("supply", "path"),
    [
        ({"supply": "step_down"}, "supplies.S2.fed_by"),
        ({"supply": "brick", "fed_by": FIRST}, "supplies.S2.fed_by"),
        ({"supply": "step_down", "fed_by": FIRST, "out_v": 36.0}, "supplies.S2.out_v"),
        ({"supply": "step_up", "fed_by": FIRST, "out_v": 12.0}, "supplies.S2.out_v"),
        ({"supply": "nothing_like_it"}, "supplies.S2.supply"),
    ],
)
def test_a_kind_that_does_not_go_with_what_feeds_it_is_refused(supply, path):
    with pytest.raises(DoesNotFitError) as refused:
        check_supplies(patched(Setup(), {"supplies": {"S2": supply}}), CATALOGUE)
    assert refused.value.path == path


def test_nobody_told_of_it_is_never_sound():
    found = patched(Setup(), together(OWN_SWITCH, {"supplies": SECOND, "power": {"bed_from": "S2"}}))
    known = all_known(Job(found=found))
    left = Job(found=found, known={path: one for path, one in known.known.items() if not path.startswith("supplies.")})
    assert set(not_told(left, "power", CATALOGUE)) >= {"S2.supply_rating", "S2.supply_kind", "S2.supply_age"}
    assert not set(not_told(left, "power", CATALOGUE)) & {"S3.supply_rating", "supply_rating"}
    fact = CATALOGUE.facts["S2.supply_kind"]
    assert fact.label.startswith("S2: ")
    for one in fact.may_be:
        assert patched(found, one.change).supplies["S2"].supply in CATALOGUE.supplies


def test_its_values_are_known_by_path():
    found = patched(Setup(), {"supplies": SECOND})
    job = Job(found=found, known={"supplies.S2.supply_w": Known()}, tolerances={"supplies.S2.out_v": 0.01})
    assert job.found.has("supplies.S2.out_v")
    assert not job.found.has("supplies.S3.out_v")
    assert not job.found.has("supplies.S2.fuse_a")
    assert declaration("supplies.S2.supply_w").label == "S2 supply's rating"
    assert len(found.paths()) == len(set(found.paths()))
    with pytest.raises(ValidationError, match=r"supplies\.S3\.out_v"):
        Job(found=found, known={"supplies.S3.out_v": Known()})
    assert feeds(patched(found, {"power": {"bed_from": "S2"}}), "S2") == ("bed",)


def test_only_what_is_there_may_feed_something():
    setup = patched(Setup(), {"supplies": SECOND | RAIL})
    assert set(offering(declaration("power.bed_from"), setup, CATALOGUE)) == {FIRST, "S2", "S3"}
    assert set(offering(declaration("supplies.S3.fed_by"), setup, CATALOGUE)) == {MAINS, FIRST, "S2"}


def test_a_better_known_supply_narrows_its_band():
    setup = patched(Setup(), together(OWN_SWITCH, {"supplies": SECOND, "power": {"motors_from": "S2"}}))
    widths = []
    for known in ({}, {"power.motors_w": 0.5}, {"power.motors_w": 0.5, "supplies.S2.years": 0.01}):
        banded = with_power_bands(first_power(setup, CATALOGUE, known))
        widths.append(banded.margin("S2.power_load").band.down)
    assert all(wide > narrow for wide, narrow in pairwise(widths))
