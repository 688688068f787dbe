"""The picture of the whole machine as a widget: each label a row to walk and to press."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from zeotherm.core.parts.hotend.judge.answer import Answer
from zeotherm.desk.parts.whole import drawing
from zeotherm.desk.parts.whole.shown import WholeView
from zeotherm.desk.style import theme
from zeotherm.desk.style.patina import Scale, Span
from zeotherm.desk.widgets.rows import WAYS, RowsWidget
from zeotherm.wording.language import _

HEAD, FOOT = 20, 22


class WholeBoard(RowsWidget):
    """Paints a `WholeView`; its rows are the labels of the parts, most deciding first."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(_("The machine from its side, to scale"), parent)
        self._view: WholeView | None = None
        self._answer: Answer | None = None
        self._tags = ("", "")
        self._scale: Scale = Span.COOL.value
        self._stale = False
        self._sheet: drawing.MachineSheet | None = None
        self._made_of: object = None  # what the sheet was laid out for
        self._spots: tuple[QPointF, ...] = ()  # of the tags
        self._labels: list[drawing.PlacedLabel] = []
        self.open_card = ""  # the part whose card is open
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(300, 220)

    @property
    def view(self) -> WholeView | None:
        """What is shown."""
        return self._view

    @property
    def labels(self) -> list[drawing.PlacedLabel]:
        """Where each label is."""
        return self._labels

    def show_view(self, view: WholeView, answer: Answer, tags: tuple[str, str]) -> None:
        """Show a machine; answer: of its hotend, for the inset; tags: what its air is."""
        self._view, self._answer, self._tags, self._stale = view, answer, tags, False
        self.setAccessibleDescription(view.spoken)
        self.lay_out()
        self.update()

    def set_stale(self) -> None:
        """What is shown is not of the values that are set."""
        if not self._stale:
            self._stale = True
            self.update()

    def set_scale(self, scale: Scale) -> None:
        self._scale = scale
        self.update()

    def show_card(self, key: str) -> None:
        """Mark the part whose card is open; nothing: none is."""
        self.open_card = key
        self.update()

    def lay_out(self) -> None:
        view, answer = self._view, self._answer
        if view is None or answer is None:
            return
        box, at = self._room(), answer.solved.model.layout.at
        made_of = (view.shape, at.block_radius, at.sink_top, box, theme.scaled(100), *map(len, self._tags))
        if self._sheet is None or self._made_of != made_of:
            self._sheet, self._made_of = drawing.sheet_of(view.shape, answer, box), made_of
            self._spots = drawing.tag_spots(view.shape, self._sheet, self._tags)
        self._labels = drawing.placed(view, self._sheet, box)
        by_key = {one.label.key: one for one in self._labels}
        self.place_rows([(one.key, one.spoken, one.tip, by_key[one.key].frame.toAlignedRect()) for one in view.labels])

    def _room(self) -> QRectF:
        return QRectF(self.rect()).adjusted(12, theme.scaled(HEAD) + 4, -8, -theme.scaled(FOOT) - 4)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and Qt.Key(event.key()) in WAYS and self.rows():
            self.rows()[0 if WAYS[Qt.Key(event.key())] > 0 else -1].setFocus(Qt.FocusReason.OtherFocusReason)
            return
        super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """A part that is pressed opens its card, as its label does: the one in front where several lie there."""
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        if event is None or self._view is None or self._sheet is None:
            return
        at = event.position()
        if self._sheet.inset.contains(at):
            self.activated.emit("hotend")
            return
        for solid in reversed(self._view.shape.solids):
            if self._sheet.box(solid.box).adjusted(-3, -3, 3, 3).contains(at):
                self.activated.emit(solid.card)
                return
        if self._view.shape.enclosure is not None and self._sheet.box(self._view.shape.enclosure).contains(at):
            self.activated.emit("enclosure")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        t = theme.tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), t["sheet"])
        view, answer, sheet = self._view, self._answer, self._sheet
        if view is not None and answer is not None and sheet is not None:
            painter.setOpacity(0.55 if self._stale else 1.0)
            head = QRectF(16, 2, self.width() - 24, theme.scaled(HEAD))
            painter.setFont(theme.font(12))
            painter.setPen(t["ink"])
            text = painter.fontMetrics().elidedText(view.sentence, Qt.TextElideMode.ElideRight, int(head.width()))
            painter.drawText(head, Qt.AlignmentFlag.AlignVCenter, text)
            drawing.paint_machine(painter, view, sheet, answer, self._scale, self.open_card)
            drawing.paint_tags(painter, self._tags, self._spots)
            drawing.paint_labels(painter, view, sheet, self._labels, self.open_card, self.focused())
            foot = QRectF(16, self.height() - theme.scaled(FOOT) - 1, self.width() - 28, theme.scaled(FOOT))
            drawing.paint_foot(painter, view, foot)
            painter.setOpacity(1.0)
        if self.hasFocus():
            painter.setPen(theme.pen(t["meas"], 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(1, 1, -2, -2))
        painter.end()
