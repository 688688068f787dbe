"""Intake's pieces: what the view says of a diagnosis, own causes, counted jobs, attachments."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from tests.window import put_on_bench, settle
from zeotherm.answers.causes import Diagnosis
from zeotherm.core.catalogue import shipped
from zeotherm.core.causes.next_check import plan
from zeotherm.core.causes.ranking import Facts, Table
from zeotherm.core.causes.worlds import hypotheses
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Job, Reading
from zeotherm.desk.views.intake.check_card import CheckCard
from zeotherm.desk.views.intake.shown import CheckView, intake
from zeotherm.shop.editing import edits
from zeotherm.shop.files.own_entries import CAUSES
from zeotherm.shop.workshops.workshop import Workshop


def diagnosed(job: Job) -> Diagnosis:
    catalogue = shipped().of_trouble(job.intake.trouble)
    table = Table(hypotheses(job.found, catalogue), {}, catalogue)
    facts = Facts.of(job)
    return Diagnosis(job, catalogue, table.rank(facts), plan(table, facts, job.found, job.intake.skipped))


def told(*answers: tuple[str, str]) -> Job:
    job = Job()
    for asked, option in answers:
        job = edits.with_answer(job, asked, option)
    return job


def test_a_new_job_asks_what_goes_wrong():
    view = intake(diagnosed(Job()))
    assert view.verdict.headline == "Nothing known yet: what goes wrong?"
    assert view.verdict.state is State.UNKNOWN
    assert view.told.startswith("0 of")
    assert sum(group.wanted for group in view.groups) == 1


def test_facts_show_as_told_with_their_signs():
    view = intake(diagnosed(told(("goes_wrong", "thin"), ("strand", "curls"))))
    told_chips = {chip.key for group in view.groups for chip in group.chips if chip.told}
    assert told_chips == {"about:hotend", "goes_wrong.thin", "strand.curls"}  # nobody has entered the filament
    clog = next(row for row in view.causes if row.key == "clog")
    assert any(sign.way == 1 and "throws it aside" in sign.text for sign in clog.signs)
    assert clog.share.endswith("%")
    assert "for:" in clog.spoken


def test_the_picked_check_comes_forward():
    diagnosis = diagnosed(told(("goes_wrong", "thin")))
    usual = intake(diagnosis)
    other = usual.then[0].key
    assert intake(diagnosis, other).check.key == other
    assert usual.check.key != other


def test_a_check_shows_its_time_cost_and_dangers():
    view = intake(diagnosed(told(("goes_wrong", "thin"), ("strand", "curls"))), "needle")
    assert (view.check.time, view.check.cost, view.check.signs) == ("3 min", "£0", ("burn",))
    assert "burn for minutes" in view.check.cautions[0]
    assert {answer.key for answer in view.check.answers} == {"frees", "same"}
    assert all("→" in answer.text for answer in view.check.answers)


def test_once_enough_is_known_the_mending_stands_there():
    job = told(
        ("goes_wrong", "nothing"), ("bend", "snaps"), ("plug", "snapped"), ("age", "months"), ("other_spool", "cured")
    )
    view = intake(diagnosed(job))
    assert view.verdict.state is State.CLEAR
    assert "Cut back to sound filament" in view.mends
    assert "not heat" in view.verdict.reason


def test_a_decided_cause_stands_first_even_where_facts_rule_it_out():
    job = edits.decided(told(("goes_wrong", "corners"), ("pressure_off", "cured")), "fan_dead")
    view = intake(diagnosed(job))
    assert (view.causes[0].key, view.causes[0].decided) == ("fan_dead", True)
    assert view.check is None


def test_readings_count_as_facts():
    job = Job(readings={"sink_base": Reading(value=50.0)})
    assert "1 fact" in intake(diagnosed(job)).verdict.reason


@pytest.fixture
def window(open_window, qtbot):
    """Intake of Dunlin's job."""
    window = open_window()
    put_on_bench(window, "Dunlin")
    settle(qtbot, window)
    window.show_intake()
    qtbot.waitUntil(lambda: window.intake.diagnosis is not None, timeout=30_000)
    window.intake.asked.stop()
    return window


def test_own_causes_are_taken_in_and_wrong_ones_named(window, qtbot):
    path = window.bench.own_file(CAUSES)
    assert "Dunlin" in window.bench.job.machine
    path.write_text("[causes.clog]\ncommon = 900.0\n")
    window.bench.read_own_entries()
    assert window.bench.catalogue.causes["clog"].common == 900.0
    qtbot.waitUntil(lambda: window.intake.diagnosis.ranking.first.key == "clog", timeout=30_000)
    path.write_text("[causes.clog]\ncommon = -1.0\n")
    window.bench.read_own_entries()
    assert "line 2" in window.spine.entry.hint.toolTip()
    assert window.bench.catalogue.causes["clog"].common == shipped().causes["clog"].common


def test_decided_jobs_count_until_switched_off(window, qtbot):
    bench = window.bench
    bench.decide("wet")
    other = next(key for key, job in bench._keeper.ask(Workshop.jobs) if job.machine.startswith("Curlew"))
    bench.open_job(other)
    assert bench.decided_jobs() == {"wet": 1}
    QTest.mouseClick(window.intake.count, Qt.MouseButton.LeftButton)
    assert bench.decided_jobs() == {}


def test_a_photograph_dropped_on_the_window_is_kept(window, tmp_path: Path):
    photo = tmp_path / "plug.png"
    photo.write_bytes(b"not really a picture")
    window.import_file(photo)
    assert [one.name for one in window.bench.job.intake.attachments] == ["plug.png"]
    digest = window.bench.job.intake.attachments[0].digest
    assert window.bench.unpack(window.bench.job.intake.attachments[0]).read_bytes() == b"not really a picture"
    gone = window.bench.job.intake.attachments[0].model_copy(update={"digest": "0" * 64})
    assert window.bench.unpack(gone) is None
    window.import_file(tmp_path / "gone.png")
    assert "no file" in window.spine.entry.hint.toolTip()
    assert len(window.bench.job.intake.attachments) == 1
    window.intake._follow(f"off:{digest}")
    assert window.bench.job.intake.attachments == []
    window.bench.undo()
    assert len(window.bench.job.intake.attachments) == 1


@pytest.mark.parametrize(("text", "why"), [("warm", "no number"), ("4000", "is outside"), ("55 V", "V")])
def test_a_wrong_reading_is_refused_in_place(qtbot, text, why):
    card = CheckCard()
    qtbot.addWidget(card)
    read = []
    card.read.connect(lambda *one: read.append(one))
    card.show_check(CheckView("b", "Block", "Probe it.", "5 min", "£0", ("burn",), (), False, "block", ()), (), "", "")
    card.field.setText(text)
    QTest.keyClick(card.field, Qt.Key.Key_Return)
    assert why in card.trouble.text()
    assert read == []
    card.field.setText("208.5 ±2")
    QTest.keyClick(card.field, Qt.Key.Key_Return)
    assert read == [("block", 208.5, 2.0)]


def test_own_and_the_jobs_own_entries_stand_together(window):
    bench = window.bench
    bench.own_file(CAUSES).write_text("[causes.clog]\ncommon = 50.0\n")
    bench.read_own_entries()
    assert bench.catalogue.causes["clog"].common == 50.0
    assert bench.catalogue is bench.catalogue  # made once, not at every key


def test_a_chip_of_the_machine_corrects_what_was_found(window, qtbot):
    row = next(row for row in window.intake.chips.rows() if row.key == "machine:printing.filament=abs")
    QTest.mouseClick(row, Qt.MouseButton.LeftButton)
    assert window.bench.job.found.printing.filament == "abs"
    assert window.bench.job.trial == {}
    row = next(row for row in window.intake.chips.rows() if row.key == "machine:case.part=side_vented")
    QTest.mouseClick(row, Qt.MouseButton.LeftButton)
    assert window.bench.job.found.surroundings.air_from == "case"


def test_a_row_in_use_is_scrolled_into_view(window, qtbot):
    bar = window.intake._scrolls[0].verticalScrollBar()
    qtbot.waitUntil(lambda: bar.maximum() > 0, timeout=30_000)  # laid out
    window.intake.chips.focus_row("tried.settings")
    assert bar.value() > 0


def test_a_browned_plug_is_asked_about_plugs_and_told_to_switch_off(window, qtbot):
    bench, view = window.bench, window.intake
    window.show_intake()
    qtbot.waitUntil(lambda: view.diagnosis is not None, timeout=60_000)
    view._tell("about:wiring")
    qtbot.waitUntil(lambda: view.diagnosis.job.intake.trouble == "wiring" and not view.asked.busy, timeout=60_000)
    asked = {chip.key.partition(".")[0] for group in intake(view.diagnosis).groups for chip in group.chips}
    assert asked == {"wire_wrong", "wire_when", "wire_changed", "wire_where"} | {
        f"about:{key}" for key in bench.catalogue.troubles
    }
    assert "not simulated" in view.foot.text()
    view._tell("wire_wrong.browned")
    qtbot.waitUntil(lambda: "wire_wrong" in view.diagnosis.job.intake.answers and not view.asked.busy, timeout=60_000)
    shown = intake(view.diagnosis)
    assert shown.verdict.reason.startswith("Switch off, unplug.")
    assert shown.notes[0] == ("First", "Switch off, unplug. Do not run it again on a browned plug or wire.", True)
    assert shown.causes[0].key in ("wire_joint", "wire_plug_small")
    assert shown.check.key in view.diagnosis.catalogue.checks
    view._tell("about:hotend")
    qtbot.waitUntil(lambda: view.diagnosis.job.intake.trouble == "hotend" and not view.asked.busy, timeout=240_000)
    assert bench.job.intake.answers["wire_wrong"] == ["browned"], "what was told stays"
