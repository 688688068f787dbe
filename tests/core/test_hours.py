"""Schedules, faults, patches: what a job of hours may hold, and what is refused at the field."""

from __future__ import annotations

import pytest
from pydantic import ValidationError

from zeotherm.core.catalogue import shipped
from zeotherm.core.choices.board import cheapest_set, column, offered, worse
from zeotherm.core.machine.documents import Job, Setup, Variant, patched
from zeotherm.core.machine.patches import ClashError, difference, merged, together
from zeotherm.core.parts.hotend.judge.course import plan
from zeotherm.core.parts.whole.run import phases, simulate
from zeotherm.core.solver.axisymmetric import CancelledError

PAUSE = {"after_min": 9, "minutes": 3}
FAN_STOPS = {"label": "Fan stops", "at_min": 60.0, "change": {"fan": {"voltage_v": 0.0}}}


@pytest.mark.parametrize(
    ("patch", "told"),
    [
        ({"schedule": {"pauses": {"a": {"after_min": 20, "minutes": -3}}}}, "minutes"),
        ({"schedule": {"pauses": {"a": {"after_min": 900, "minutes": 3}}}}, "the print is over after"),
        (
            {"schedule": {"pauses": {"a": {"after_min": 9, "minutes": 3}, "b": {"after_min": 9, "minutes": 1}}}},
            "overlap",
        ),
        ({"schedule": {"print_min": 1400, "cool_min": 240}}, "may last 24 h"),
        ({"schedule": {"print_min": float("nan")}}, "print_min"),
        ({"heats": {"sun": {"label": "Sun", "watts": 90, "from_h": 15, "to_h": 12}}}, "not after from_h"),
        ({"heats": {"sun": {"label": "Sun", "watts": -5, "from_h": 12, "to_h": 15}}}, "watts"),
        ({"faults": {"f": {**FAN_STOPS, "at_min": 900.0}}}, "the job is over after"),
        ({"faults": {"f": {**FAN_STOPS, "change": {"fan": {"voltage_v": 99}}}}}, "voltage_v"),
        ({"faults": {"f": {**FAN_STOPS, "change": {"schedule": {"print_min": 5}}}}}, "may not move the schedule"),
        ({"room": {"mean_c": 1e308}}, "mean_c"),
    ],
)
def test_what_cannot_be_is_refused_at_its_field(patch, told):
    with pytest.raises(ValidationError) as wrong:
        patched(Setup(), patch)
    assert told in str(wrong.value)


def test_phases_follow_the_plan():
    pauses = {"late": {"after_min": 60.0, "minutes": 5.0}, "early": {"after_min": 20.0, "minutes": 10.0}}
    setup = patched(Setup(), {"schedule": {"print_min": 100.0, "soak_min": 0.0, "cool_min": 15.0, "pauses": pauses}})
    told = [(phase.kind, phase.seconds / 60.0) for phase in phases(setup)]
    assert told[1:] == [("print", 20), ("pause", 10), ("print", 40), ("pause", 5), ("print", 40), ("cool", 15)]


def test_patches_make_what_they_differ_by():
    one, other = {"a": 1, "b": {"c": 2, "d": 3}}, {"b": {"c": 2, "e": 4}, "f": 5}
    assert merged(one, difference(one, other)) == other
    assert difference(one, one) == {}


def test_a_set_that_wants_two_values_clashes():
    assert together({"fan": {"voltage_v": 20.0}}, {"fan": {"direction": "pull"}})["fan"] == {
        "voltage_v": 20.0,
        "direction": "pull",
    }
    with pytest.raises(ClashError, match="voltage_v"):
        together({"fan": {"voltage_v": 20.0}}, {"fan": {"voltage_v": 24.0}})


def test_older_jobs_are_read_and_their_air_is_as_stated():
    job = Job.model_validate_json('{"format": "zeotherm-job", "version": "1.0"}')
    assert job.found.surroundings.air_from == "stated"


def test_a_fault_changes_the_machine_from_its_time_on(demo):
    setup = patched(
        demo("Curlew").setup(), {"heats": None, "schedule": {"print_min": 90.0}, "faults": {"f": FAN_STOPS}}
    )
    run = simulate(setup, shipped())
    assert [stretch.setup.fan.voltage_v for stretch in run.stretches if stretch.kind == "print"] == [23.5, 0.0]
    course = plan(setup, shipped())
    assert any(one.kind == "fault" and one.time == 3600.0 for one in course.events)
    assert course.worst_time > 3600.0


def test_a_machine_that_never_gets_warm_is_told():
    weak = patched(Setup(), {"hotend": {"heater_power_w": 6.0}, "schedule": {"print_min": 10.0, "cool_min": 0.0}})
    course = plan(weak, shipped())
    assert course.run.not_reached
    assert any(one.kind == "not_reached" for one in course.events)


def test_a_run_can_be_called_off(demo):
    with pytest.raises(CancelledError):
        simulate(demo("Curlew").setup(), shipped(), cancelled=lambda: True)


def test_where_the_fan_takes_its_air(demo):
    """The case is warmest, then the duct, the room and the coolant keep the sink cool."""
    setup = patched(demo("Curlew").setup(), {"schedule": {"print_min": 250.0}})
    base = {}
    for source in ("case", "duct", "liquid"):
        course = plan(patched(setup, {"surroundings": {"air_from": source}}), shipped())
        base[source] = course.worst["sink_base"][0]
    assert base["case"] < base["duct"] < base["liquid"]


@pytest.fixture(scope="module")
def board(demo):
    job = demo("Curlew")
    variants = {key: one for key, one in offered(job.found, shipped()).items() if key in ("clean_guard", "duct")}
    variants["hotter"] = Variant(label="Hotter", change={"printing": {"nozzle_c": 225.0}})
    columns = {keys: column(job.found, variants, keys, shipped(), {}) for keys in ((), ("clean_guard",), ("hotter",))}
    return job, variants, columns


def test_columns_say_how_sure_and_what_is_worse(board):
    _job, _variants, columns = board
    base, clean, hotter = columns.values()
    assert not base.passes
    assert base.failure is not None
    assert clean.margins["feed"].room > base.margins["feed"].room
    assert 0.0 <= base.sure <= clean.sure <= 1.0
    assert worse(list(columns.values())) == [hotter]
    assert base.warm_up < 300.0
    assert 0.05 < base.energy / 3.6e6 < 0.5


def test_the_cheapest_set_meets_every_limit(board):
    job, variants, columns = board
    found = cheapest_set(job.found, variants, columns[()], shipped(), {})
    assert set(found.keys) == {"duct", "clean_guard"}  # the guard costs nothing, and a duct behind it is less sure
    assert found.passes
    assert found.sure > 0.95
    assert found.cost == sum(variants[key].cost for key in found.keys)


def test_work_at_its_price_makes_the_quick_part_the_cheaper(board):
    """A ready-made duct that costs more and takes a moment, beside one that somebody has to print and glue."""
    job, variants, columns = board
    ready = variants["duct"].model_copy(update={"cost": variants["duct"].cost + 10.0, "minutes": 5.0})
    both = {"clean_guard": variants["clean_guard"], "duct": variants["duct"], "ready": ready}
    for hourly, chosen in ((0.0, "duct"), (60.0, "ready")):
        found = cheapest_set(job.found, both, columns[()], shipped(), {}, hourly)
        assert set(found.keys) == {chosen, "clean_guard"}
    minutes = sum(both[key].minutes for key in found.keys)
    assert found.price(60.0) == pytest.approx(found.cost + minutes)


def test_no_set_is_no_set(board):
    job, variants, columns = board
    only = {"hotter": variants["hotter"]}
    assert cheapest_set(job.found, only, columns[()], shipped(), {}) is None


def test_remedies_offered_fit_the_machine(demo):
    lined = offered(demo("Gannet").found, shipped())
    assert "lined_titanium" in lined
    assert "bimetal" not in lined
    assert "open_vents" not in offered(Setup(), shipped())  # its air is stated
