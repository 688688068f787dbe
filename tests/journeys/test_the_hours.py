"""A jam that comes at an hour of the day: from the strip to the set that cures it, through the real window."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtPdf import QPdfDocument
from PyQt6.QtTest import QTest

from tests.window import settle, type_line
from zeotherm.shop.places import demo_jobs

LEFT = Qt.MouseButton.LeftButton


def test_from_the_strip_to_the_cure(qtbot, open_window, tmp_path: Path):
    window = open_window()
    bench, explain = window.bench, window.explain

    # the whole job on the strip: what happens when, and when feeding stops
    sentence = explain.strip.view.sentence
    assert sentence.startswith("Jam about 12:5")
    assert "Chance to finish" in sentence
    course = bench.found.course
    assert [one.kind for one in course.events if one.kind in ("printing", "heat_on", "off")] == [
        "printing", "heat_on", "off",
    ]  # fmt: skip

    # the morning, by pressing into the strip: nothing is past a limit
    QTest.mouseClick(explain.strip, LEFT, pos=QPoint(int(explain.strip.x_of(5400.0)), 90))
    settle(qtbot, window)
    assert not any(margin.state.bad for margin in bench.found.answer.margins)
    assert "11:0" in explain.ladder._view.title

    # a reading belongs to the moment shown
    type_line(qtbot, window, "sink base 36.4")
    assert abs(bench.job.readings["sink_base"].clock_h - 11.0) < 0.1

    # without the sun the day would pass; a wrong line says what is wrong and changes nothing
    type_line(qtbot, window, "forget sun on the case", in_full=True)
    assert bench.found.worst.worst.room > 0
    before = bench.job
    type_line(qtbot, window, "sun 90 W 15:00 to 12:00")
    assert bench.job == before
    assert "ends after it begins" in window.spine.entry.hint.toolTip()
    QTest.keyClick(window.spine.entry.field, Qt.Key.Key_Escape)
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, window)
    assert bench.found.worst.worst.room < 0

    # the log over the model
    window.import_file(next(demo_jobs()[0].parent.glob("2-curlew-run1.csv")))
    qtbot.waitUntil(lambda: "Read 1 008 rows" in window.spine.entry.hint.toolTip(), timeout=30_000)
    settle(qtbot, window)
    assert len(explain.strip.view.dots) >= 2

    # strengths, and a trial of the strongest that is kept as an option
    assert explain.levers._order[0].row.share == 1.0
    type_line(qtbot, window, "retraction 0.4")
    assert bench.found.course_found is not None
    QTest.keyClick(window, Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, window)
    assert bench.job.trial == {}
    assert [one.label for one in bench.job.variants.values()] == ["Retraction"]

    # the board: options side by side, the cheapest set taken, before and after on paper
    told = []
    window.choose.asked.changed.connect(told.append)
    QTest.keyClick(window, Qt.Key.Key_PageDown)
    qtbot.waitUntil(lambda: window.stack.currentWidget() is window.choose)
    window.choose.fill_menu()
    for action in window.choose.menu.actions():
        if action.text().startswith(("Fan duct", "Clean the fan")):
            action.trigger()
    qtbot.waitUntil(lambda: bool(told) and told[-1].searched and len(told[-1].job.variants) == 3, timeout=90_000)
    cheapest = told[-1].cheapest
    assert cheapest is not None
    assert cheapest.passes
    QTest.mouseClick(window.choose.take, LEFT)
    assert set(bench.job.chosen) == set(cheapest.keys)
    qtbot.waitUntil(lambda: window.choose.change is not None, timeout=30_000)
    assert "Every limit met" in window.choose.verdict.accessibleDescription()
    QTest.keyClick(window, Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier)
    window.papers.report(tmp_path / "report.pdf")
    qtbot.waitUntil((tmp_path / "report.pdf").exists, timeout=30_000)
    pdf = QPdfDocument(None)
    assert pdf.load(str(tmp_path / "report.pdf")) == QPdfDocument.Error.None_
    assert pdf.pageCount() == 1
    text = pdf.getAllText(0).text()
    pdf.close()
    for wanted in ("Before and after", "with the set", "sure that all hold", "below the model"):
        assert wanted in text, wanted

    # closed and opened again, everything is there
    job = bench.job
    window.close()
    again = open_window()
    assert again.bench.job == job
