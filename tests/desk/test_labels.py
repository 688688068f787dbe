"""What anyone typed is shown as it was typed: no markup of theirs is ever obeyed."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from PyQt6.QtCore import QEvent, QPoint, Qt
from PyQt6.QtGui import QHelpEvent, QTextDocumentFragment
from PyQt6.QtWidgets import QLabel, QToolTip

import zeotherm.desk
from tests.window import put_on_bench, settle
from zeotherm.desk.widgets.labels import Plain, Rich, show_tip, tip

TRAP = '<img src="/dev/zero"><b>bold</b> & <a href="x">x</a>'
RICH = Qt.TextFormat.RichText
FOLDER = Path(zeotherm.desk.__file__).parent


def test_no_label_is_made_but_by_the_two_kinds():
    made = [
        f"{path.name}:{number}"
        for path in FOLDER.rglob("*.py")
        for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), 1)
        if path.name != "labels.py" and re.search(r"\bQLabel\(|class .*\(QLabel\)", line)
    ]
    assert made == []


def test_a_label_shows_what_was_typed(qtbot):
    plain, rich = Plain(TRAP), Rich()
    qtbot.addWidget(plain)
    qtbot.addWidget(rich)
    assert plain.textFormat() == Qt.TextFormat.PlainText
    rich.setText(TRAP)
    assert "<img" not in rich.text()
    assert "&lt;img" in rich.text()


def test_a_job_named_by_markup_is_shown_as_typed_everywhere(qtbot, open_window):
    window = open_window()
    window.bench.rename(TRAP[:60], TRAP, TRAP)
    settle(qtbot, window)
    for show in (*(show for _cell, _view, show in window.steps), window.show_jobs, window.show_report):
        show()
        qtbot.wait(200)
        for label in window.findChildren(QLabel):
            if label.isVisible() and label.textFormat() != Qt.TextFormat.PlainText:
                assert "<img" not in label.text()
    qtbot.waitUntil(lambda: "<img" in window.report.page.toPlainText(), timeout=30_000)


def test_our_own_markup_is_never_shown_as_it_is_written(qtbot, open_window):
    window = open_window()
    settle(qtbot, window)
    put_on_bench(window, "Dunlin")
    settle(qtbot, window)
    shown = []
    for show in (*(show for _cell, _view, show in window.steps), *(
        lambda part=part: (window.show_explain(), window.explain.turn_to(part)) for part in ("bed", "power")
    )):  # fmt: skip
        show()
        qtbot.wait(1500)
        labels = [label for label in window.findChildren(QLabel) if label.isVisible()]
        rich = [label for label in labels if label.textFormat() == RICH]
        shown += [QTextDocumentFragment.fromHtml(label.text()).toPlainText() for label in rich]
        shown += [label.text() for label in labels if label.textFormat() != RICH]
    assert len(shown) > 50
    assert [text for text in shown if re.search(r"</?(b|br|span|p|td|tr)\b", text)] == []


@pytest.mark.parametrize("text", [TRAP, "a < b", "two\nlines <"])
def test_a_tip_is_shown_as_it_was_typed(qtbot, monkeypatch, text):
    label, shown = Plain("here"), []
    label.setToolTip(text)
    qtbot.addWidget(label)
    label.show()
    monkeypatch.setattr(QToolTip, "showText", lambda _at, words, _of: shown.append(words))
    assert show_tip(label, QHelpEvent(QEvent.Type.ToolTip, QPoint(2, 2), label.mapToGlobal(QPoint(2, 2))))
    assert shown == [tip(text)]
    assert "<img" not in tip(text)
    assert QTextDocumentFragment.fromHtml(shown[0]).toPlainText() == text
