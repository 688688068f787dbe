"""A wide bed in a cold loft, late and uneven: explained, fitted, sized and chosen, through the real window."""

from __future__ import annotations

from pathlib import Path

import ezdxf
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from tests.window import put_on_bench, settle, type_line

LEFT = Qt.MouseButton.LeftButton


def bed_known(qtbot, window, *, in_full: bool = True) -> None:
    """Wait until the bed of the job on the bench is answered."""

    def done() -> bool:
        found = window.explain.of("bed").found
        if found is None or found.job != window.bench.job or found.answer is None or found.answer.course is None:
            return False
        return found.answer.complete or not in_full

    qtbot.waitUntil(done, timeout=40_000)


def test_from_cold_corners_to_a_set_that_warms_them(qtbot, open_window, tmp_path: Path):
    window = open_window()
    bench, explain = window.bench, window.explain
    put_on_bench(window, "Dunlin")
    settle(qtbot, window)

    # the hotend's picture says that the bed has troubles of its own
    bed_known(qtbot, window, in_full=False)
    qtbot.waitUntil(lambda: "(bed)" in explain.elsewhere.text(), timeout=30_000)
    assert explain.tabs["bed"].text() != "Bed"

    # Ctrl+B: the bed, its face, its stack, its warm-up
    QTest.keyClick(window, Qt.Key.Key_B, Qt.KeyboardModifier.ControlModifier)
    bed_known(qtbot, window)
    assert explain.verdict.accessibleName().startswith("The bed is ready")
    assert "corner is" in explain.verdict.accessibleDescription()
    view = explain.of("bed").board.view
    assert view.share < 0.4
    assert view.interfaces[0].label == "Print face"
    assert any(row.accessibleName().startswith("Bed corner, 6") for row in explain.margins.rows())
    assert "wanted within 8 min" in explain.strip.view.sentence
    assert "Peak power" in explain.rivals.text()
    assert "M304 P" in explain.rivals.text()
    qtbot.waitUntil(lambda: any(line.row.gain for line in explain.levers._order), timeout=60_000)

    # a point of the face, by mouse and by key
    qtbot.waitUntil(lambda: not explain.of("bed").board._plan.isEmpty(), timeout=20_000)  # once it is painted
    plan = explain.of("bed").board._plan
    QTest.mouseMove(explain.of("bed").board, plan.center().toPoint())
    qtbot.waitUntil(lambda: "Print face, " in explain.foot.text(), timeout=20_000)
    explain.of("bed").board.setFocus()
    QTest.keyClick(explain.of("bed").board, Qt.Key.Key_Left)
    assert "-10 mm right" in explain.foot.text().replace("\N{MINUS SIGN}", "-")

    # the strip: a minute after switching on the face is still cold
    QTest.mouseClick(explain.strip, LEFT, pos=QPoint(int(explain.strip.x_of(60.0)), 90))
    assert " s after switching on" in explain.ladder._view.title
    assert explain.of("bed").found.shown.values["bed_centre"] < 30.0
    QTest.keyClick(window, Qt.Key.Key_Home, Qt.KeyboardModifier.ControlModifier)
    assert explain.ladder._view.title.startswith("Late in the print")
    explain.of("bed").spans[True].click()
    assert any("lets go" in tick.text for tick in explain.strip.view.ticks)

    # wrong entries say what is wrong, where and what would do, and change nothing
    before = bench.job
    type_line(qtbot, window, "bed sensor x 230")
    assert bench.job == before
    assert "ends 200 mm" in window.spine.entry.hint.toolTip()
    QTest.keyClick(window.spine.entry.field, Qt.Key.Key_Escape)

    # a reading is pinned beside the model's value
    type_line(qtbot, window, "face corner 55.8")
    bed_known(qtbot, window)
    assert explain.of("bed").board.view.pins[2].measured == 55.8

    # a trial: foam that does not stand its place is over, with the caution
    type_line(qtbot, window, "insulation packaging foam")
    bed_known(qtbot, window)
    assert any(row.accessibleName().startswith("Insulation, 7") for row in explain.margins.rows())
    assert explain.of("bed").board.view.share_was is not None
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, window)
    bed_known(qtbot, window)

    # fitted to its own curve, taken as found
    explain.fit.click()
    qtbot.waitUntil(lambda: "by its curve" in explain.fits.text(), timeout=30_000)
    explain.fit.click()
    assert bench.job.found.corrections.bed_film < 1.0
    assert bench.job.tolerances["bed.heater_w"] < 18.0
    settle(qtbot, window)
    bed_known(qtbot, window)

    # sized: foam is blocked with the number, felt goes on the board, its outline to a file
    window.show_choose()
    window.choose.turn_to("bed")
    sizing = window.choose.sized["bed"]
    qtbot.waitUntil(lambda: sizing.found is not None and sizing.found.done, timeout=60_000)
    rows = {row.key: row for row in sizing.list._rows_shown}
    assert "stands 75" in rows["packaging_foam"].blocked
    sizing.fields["minutes"].setFocus()
    sizing.fields["minutes"].setText("-3")
    QTest.keyClick(sizing.fields["minutes"], Qt.Key.Key_Return)
    assert "1 to 180 min" in sizing.trouble.text()
    sizing.fields["minutes"].setText("7")
    QTest.keyClick(sizing.fields["minutes"], Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: sizing.found.done and sizing.found.wish.minutes == 7.0, timeout=60_000)
    assert "Ready in 7 min" in sizing.texts["heater"].accessibleName()
    sizing.list.focus_row("felt")
    qtbot.waitUntil(lambda: sizing.found.done and sizing.found.wish.material == "felt", timeout=60_000)
    sizing.write_outline(tmp_path / "felt.dxf")
    assert len(ezdxf.readfile(tmp_path / "felt.dxf").modelspace().query("CIRCLE")) == 4
    sizing.put.click()
    assert bench.job.variants["felt_10"].change["bed"]["insulation"] == "felt"

    # the board judges bed and hotend together and finds a set
    window.choose.turn_to("board")
    told: list = []
    window.choose.asked.changed.connect(told.append)
    window.choose.solve()
    qtbot.waitUntil(lambda: bool(told) and told[-1].searched and not window.choose.asked.busy, timeout=120_000)
    assert "bed_corner" in told[-1].columns[()].margins
    felt = told[-1].columns[("bed_felt",)]
    assert felt.margins["bed_corner"].room > told[-1].columns[()].margins["bed_corner"].room + 0.5
    assert felt.energy < told[-1].columns[()].energy

    # the order for the felt: a run before, the data sheet, ohms before and after, level, tune, the run after
    bench.choose(["felt_10"])  # the one that was sized: its work is found by what it changes
    window.choose.verdict.button.click()
    qtbot.waitUntil(lambda: window.do.plan.checks["bed_insulation"].isChecked(), timeout=30_000)

    # the camera against the computed face, on one fixed scale
    window.show_measure()
    window.measure.turn_to("pictures")
    shown = window.measure.board._view
    assert [one.key for one in shown.pictures][-1] == "model"
    assert any("camera less model" in line for line in shown.change_lines)
