"""The work as it is kept: what each edit refuses, the bench's clock, probes, own procedures, the printed order."""

from __future__ import annotations

import os
import random
from datetime import timedelta
from pathlib import Path

import pytest

from tests.clocks import Clocks
from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import Job
from zeotherm.core.machine.doing import DoneStep
from zeotherm.core.machine.intake import Attachment
from zeotherm.core.work.gates import Aids, gates
from zeotherm.core.work.proving import proof
from zeotherm.core.work.waits import rough
from zeotherm.shop.editing import work_edits
from zeotherm.shop.editing.edits import RefusedError
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files import job_files
from zeotherm.shop.files.own_entries import CAUSES, WORK, begin_own, read_own
from zeotherm.shop.papers import order_sheet
from zeotherm.shop.practice.probes import SerialProbe, VirtualProbe, temperature_in
from zeotherm.shop.workshops.workshop import Workshop

CATALOGUE = shipped()
STAMP = "2026-03-02T10:00:00"
PHOTO = Attachment(name="as found.jpg", digest="0" * 64, size=10)


def ordered(*names: str) -> Job:
    return work_edits.written(Job(), STAMP, list(names), CATALOGUE)


def now(job: Job):
    return work_edits.order_of(job, CATALOGUE).now


def opened(job: Job) -> Job:
    return work_edits.begun(job, now(job), STAMP)


def left(job: Job, exit_key: str, aids: Aids | None = None, now_s: float | None = 0.0) -> Job:
    line = now(job)
    states = gates(line.step, job.doing.open, now_s, aids or Aids())
    return work_edits.left(job, line, exit_key, STAMP, states, CATALOGUE, proof(job))


def hurried(job: Job, until: str) -> Job:
    """The job with its order gone through up to a step, as if all had been done as hoped."""
    while (line := now(job)) is not None and line.key != until:
        values = {"screws_out": 4.0, "screws_in": 4.0} if "duct" in line.key else {}
        values = {key: value for key, value in values.items() if any(one.key == key for one in line.step.record)}
        done = DoneStep(step=line.key, begun=STAMP, ended=STAMP, exit=line.exits[0].key, values=values)
        job = work_edits.with_doing(job, done=[*job.doing.done, done])
    return job


def test_an_order_without_procedures_is_refused():
    with pytest.raises(RefusedError, match="Nothing is to be done"):
        work_edits.written(Job(), STAMP, [], CATALOGUE)
    with pytest.raises(RefusedError, match="Nothing in the catalogue"):
        work_edits.with_procedure(Job(), "cleaning", CATALOGUE)
    with pytest.raises(RefusedError, match=r"pull\.hard"):
        work_edits.with_choice(Job(), "pull", "hard", CATALOGUE)


def test_the_choices_are_kept_with_the_written_order():
    job = ordered("cold_pull")
    assert job.doing.choices["pull"] == "low"
    assert job_files.loads(job_files.dumps(job)) == job


def test_a_step_is_not_left_before_its_gates_are_open():
    job = opened(ordered("vents"))
    with pytest.raises(RefusedError, match="Confirm first: Nothing blocks the vents"):
        left(job, "open")
    job = work_edits.ticked(job, 0)
    with pytest.raises(RefusedError, match="Note first: vents open"):
        left(job, "open")
    job = left(work_edits.noted(job, now(job).step, "open", "80 %", CATALOGUE), "open")
    assert now(job).key == "check/proof"
    assert job.doing.done[0].values == {"open": 80.0}


def test_only_the_step_at_hand_can_be_left():
    job = opened(ordered("fan_cleaning"))
    later = next(line for line in work_edits.order_of(job, CATALOGUE).lines if line.key == "to/power.out")
    with pytest.raises(RefusedError, match="cannot be left that way"):
        work_edits.left(job, later, "out", STAMP, [], CATALOGUE, proof(job))
    with pytest.raises(RefusedError, match="cannot be left that way"):
        left(job, "anything")


@pytest.mark.parametrize(
    ("key", "text", "told"),
    [
        ("open", "lots", "no number"),
        ("open", "180", "outside 0 to 100"),
        ("open", "20 V", "a voltage"),
        ("open", "1e400", "too large"),
        ("shut", "20", "notes nothing called"),
    ],
)
def test_a_value_that_cannot_be_is_refused_at_its_field(key, text, told):
    job = opened(ordered("vents"))
    with pytest.raises(RefusedError, match=told):
        work_edits.noted(job, now(job).step, key, text, CATALOGUE)


def test_a_gap_keeps_the_liner_step_open():
    step = CATALOGUE.transitions["liner.in"]
    job = opened(ordered("vents"))
    with pytest.raises(RefusedError, match="must be 0"):
        work_edits.noted(job, step, "gap", "0.2 mm", CATALOGUE)


@pytest.mark.parametrize("value", [float("nan"), float("inf"), -60.0, 2000.0])
def test_an_impossible_reading_is_refused(value):
    job = work_edits.held_from(opened(ordered("fan_cleaning")), STAMP)
    with pytest.raises(RefusedError, match="cannot be"):
        work_edits.with_hold_reading(job, value, 10.0, "probe")


def test_a_wait_before_it_began_is_refused():
    job = opened(ordered("fan_cleaning"))
    for minutes in (-3.0, float("nan"), 1e9):
        with pytest.raises(RefusedError, match="between 0 and 10000"):
            work_edits.held_from(job, STAMP, minutes * 60.0)


def test_what_came_off_goes_back():
    job = hurried(ordered("fan_cleaning"), "to/duct.fitted")
    job = work_edits.ticked(opened(job), 0)
    short = work_edits.noted(job, now(job).step, "screws_in", "3", CATALOGUE)
    with pytest.raises(RefusedError, match="4 screws came out, 3 are back"):
        left(short, "fitted")
    whole = left(work_edits.noted(job, now(job).step, "screws_in", "4", CATALOGUE), "fitted")
    assert whole.doing.done[-1].step == "to/duct.fitted"


def test_a_photograph_comes_before_anything_is_uncoupled():
    job = work_edits.ticked(opened(hurried(ordered("fan_cleaning"), "to/duct.off")), 0)
    job = work_edits.noted(job, now(job).step, "screws_out", "4", CATALOGUE)
    with pytest.raises(RefusedError, match="photograph"):
        left(job, "off")
    assert left(work_edits.with_photo(job, "photo", PHOTO), "off").doing.done[-1].photos == {"photo": PHOTO}


def test_a_proof_run_that_is_too_short_proves_nothing():
    job = work_edits.failed_after(ordered("vents"), 200.0)
    job = work_edits.ticked(opened(hurried(job, "check/proof")), 0)
    short = work_edits.noted(job, now(job).step, "minutes", "4 h", CATALOGUE)
    with pytest.raises(RefusedError, match=r"4 h 00 min is short of the 5 h 00 min"):
        left(short, "pass")
    failed = left(short, "fail")
    assert failed.doing.closed is None
    assert [line.key for line in work_edits.order_of(failed, CATALOGUE).failed] == ["check/proof"]
    whole = left(work_edits.noted(job, now(job).step, "minutes", "301", CATALOGUE), "pass")
    assert whole.doing.closed == STAMP


def test_a_recheck_is_left_out_for_a_reason_only():
    job = ordered("fan_cleaning")
    with pytest.raises(RefusedError, match="Say in a few words"):
        work_edits.left_out(job, "fan_blows", "no")
    without = work_edits.left_out(job, "fan_blows", "the customer keeps the fan off")
    keys = [line.key for line in work_edits.order_of(without, CATALOGUE).lines]
    assert "check/fan_blows" not in keys
    assert work_edits.left_out(without, "fan_blows", "").doing.left_out == {}


def test_a_begun_procedure_stays_on_the_order():
    job = hurried(ordered("fan_cleaning"), "to/duct.fitted")
    with pytest.raises(RefusedError, match="is begun"):
        work_edits.with_procedure(job, "fan_cleaning", CATALOGUE)
    more = work_edits.with_procedure(job, "vents", CATALOGUE)
    assert more.doing.procedures == ["fan_cleaning", "vents"]
    assert work_edits.with_procedure(more, "vents", CATALOGUE).doing.procedures == ["fan_cleaning"]


def test_readings_that_run_backwards_are_refused():
    job = work_edits.held_from(opened(ordered("fan_cleaning")), STAMP)
    job = work_edits.with_hold_reading(job, 150.0, 60.0, "probe")
    again = work_edits.with_hold_reading(job, 160.0, 30.0, "probe")
    assert [one.after_s for one in again.doing.open.readings] == [30.0]
    data = job.model_dump(mode="json")
    data["doing"]["open"]["readings"] = [{"after_s": 9.0, "value": 50.0}, {"after_s": 3.0, "value": 60.0}]
    with pytest.raises(ShopError, match="stands after one"):
        job_files.validated(data, "job.json")


def test_work_outlives_the_program(tmp_path: Path):
    job = opened(hurried(ordered("break_change"), "to/break.out"))
    job = work_edits.ticked(job, 0)
    workshop = Workshop(tmp_path / "w.zeotherm")
    key = workshop.add(Job())
    workshop.edit(key, job, "tick")
    workshop.close()
    again = Workshop(tmp_path / "w.zeotherm")
    assert again.job(key) == job
    assert now(again.job(key)).key == "to/break.out"
    again.close()


# the clock


def test_a_clock_set_back_changes_no_span_of_this_session():
    clocks = Clocks()
    bench = clocks.bench()
    stamp = bench.stamp()
    clocks.go(90.0)
    clocks.wall -= timedelta(hours=1)
    assert bench.since(stamp) == 90.0
    clocks.wall += timedelta(hours=5)
    assert bench.since(stamp) == 90.0


def test_a_clock_set_back_between_sessions_is_not_believed():
    clocks = Clocks()
    stamp = clocks.bench().stamp()
    later = clocks.bench()
    clocks.go(120.0)
    assert later.since(stamp) == 120.0
    clocks.wall -= timedelta(minutes=10)
    assert later.since(stamp) is None


# probes


def test_the_simulated_probe_cools_as_time_goes_by():
    clocks = Clocks()
    probe = VirtualProbe(lambda: clocks.steady)
    first = probe.read()
    assert first > 180.0
    assert probe.read() is None
    clocks.go(300.0)
    assert 60.0 < probe.read() < first
    clocks.go(1e6)
    probe.read()
    probe.close()


def test_an_instrument_on_a_port_is_read_line_by_line():
    master, slave = os.openpty()
    probe = SerialProbe(Path(os.ttyname(slave)))
    assert probe.read() is None
    os.write(master, b"hello\nT:61.5 B:40\nok T:60")
    assert probe.read() == 61.5
    os.write(master, b".25 /0.0\nno figure here\n")
    assert probe.read() == 60.25
    assert probe.way == "console", "a printer's report is its own sensor"
    probe.close()
    os.close(master)
    os.close(slave)


def test_a_port_that_is_not_there_is_told():
    with pytest.raises(ShopError, match="could not be opened"):
        SerialProbe(Path("/dev/no-such-port"))


@pytest.mark.parametrize(
    ("line", "value"), [("T:61.5 /0 B:40", 61.5), ("48,2 C", 48.2), ("ready", None), ("", None), ("T0=-3", -3.0)]
)
def test_temperatures_in_lines(line, value):
    assert temperature_in(line) == value


# own procedures


def test_own_procedures_begin_with_one_to_copy(tmp_path: Path):
    path = tmp_path / WORK.name
    begin_own(WORK, path)
    assert read_own(WORK, path) == {}
    bare = "\n".join(
        line[2:] for line in path.read_text().splitlines() if line.startswith("# ") and not line.startswith("# The")
    )
    body = bare[bare.index("[procedures") :]
    path.write_text(body)
    own = CATALOGUE.with_own(read_own(WORK, path))
    assert own.procedures["fan_cleaning_ours"].steps == own.procedures["fan_cleaning"].steps


STEP = """
[[procedures.mine.steps]]
key = "{key}"
label = "{label}"
text = "Do it so."
minutes = 2
tools = ["hands"]
signs = []
gates = [{{ kind = "tick", text = "It is so" }}]
record = [{{ key = "n", label = "Note", kind = "text" }}]
exits = [{{ key = "done", label = "Done" }}]
failing = "Ask somebody."
"""
HEAD = '[procedures.mine]\nlabel = "Mine"\nwhy = "ours"\nrank = 5\n'
TWO = HEAD + STEP.format(key="a", label="The first") + STEP.format(key="b", label="The second")


@pytest.mark.parametrize(
    ("change", "line", "told"),
    [
        (("tools = []", "b"), 21, "The second"),
        (('heat = "moon"', "b"), 17, "heat_rules"),
        (('needs = { power = "off" }', "a"), 5, "no state power"),
        (("minutes = 0", "b"), 20, "minutes"),
    ],
)
def test_a_broken_step_is_named_with_its_file_and_line(tmp_path: Path, change, line, told):
    first, second = TWO.split('key = "b"')
    text, which = change
    name = text.split(" =")[0]

    def put(part: str) -> str:
        lines = [one for one in part.splitlines() if not one.startswith(f"{name} =")]
        at = next((n for n, one in enumerate(part.splitlines()) if one.startswith(f"{name} =")), None)
        lines.insert(at if at is not None else len(lines), text)
        return "\n".join(lines) + "\n"

    whole = (put(first[: first.rindex("[[")]) + "[[procedures.mine.steps]]\n" if which == "a" else first) + 'key = "b"'
    whole += put(second) if which == "b" else second
    path = tmp_path / WORK.name
    path.write_text(whole)
    with pytest.raises(ShopError) as wrong:
        read_own(WORK, path)
    assert str(wrong.value).startswith(f"{WORK.name}, line ")
    found = int(str(wrong.value).split("line ")[1].split(",")[0])
    assert abs(found - line) <= 3
    assert told in str(wrong.value)
    assert "shipped procedures are used" in str(wrong.value)


def test_a_shelf_of_the_other_file_is_refused(tmp_path: Path):
    path = tmp_path / WORK.name
    path.write_text("[causes.clog]\ncommon = 2.0\n")
    with pytest.raises(ShopError, match="no shelf of it"):
        read_own(WORK, path)
    assert read_own(CAUSES, path) == {"causes": {"clog": {"common": 2.0}}}


# the printed order


def test_the_order_on_paper_has_every_step_caution_and_box():
    job = ordered("fan_cleaning", "cold_pull")
    text = order_sheet.html(job, CATALOGUE, proof(job), "2026-03-02")
    for line in work_edits.order_of(job, CATALOGUE).steps:
        assert line.step.label in text
        for one in line.step.cautions:
            assert CATALOGUE.cautions[one].text.split(",")[0].split("'")[0] in text
    assert text.count("[&nbsp;&nbsp;]") > 20
    assert "licensed persons" in text
    assert "ISO 13732-1" in text


def test_a_done_step_is_ticked_on_paper():
    job = hurried(ordered("vents"), "check/proof")
    text = order_sheet.html(job, CATALOGUE, proof(job), "2026-03-02")
    assert "[x]" in text


NUMBERS = ["", "4", "5 h", "0", "-1", "nan", "1e999", "abc", "0.5 mm", "99999999999"]
READ = [20.0, 45.0, 48.0, 200.0, 1e9, float("nan"), -300.0]


def any_edit(job: Job, chance: random.Random) -> Job:
    """One edit of the work, with whatever somebody may type."""
    line = now(job)
    kind = chance.randrange(8 if line is not None else 3)
    if kind == 0:
        return work_edits.with_procedure(job, chance.choice(list(CATALOGUE.procedures)), CATALOGUE)
    if kind == 1:
        choice = chance.choice(list(CATALOGUE.choices))
        return work_edits.with_choice(job, choice, chance.choice([*CATALOGUE.choices[choice].options, "x"]), CATALOGUE)
    if kind == 2:
        return work_edits.left_out(
            job, chance.choice([*CATALOGUE.rechecks, "zz"]), chance.choice(["", "no", "not now"])
        )
    job = work_edits.begun(job, line, STAMP)
    if kind == 3:
        return work_edits.held_from(job, STAMP, chance.choice([0.0, 60.0, -1.0, 1e9, float("nan")]))
    if kind == 4:
        after = chance.choice([0.0, 900.0, 1e8, -5.0])
        return work_edits.with_hold_reading(job, chance.choice(READ), after, chance.choice(["probe", "camera"]))
    if kind == 5 and line.step.record:
        record = chance.choice(line.step.record)
        if record.kind == "photo":
            return work_edits.with_photo(job, record.key, PHOTO)
        return work_edits.noted(job, line.step, record.key, chance.choice(NUMBERS), CATALOGUE)
    for index, gate in enumerate(line.step.gates):
        if gate.kind == "tick" and index not in job.doing.open.ticks:
            job = work_edits.ticked(job, index)
    aids = chance.choice(
        [Aids(), Aids(curve=rough(200.0, 20.0)), Aids(curve=rough(20.0, 200.0), goal=200.0, soak_s=60.0)]
    )
    return left(job, chance.choice(line.exits).key, aids, chance.choice([None, 0.0, 900.0, 1e8]))


@pytest.mark.verify
def test_whatever_is_done_to_an_order_is_kept_or_refused():
    refused = 0
    for seed in range(60):
        chance = random.Random(seed)
        job = ordered(*chance.sample([key for key in CATALOGUE.procedures if key != "liner_service"], 2))
        for _edit in range(60):
            try:
                job = any_edit(job, chance)
            except RefusedError:
                refused += 1
        assert job_files.loads(job_files.dumps(job)) == job
    assert refused > 500
