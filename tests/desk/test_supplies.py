"""Further supplies in the window: typed, entered on their card, judged beside the first one, and taken out."""

from __future__ import annotations

import pytest

from tests.window import open_window, put_on_bench, settle, type_line
from zeotherm.core.judgement.margins import State

__all__ = ["open_window"]


@pytest.fixture
def window(open_window, qtbot):
    opened = open_window()
    put_on_bench(opened, "Dunlin")
    settle(qtbot, opened)
    return opened


def test_from_a_line_to_its_card_and_its_margin(qtbot, window):
    explain, bench = window.explain, window.bench
    window.show_machine()
    settle(qtbot, window)
    explain.machine.open_card("supplies")
    view = explain.machine.card.view
    assert not view.rows
    assert any("second supply" in told for _label, told in view.facts)
    type_line(qtbot, window, "second supply 24 V 60 W brick for the bed")
    settle(qtbot, window)
    view = explain.machine.card.view
    assert [row.label for row in view.rows[:2]] == ["S2 supply's output", "S2 supply's rating"]
    assert {row.path for row in view.rows} >= {"power.bed_from", "supplies.S2.fed_by"}
    qtbot.waitUntil(
        lambda: any(row.key == "S2.power_load" for row in explain.machine.card.view.margins), timeout=120_000
    )
    row = next(row for row in explain.machine.card.view.margins if row.key == "S2.power_load")
    assert row.state is State.OVER
    sources = next(row for row in view.rows if row.path == "power.bed_from").options
    assert [key for key, _label in sources] == ["S1", "S2"]
    bench.describe("supplies.S2.supply_w", 500.0, dragging=False)
    settle(qtbot, window)
    assert bench.job.setup().supplies["S2"].supply_w == 500.0
    solids = explain.machine.board.view.shape.solids
    assert [one.station for one in solids if one.card == "supplies"] == ["S2.case_supply"]
    explain.turn_to("power")
    settle(qtbot, window)
    power = explain.of("power")
    qtbot.waitUntil(lambda: power.found is not None and "S2.power_load" in power.found.answer.values, timeout=120_000)
    assert power.board.view.source == "S2"
    assert power.board.view.apart


def test_what_still_feeds_something_is_kept(qtbot, window):
    bench = window.bench
    type_line(qtbot, window, "second supply 24 V 400 W for the bed")
    type_line(qtbot, window, "without S2")
    assert "S2" in bench.job.found.supplies
    assert "S2 feeds the bed" in window.spine.entry.hint.toolTip()
    window.spine.entry.field.clear()
    for line in ("bed on S1", "without S2"):
        type_line(qtbot, window, line)
    settle(qtbot, window)
    bench.undo()
    assert "S2" in bench.job.found.supplies
