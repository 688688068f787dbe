"""The runs of a job: which kind each is, where it came from, whether it is compared."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from zeotherm.core.machine.measured import Measured, Run
from zeotherm.desk.style import theme
from zeotherm.desk.views.measure.curves import draw_badge
from zeotherm.desk.views.measure.runs_shown import TOKENS
from zeotherm.desk.widgets.painted import paint_head
from zeotherm.desk.widgets.rows import RowsWidget
from zeotherm.wording.language import _

HEAD, ROW = 32, 40


class RunList(RowsWidget):
    """Paints runs; Enter on one opens what can be done with it, Delete takes it off."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("Runs"), parent)
        self._runs: Mapping[str, Run] = {}
        self._numbers: dict[str, int] = {}
        self._hidden: tuple[str, ...] = ()
        self._laid = ""

    def show_runs(self, measured: Measured) -> None:
        labels = list(dict.fromkeys(run.label for run in measured.shown().values()))
        self._runs, self._hidden, self._laid = measured.runs, tuple(measured.hidden), measured.laid or ""
        self._numbers = {
            key: labels.index(run.label) + 1 for key, run in measured.runs.items() if key not in measured.hidden
        }
        self.setFixedHeight(theme.scaled(HEAD + ROW * max(len(self._runs), 1)) + 4)
        self.lay_out()
        self.update()

    def lay_out(self) -> None:
        self.place_rows(
            [(key, self._spoken(key, run), run.source, self._place(index))
             for index, (key, run) in enumerate(self._runs.items())]
        )  # fmt: skip

    def _spoken(self, key: str, run: Run) -> str:
        where = _("not compared") if key in self._hidden else _("compared")
        return f"{run.label}, {run.source}, {where}"

    def _place(self, index: int) -> QRect:
        return QRect(6, theme.scaled(HEAD + ROW * index), self.width() - 12, theme.scaled(ROW))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        head = QRectF(16, 0, self.width() - 32, theme.scaled(HEAD))
        paint_head(painter, head, _("Runs"), _("Enter opens") if self._runs else _("none yet"))
        for index, (key, run) in enumerate(self._runs.items()):
            self._paint_run(painter, key, run, QRectF(self._place(index)))
        painter.end()

    def _paint_run(self, painter: QPainter, key: str, run: Run, box: QRectF) -> None:
        t = theme.tokens()
        painter.setPen(theme.pen(t["line"], 1))
        painter.drawLine(QPointF(16, box.top()), QPointF(self.width() - 16, box.top()))
        number = self._numbers.get(key)
        if number is not None:
            draw_badge(painter, QPointF(26, box.center().y()), number, TOKENS[(number - 1) % len(TOKENS)])
        painter.setPen(t["ink" if number is not None else "soft"])
        painter.setFont(theme.font(13, 600))
        room = int(self.width() - 44 - 20)
        half = box.height() / 2
        label = painter.fontMetrics().elidedText(run.label, Qt.TextElideMode.ElideRight, room)
        painter.drawText(QRectF(44, box.top() + 2, room, half), Qt.AlignmentFlag.AlignVCenter, label)
        painter.setFont(theme.font(12))
        painter.setPen(t["soft"])
        about = _("{rows} rows, {name}").format(rows=run.rows, name=run.source)
        about += ", " + _("over the model") if key == self._laid else ""
        about += ", " + _("not compared") if number is None else ""
        about = painter.fontMetrics().elidedText(about, Qt.TextElideMode.ElideMiddle, room)
        painter.drawText(QRectF(44, box.top() + half - 2, room, half), Qt.AlignmentFlag.AlignVCenter, about)
        if key == self.focused():
            painter.setPen(theme.pen(t["meas"], 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box.adjusted(1, 1, -1, -1))
