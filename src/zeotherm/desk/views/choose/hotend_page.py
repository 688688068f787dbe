"""What Choose's pages of the wanted hotend share: fields above, buttons and a strip below, one thing asked for."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any, ClassVar, Generic, TypeVar

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeySequence, QResizeEvent, QShortcut
from PyQt6.QtWidgets import QApplication, QHBoxLayout, QLayout, QPushButton, QVBoxLayout, QWidget

from zeotherm.answers.build import BuildFound
from zeotherm.answers.executor import Rank
from zeotherm.answers.window import WindowFound
from zeotherm.core.machine.documents import Job, Variant
from zeotherm.core.machine.patches import Patch
from zeotherm.desk.bench import Bench
from zeotherm.desk.bridge import Asked
from zeotherm.desk.style import theme
from zeotherm.desk.viewmodels import LadderView
from zeotherm.desk.views.choose.wanted_row import WantedRow
from zeotherm.desk.views.frame import COLUMN, NARROW
from zeotherm.desk.widgets.labels import Plain, Rich, coloured
from zeotherm.wording.language import _, begun_large

LONGEST = 60  # characters of an option's name
Found = TypeVar("Found", BuildFound, WindowFound)


class HotendPage(QWidget, Generic[Found]):
    """A page about the build of the job on the bench."""

    told = pyqtSignal(object)  # Verdict
    title = ""  # of its tab
    KEYS: ClassVar[tuple[str, ...]] = ()  # what is wanted, by the names of its fields
    SEVERAL = False  # whether it takes several plastics at once

    def __init__(self, bench: Bench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self._bench = bench
        self.asked = Asked(bench.executor, Rank.ASKED, self)
        self.found: Found | None = None
        self._stale = True
        self._wrong = ""  # an entry that is wrong, until it is mended
        self.wanted = WantedRow(bench, self.KEYS, several=self.SEVERAL)
        self.trouble = Rich()
        self.trouble.setWordWrap(True)
        self.strip = Plain()
        self.strip.setWordWrap(True)

    def question(self) -> Callable[..., Iterator[Any]]:
        """What the page asks for."""
        raise NotImplementedError

    def show_found(self) -> None:
        """Show what is known."""
        raise NotImplementedError

    def set_tight(self, *, tight: bool) -> None:
        """Give the columns their widths."""
        raise NotImplementedError

    def step_back(self) -> None:
        """What Escape does."""
        self.asked.stop()

    def put_on_board(self) -> None:
        """What Ctrl+U does."""
        raise NotImplementedError

    @property
    def buttons(self) -> tuple[QPushButton, ...]:
        """Below the page."""
        return ()

    @property
    def ladder_view(self) -> LadderView | None:
        """What is wanted, at rest on the ladder."""
        return None

    def price_anew(self) -> None:
        """What an hour of work costs has changed."""

    def lay_out(self, middle: QLayout) -> None:
        """Put what the page shows between what is wanted and its buttons."""
        row = QHBoxLayout()
        row.setContentsMargins(16, 4, 16, 6)
        for button in self.buttons:
            row.addWidget(button)
        row.addStretch()
        self.strip.setContentsMargins(16, 4, 16, 4)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(self.wanted)
        whole.addLayout(middle, 1)
        whole.addLayout(row)
        whole.addWidget(self.strip)

    def connect(self) -> None:
        """Follow the job, the shelf, and what is typed."""
        bench = self._bench
        self.asked.changed.connect(self._take_found)
        self.asked.failed.connect(lambda wrong: self.say(str(wrong)))
        bench.job_changed.connect(self._job_changed)
        bench.shelf_changed.connect(lambda: self._job_changed(bench.job))
        self.wanted.wrong.connect(self._say_wrong)
        for keys, what in (("Escape", self.step_back), ("Ctrl+U", self.put_on_board)):
            shortcut = QShortcut(QKeySequence(keys), self)
            shortcut.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
            shortcut.activated.connect(what)

    # what arrives

    def begin(self) -> None:
        """The page comes up."""
        if self._stale:
            self.solve()

    def _job_changed(self, job: Job) -> None:
        found = self.found
        same = found is not None and found.job.found == job.found and found.job.build == job.build
        self._stale = self._stale or not same or found is None or found.catalogue is not self._bench.catalogue
        if self.isVisible():
            self.begin()

    def solve(self) -> None:
        """Ask for all of it."""
        self._stale = False
        self.say(self._wrong)
        self.asked.ask(self.question())

    def _take_found(self, found: Found) -> None:
        if found.job.number == self._bench.job.number:
            self.found = found
            self.show_found()

    # what is done

    def offer(self, key: str, name: str, change: Patch, cost: float | None, minutes: float) -> None:
        """Put a change on the board as an option beside the others; one whose price nobody knows is refused."""
        if cost is None:  # unknown is not free
            self._bench.told.emit(
                _("The price of a part is not known: put it into its drawer on the parts shelf first.")
            )
            return
        label = begun_large(name)
        label = label if len(label) <= LONGEST else f"{label[: LONGEST - 1]}…"
        self._bench.offer(key, Variant(label=label, change=change, cost=round(cost, 2), minutes=minutes))
        self._bench.told.emit(_("On the board: {label}").format(label=label))

    def copy_text(self, text: str, said: str) -> None:
        """Put a text on the clipboard."""
        clipboard = QApplication.clipboard()
        if clipboard is not None:
            clipboard.setText(text)
            self._bench.told.emit(said)

    def _say_wrong(self, text: str) -> None:
        self._wrong = text
        self.say(text)

    def say(self, text: str) -> None:
        """What is wrong, or nothing."""
        self.trouble.setText(coloured(text, theme.tokens().close) if text else "")
        self.trouble.setContentsMargins(16, 2, 12, 2)
        self.trouble.setVisible(bool(text))

    # looks

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.set_tight(tight=self.width() < theme.scaled(NARROW) - COLUMN)
        super().resizeEvent(event)

    def refresh(self) -> None:
        """Take up the theme."""
        self.wanted.refresh()
        self.trouble.setFont(theme.font(12))
        for button in self.buttons:
            button.setFont(theme.font(13))
        self.strip.setFont(theme.font(13, 600))
        self.strip.setStyleSheet(f"background: {theme.tokens().panel}; border-top: 1px solid {theme.tokens().line};")
        self.show_found()
