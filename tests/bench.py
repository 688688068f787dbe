"""Working through an order in the real window, as a technician does."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent, QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLineEdit

from tests.clocks import Clocks
from zeotherm.desk.window import Window

LEFT = Qt.MouseButton.LeftButton


def drop(window: Window, path: Path) -> None:
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(path))])
    window.dropEvent(QDropEvent(QPointF(50, 50), Qt.DropAction.CopyAction, mime, LEFT, Qt.KeyboardModifier.NoModifier))


def photograph(folder: Path, name: str) -> Path:
    """A photograph of its own."""
    path = folder / f"{name}.png"
    image = QImage(8, 8, QImage.Format.Format_RGB32)
    image.fill(hash(name) & 0xFFFFFF)
    image.save(str(path))
    return path


def at_hand(qtbot, window: Window) -> str:
    """Wait until the step at hand is ready to be worked on; returns its key."""

    def ready() -> bool:
        line = window.do.order.now
        return line is None or (window.do.working.aids(line) is not None and not window.do.asked.busy)

    qtbot.waitUntil(ready, timeout=60_000)
    line = window.do.order.now
    return line.key if line is not None else ""


def tick_all(window: Window) -> None:
    """Confirm everything that the step asks for."""
    for check in list(window.do.card.ticks.values()):
        if not check.isChecked():
            check.click()


def read(window: Window, value: str, way: str = "probe") -> None:
    """Type a reading into its field."""
    card = window.do.card
    card.way.setCurrentIndex(card.way.findData(way))
    window.activateWindow()
    card.reading.setFocus()
    card.reading.setText(value)
    QTest.keyClick(card.reading, Qt.Key.Key_Return)


def note(window: Window, key: str, text: str) -> None:
    """Type a value where it belongs, and leave the field."""
    field = window.do.card.fields[key]
    assert isinstance(field, QLineEdit)
    field.setText(text)
    field.editingFinished.emit()


def said(window: Window) -> str:
    return window.spine.entry.hint.toolTip()


def do_step(qtbot, window: Window, clocks: Clocks, folder: Path, exit_key: str = "", **values: str) -> str:
    """Do the step at hand as it asks: confirm, read, photograph, note, and say how it ended; returns its key."""
    key = at_hand(qtbot, window)
    line = window.do.order.now
    tick_all(window)
    if any(gate.kind == "cool" for gate in line.step.gates):
        clocks.go(1500.0)
        read(window, "40")
    if any(gate.kind == "reach" for gate in line.step.gates):
        clocks.go(150.0)
        read(window, f"{line.target.value:.0f}", "console")
    if any(gate.kind == "hold" for gate in line.step.gates):
        if not window.do.card.view.begun:
            window.do.card.begin.click()
        clocks.go(240.0)
        if any(gate.kind == "reach" for gate in line.step.gates):
            read(window, f"{line.target.value:.0f}", "console")
    for record in line.step.record:
        if record.kind == "photo" and record.required:
            drop(window, photograph(folder, f"{key.replace('/', '-')}-{len(window.bench.job.doing.done)}"))
        elif record.key in values:
            note(window, record.key, values[record.key])
        elif record.required:
            note(
                window,
                record.key,
                "as marked" if record.kind == "text" else f"{max(record.low, min(record.high, 4)):g}",
            )
    button = window.do.card.exits[exit_key or line.exits[0].key]
    assert button.isEnabled(), f"{key}: {button.toolTip()}"
    button.click()
    assert window.bench.job.doing.done[-1].step == key, said(window)
    return key
