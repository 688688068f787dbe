"""Facts that decide, in the window: what is assumed is said, found among all of the machine, and entered there."""

import pytest
from PyQt6.QtCore import Qt

from tests.window import settle
from zeotherm.core.causes.next_check import facts_to_find
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Job
from zeotherm.desk.viewmodels import ladder, ladder_of_set
from zeotherm.desk.views.choose.shown import board
from zeotherm.desk.views.intake.shown import MACHINE, intake
from zeotherm.shop.editing import edits


@pytest.fixture
def fresh(qtbot, open_window):
    """A new machine of which nothing is known, answered in full."""
    window = open_window()
    window.bench.begin(Job(number="0414"))
    settle(qtbot, window)
    return window


def test_a_new_machine_is_open_and_says_what_decides(fresh):
    assert fresh.explain.verdict.accessibleName() == "Too close to call: three facts decide"
    assert "most of it hangs on" in fresh.explain.verdict.accessibleDescription()
    view = fresh.explain.facts.view
    assert [row.rank for row in view.rows] == [1, 2, 3]
    assert view.lanes[0].word == "too close to call"
    shown = ladder(fresh.bench.found)
    assert shown.title.endswith("as assumed")
    assert all(state is not State.CLEAR for state, _count in shown.counts)
    assert fresh.spine.explain.accessibleDescription().endswith("facts assumed")


def test_a_deciding_fact_opens_its_place_and_is_entered_there(fresh, qtbot):
    row = fresh.explain.facts.view.rows[0]
    before = fresh.bench.found.standing
    fresh.explain.facts.activated.emit(row.key)
    card = fresh.explain.machine.card
    assert card.isVisible()
    path = fresh.bench.catalogue.facts[row.key].paths[0]
    line = card.levers.line(path)
    assert line.known_by.accessibleName().endswith("assumed")
    qtbot.mouseClick(line.known_by, Qt.MouseButton.LeftButton)
    assert fresh.bench.job.known[path].how == "entered"
    settle(qtbot, fresh)
    found = fresh.bench.found
    assert row.key not in found.standing.assumed
    assert found.deciding.now.down < before.deciding.now.down
    qtbot.mouseClick(line.known_by, Qt.MouseButton.LeftButton)
    assert path not in fresh.bench.job.known
    fresh.bench.undo()
    assert fresh.bench.job.known[path].how == "entered"


def test_the_line_says_that_it_enters_what_was_assumed(fresh):
    field, hint = fresh.spine.entry.field, fresh.spine.entry.hint
    field.setText("heater 30 W 12 V")
    assert hint.toolTip().count("As found: ") == 2
    fresh.bench.enter("heater 30 W 12 V")
    assert fresh.bench.job.found.hotend.heater_power_w == 30.0
    assert not fresh.bench.job.trial
    field.setText("heater 50 W")
    assert "As found" not in hint.toolTip()  # that is a trial
    fresh.bench.undo()
    assert "hotend.heater_power_w" not in fresh.bench.job.known


def test_what_decides_stays_in_its_place_while_a_lever_is_dragged(fresh, qtbot):
    shown = fresh.explain.facts
    before, height = shown.view, shown.height()
    fresh.bench.set_value("printing.flow_mm3_s", 4.4, dragging=True)
    qtbot.waitUntil(lambda: fresh.bench.found.job == fresh.bench.job, timeout=60_000)
    assert not fresh.bench.found.decided
    assert (shown.view, shown.height()) == (before, height)
    fresh.bench.set_value("printing.flow_mm3_s", 4.5)
    settle(qtbot, fresh)
    assert shown.view is not before  # reckoned anew
    fresh.explain.turn_to("bed")
    assert shown.view is None or shown.view.aside != before.aside


def test_a_value_that_was_assumed_is_entered_and_one_that_is_known_goes_on_trial(fresh):
    fresh.bench.describe("fan.voltage_v", 12.0)
    assert fresh.bench.job.found.fan.voltage_v == 12.0
    assert fresh.bench.job.trial == {}
    fresh.bench.describe("fan.voltage_v", 11.0)
    assert fresh.bench.job.found.fan.voltage_v == 12.0
    assert fresh.bench.job.trial == {"fan": {"voltage_v": 11.0}}
    fresh.bench.accept_trial()
    assert fresh.bench.job.known["fan.voltage_v"].how == "entered"


def test_the_entry_line_confirms_and_forgets(fresh):
    fresh.bench.enter("guard 0 %")  # as it stands there
    assert fresh.bench.job.known["fan.guard_blocked_pct"].how == "entered"
    assert fresh.bench.job.trial == {}
    fresh.bench.enter("guard ?")
    assert "fan.guard_blocked_pct" not in fresh.bench.job.known


def test_a_board_that_needs_nothing_says_so_only_of_what_is_known(fresh, qtbot):
    fresh.show_choose()
    band = fresh.choose.verdict
    qtbot.waitUntil(lambda: band.accessibleName() == "Every limit holds as far as known", timeout=240_000)
    assert "facts are assumed" in band.accessibleDescription()
    solved = fresh.choose._solved
    assert all(cell.state is not State.CLEAR for column in board(solved).columns for cell in column.cells)
    assert all(state is not State.CLEAR for state, _count in ladder_of_set(solved).counts)


def test_a_path_that_no_machine_has_is_refused_in_words(fresh):
    with pytest.raises(edits.RefusedError, match=r"Nothing of a machine is called 'fan\.colour'"):
        edits.with_known(fresh.bench.job, ("fan.colour",))


def test_facts_and_checks_compete_in_intake_by_what_they_tell_for_their_minutes(fresh, qtbot):
    fresh.show_intake()
    page = fresh.intake
    qtbot.waitUntil(lambda: page.diagnosis is not None and not page.asked.busy, timeout=120_000)
    found, diagnosis = fresh.bench.found, page.diagnosis
    worst = found.judged.worst
    facts = facts_to_find(worst.room, found.standing.of(worst.key), diagnosis.catalogue)
    assert facts
    assert all(one.key in [each.key for each in found.deciding.facts] for one in facts)
    view = intake(diagnosis, facts=facts)
    shown = [view.check.key, *(row.key for row in view.then)]
    worth = {one.key: one.worth for one in diagnosis.plan.checks} | {f"fact:{one.key}": one.worth for one in facts}
    ranked = sorted(worth, key=lambda key: -worth[key])
    first = next(key for key in ranked if key.startswith("fact:"))
    assert shown == (ranked[: len(shown)] if first in ranked[: len(shown)] else [*ranked[: len(shown) - 1], first])
    page.card.picked.emit(first)
    assert page.card.name.text().startswith("Find out: ")
    assert page.card.enter.isVisible()
    assert not page.card.skip.isVisible()
    chips = [one for group in view.groups for one in group.chips]
    assert not [one.label for one in chips if one.key.startswith(MACHINE) and one.told]  # nobody has entered them
    page.card.enter.click()
    assert fresh.shown == "explain"
    assert fresh.explain.machine.card.isVisible()
