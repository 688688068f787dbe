"""The card of one part of the machine: its figures, how each is known, how to find out the rest, what depends on it."""

from __future__ import annotations

from markupsafe import Markup
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from zeotherm.desk.bench import Bench
from zeotherm.desk.parts.whole.photo import LabelPhoto
from zeotherm.desk.parts.whole.shown import MachineCard
from zeotherm.desk.style import theme
from zeotherm.desk.views.own_part import OwnPart
from zeotherm.desk.widgets.known import KnownMark
from zeotherm.desk.widgets.labels import Plain, Rich
from zeotherm.desk.widgets.levers import Levers
from zeotherm.desk.widgets.margins import Margins
from zeotherm.wording.language import _

MOST_MARGINS = 4
FIRST = 7  # figures that are shown before one asks for more


class PartCard(QWidget):
    """Everything that is entered of one part; hidden while none is open."""

    closed = pyqtSignal()
    more_wanted = pyqtSignal(str)  # the tab of a part

    def __init__(self, bench: Bench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.view: MachineCard | None = None
        self.back = QPushButton(_("Back to the facts"))
        self.more = QPushButton()
        self.fold, self.photo = QPushButton(), LabelPhoto(bench)
        self._whole = False
        self._title, self._aside, self._mark = Plain(), Plain(), KnownMark()
        self._facts = Rich()
        self._facts.setWordWrap(True)
        self.margins = Margins()
        self.levers = Levers(lambda row, text: bench.typed(row.path, text), _("What is entered"))
        self._lay_out()
        self.back.clicked.connect(self.closed)
        self.fold.clicked.connect(lambda: self.show_all(whole=not self._whole))
        self.more.clicked.connect(lambda: self.more_wanted.emit(self.view.part) if self.view is not None else None)
        self.levers.set_to.connect(lambda path, value, dragging: bench.describe(path, value, dragging=dragging))
        self.levers.reset.connect(bench.set_found)
        self.levers.known.connect(bench.set_known)
        self.levers.measured.connect(bench.set_measured)
        self.levers.make.connect(lambda path: OwnPart(bench, path, self.window()).exec())
        self.hide()

    def _lay_out(self) -> None:
        top = QHBoxLayout()
        top.setContentsMargins(14, 8, 14, 2)
        top.addWidget(self.back)
        top.addStretch()
        top.addWidget(self.more)
        named = QHBoxLayout()
        named.setContentsMargins(16, 4, 14, 2)
        named.setSpacing(8)
        named.addWidget(self._mark)
        named.addWidget(self._title)
        named.addStretch()
        named.addWidget(self._aside, 0, Qt.AlignmentFlag.AlignRight)
        self._facts.setContentsMargins(16, 2, 14, 6)
        stack = QVBoxLayout(self)
        stack.setContentsMargins(0, 0, 0, 0)
        stack.setSpacing(0)
        stack.addLayout(top)
        stack.addLayout(named)
        stack.addWidget(self._facts)
        stack.addWidget(self.levers)
        folding = QHBoxLayout()
        folding.setContentsMargins(14, 4, 14, 6)
        folding.addWidget(self.fold)
        folding.addStretch()
        stack.addLayout(folding)
        stack.addWidget(self.margins)
        stack.addWidget(self.photo)
        stack.addStretch()

    def show_view(self, view: MachineCard | None, tab: str = "") -> None:
        """Show a card; tab: what the rest of its part is called. None: no card is open."""
        opened = view is not None and (self.view is None or self.view.key != view.key)
        self.view = view
        self.setVisible(view is not None)
        if view is None:
            return
        self.refresh()
        self._title.setText(view.title)
        self._aside.setText(view.aside)
        self._mark.show_how(view.how)
        self.more.setText(tab)
        self.more.setAccessibleName(_("More about it: {tab}").format(tab=tab))
        self.more.setVisible(bool(tab))
        soft = theme.tokens().soft
        line = Markup('<b>{}</b> <span style="color:{}">{}</span>')
        self._facts.setText(Markup("<br>").join(line.format(label, soft, told) for label, told in view.facts))
        self._facts.setVisible(bool(view.facts))
        if opened:
            self._whole = False
        self._show_rows(view)
        self.levers.show_advice(_("press the mark once it is known"), None)
        count = min(len(view.margins), MOST_MARGINS)
        self.margins.set_compact(False, count)
        self.margins.show_rows(view.margins)
        self.margins.setVisible(count > 0)
        self.photo.show_photo(view.key, view.title, view.photo)
        if opened:
            self.setAccessibleName(f"{view.title}. {view.aside}")

    def show_all(self, *, whole: bool) -> None:
        """Every figure of it, or those that matter most."""
        self._whole = whole
        if self.view is not None:
            self._show_rows(self.view)

    def _show_rows(self, view: MachineCard) -> None:
        self.levers.show_rows(view.rows if self._whole else view.rows[:FIRST])
        left = len(view.rows) - FIRST
        more = _("1 more figure") if left == 1 else _("{count} more figures").format(count=left)
        self.fold.setText(_("Fewer figures") if self._whole else more)
        self.fold.setVisible(left > 0)

    def set_compact(self, compact: bool) -> None:
        """Without sliders, where the window is narrow."""
        self.levers.set_compact(compact)

    def refresh(self) -> None:
        """Take up the theme."""
        self._title.setFont(theme.font(16, 700))
        self._aside.setFont(theme.font(12))
        self._facts.setFont(theme.font(12))
        for button in (self.back, self.more, self.fold):
            button.setFont(theme.font(13))
