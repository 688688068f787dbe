"""Keys of questions: what an answer depends on asks anew, what it does not depend on does not; and the store."""

from __future__ import annotations

import random
import threading
from dataclasses import replace

import pytest

from zeotherm.answers import hotend
from zeotherm.answers.board import columns_of
from zeotherm.answers.store import Store
from zeotherm.answers.work import aids
from zeotherm.core.catalogue import shipped
from zeotherm.core.catalogue.fitting import fitting
from zeotherm.core.machine.documents import Job, Reading, Setup, Variant, patched
from zeotherm.core.machine.known import Known
from zeotherm.core.machine.patches import patch_at, value_at
from zeotherm.core.machine.quantity import Choice, declared
from zeotherm.core.parts.registry import PARTS
from zeotherm.core.questions import Stage
from zeotherm.shop.editing import edits, work_edits

CHANGES, SLOWLY_MADE = 10_000, 40


def asked(job: Job, catalogue) -> dict[str, str]:
    """Keys of everything that is asked of a job, by name."""
    setup, course = job.setup(), hotend.hours(job.setup(), job, catalogue)
    found = {
        "hours": course, "as found": hotend.hours(job.found, job, catalogue),
        "worst": hotend.worst(setup, job, catalogue), "sure": hotend.sure(setup, job, catalogue),
        "decides": hotend.decides(setup, job, catalogue),
        **{key: part.in_full(setup, job, catalogue, course) for key, part in PARTS.items()},
    }  # fmt: skip
    found |= {f"column {keys}": one for keys, one in columns_of(job, job.variants, catalogue).items()}
    return {name: question.key for name, question in found.items()}


ALL = object()  # of what is asked
OF_THE_TRIAL = {"hours", "worst", "sure", "decides", "bed", "case", "power", "toolheads"}
Changed = tuple[Job, object, object]  # the job, the catalogue, what is asked anew


def field(draw, job, catalogue) -> Changed:
    path, value = number(draw)
    found = patched(job.found, patch_at(path, value))
    same = value_at(found, path) == value_at(job.found, path)
    return job.model_copy(update={"found": found}), catalogue, set() if same else ALL


def part(draw, job, catalogue) -> Changed:
    path = draw.choice([path for path, item in declared(Setup).items() if isinstance(item, Choice)])
    keys = list(fitting(declared(Setup)[path], job.found, catalogue))
    found = patched(job.found, patch_at(path, draw.choice(keys)))
    same = value_at(found, path) == value_at(job.found, path)
    return job.model_copy(update={"found": found}), catalogue, set() if same else ALL


def trial(draw, job, catalogue) -> Changed:
    path, value = number(draw)
    changed = job.model_copy(update={"trial": patch_at(path, value)})
    same = value_at(changed.setup(), path) == value_at(job.found, path)
    return changed, catalogue, OF_THE_TRIAL if not same else set() if path in job.known else {"decides"}


def tolerance(draw, job, catalogue) -> Changed:
    path, value = number(draw)
    same = job.tolerances.get(path) == value
    return job.model_copy(update={"tolerances": {**job.tolerances, path: value}}), catalogue, set() if same else ALL


def own_entry(draw, job, catalogue) -> Changed:
    shelf = draw.choice(("filaments", "materials", "insulations"))
    key = draw.choice(list(catalogue.shelf(shelf)))
    entry = {**catalogue.shelf(shelf)[key].model_dump(mode="json"), "label": f"own {draw.random()}"}
    return job, catalogue.with_own({shelf: {key: entry}}), ALL


def station_read(draw, job, catalogue) -> Changed:
    station = draw.choice(("sink_base", "motor", "carriage"))
    readings = {**job.readings, station: Reading(value=draw.uniform(20.0, 90.0), tolerance=1.0)}
    return job.model_copy(update={"readings": readings}), catalogue, set()


def known(draw, job, catalogue) -> Changed:
    path = draw.choice(list(declared(Setup)))
    now = {one: how for one, how in job.known.items() if one != path}
    if path not in job.known or draw.random() < 0.5:
        now[path] = Known(how=draw.choice(("entered", "measured", "fitted")), about=str(draw.random()))
    same = (path in now) == (path in job.known)
    return job.model_copy(update={"known": now}), catalogue, set() if same else {"decides"}


def option(draw, job, catalogue) -> Changed:
    volts = Variant(label="Low", change={"fan": {"voltage_v": draw.uniform(5.0, 11.0)}})
    return job.model_copy(update={"variants": {**job.variants, "low": volts}}), catalogue, {"column ('low',)"}


def what_none_hangs_on(draw, job, catalogue) -> Changed:
    text = f"another {draw.random()}"
    ways = [{key: text} for key in ("place", "complaint", "machine", "number")]
    ways += [{"chosen": ["low"]}, {"intake": job.intake.model_copy(update={"decided": "fan_dead"})},
             {"doing": job.doing.model_copy(update={"procedures": ["fan_cleaning"]})},
             {"measured": job.measured.model_copy(update={"tariff": 0.4})}]  # fmt: skip
    return job.model_copy(update=draw.choice(ways)), catalogue, set()


def number(draw) -> tuple[str, float]:
    """A number of the machine, somewhere within its bounds."""
    path, item = draw.choice([each for each in declared(Setup).items() if not isinstance(each[1], Choice)])
    most = min(item.high, 300.0) if path.startswith("schedule.") else item.high  # a job lasts a day at most
    return path, draw.uniform(item.low, most)


KINDS = (field, part, trial, tolerance, own_entry, station_read, known, option, what_none_hangs_on)


@pytest.mark.parametrize("kind", KINDS, ids=lambda one: one.__name__)
def test_what_an_answer_depends_on_asks_it_anew_and_nothing_else_does(kind, demo):
    """10 000 changes at random, of nine kinds."""
    draw, catalogue = random.Random(11), shipped()
    job = edits.with_variant(demo("Curlew"), "low", Variant(label="Low", change={"fan": {"voltage_v": 12.0}}))
    before = asked(job, catalogue)
    for _change in range(SLOWLY_MADE if kind is own_entry else CHANGES // (len(KINDS) - 1)):
        changed, shelves, anew = kind(draw, job, catalogue)
        now = asked(changed, shelves)
        assert {name for name in before if now[name] != before[name]} == (set(before) if anew is ALL else anew)


def test_parts_ask_by_the_hours_they_stand_in(demo):
    job, catalogue = demo("Curlew"), shipped()
    warm = job.model_copy(update={"found": patched(job.found, {"room": {"mean_c": 31.0}})})
    mine, other = (hotend.hours(one.found, one, catalogue) for one in (job, warm))
    for key, part in PARTS.items():
        keys = {part.at_rest(job.found, job, catalogue, course).key for course in (mine, other, None)}
        assert len(keys) == 3, key


def test_a_step_asks_by_its_gate_and_by_the_machine_not_by_what_it_is_called(demo):
    job, catalogue = demo("Curlew"), shipped()
    job = work_edits.with_doing(job, procedures=["fan_cleaning"])
    order = work_edits.order_of(job, catalogue)
    line = next(one for one in order.lines if one.step.gates)
    first = aids(job, line, order.state, catalogue).key
    gate = line.step.gates[0].model_copy(update={"contact_s": 7.0})
    step = line.step.model_copy(update={"gates": (gate, *line.step.gates[1:])})
    assert aids(job, replace(line, step=step), order.state, catalogue).key != first
    assert aids(job, replace(line, work="another"), order.state, catalogue).key == first
    assert aids(job.model_copy(update={"place": "elsewhere"}), line, order.state, catalogue).key == first


def test_what_cannot_be_told_is_no_question():
    with pytest.raises(TypeError, match="cannot be told by a object"):
        _ = Stage("any", lambda one, cancelled: one).of(object()).key


def test_one_question_is_answered_once_and_its_needs_with_it():
    made = []

    def half(value, *, cancelled):
        made.append("half")
        return value / 2

    def more(value, by, *, cancelled):
        made.append("more")
        return value + by

    store, halves, sums = Store(), Stage("half", half), Stage("more", more)
    assert store.ask(sums.of(halves.of(8.0), 1.0)) == 5.0
    assert store.ask(sums.of(halves.of(8.0), 2.0)) == 6.0
    assert store.ask(halves.of(8.0)) == 4.0
    assert made == ["half", "more", "more"]
    assert store.knows(halves.of(8.0))
    assert not store.knows(halves.of(9.0))


def test_a_store_keeps_the_latest_of_each_stage_and_none_counts_as_an_answer():
    store, stage = Store(), Stage("none", lambda value, cancelled: None, kept=2)
    for value in (1, 2, 3):
        assert store.ask(stage.of(value)) is None
    assert [store.knows(stage.of(value)) for value in (1, 2, 3)] == [False, True, True]
    store.ask(stage.of(2))
    store.ask(stage.of(4))
    assert [store.knows(stage.of(value)) for value in (2, 3, 4)] == [True, False, True]


def test_two_that_reckon_the_same_beside_each_other_hold_one_answer():
    gate, found = threading.Barrier(2), []

    def work(*, cancelled):
        gate.wait(10.0)
        return object()

    store, question = Store(), Stage("slow", work).of()
    threads = [threading.Thread(target=lambda: found.append(store.ask(question))) for _one in range(2)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(10.0)
    assert found[0] is found[1]
