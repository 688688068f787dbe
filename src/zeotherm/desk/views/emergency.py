"""Smoke or runaway: what to do at once, to be read from two metres. One key leads here from everywhere."""

from __future__ import annotations

import itertools

from markupsafe import Markup
from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.procedures import Emergency
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_hazard
from zeotherm.desk.widgets.labels import Plain, Rich
from zeotherm.wording.language import _

SIGN = 44
AROUND = 110  # letters that a case takes for its name and what is large in it
TITLE, HEADING, FIRST, REST = 40, 26, 22, 17  # px at their usual size
LARGEST, SMALLEST, STEP = 1.7, 0.8, 0.05  # of that size: the largest with which all of it fits the page
READ_AT_TWO_METRES = 20  # px of what is to be done first, at the least


class _Sign(QWidget):
    """One large hazard sign."""

    def __init__(self, sign: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._sign = sign
        self.setFixedSize(SIGN, SIGN)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw_hazard(painter, self._sign, QRectF(2, 2, SIGN - 4, SIGN - 4))
        painter.end()


class EmergencyView(QWidget):
    """The page; it does nothing but tell, and leads back. What comes first in each case is large; all of it fills the
    page as far as there is room."""

    back_wanted = pyqtSignal()

    def __init__(self, catalogue: Catalogue, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self._catalogue = catalogue
        self.size_of_first = 0  # px
        self._fitted: object = None
        self.title = Plain(_("Pull the plug. People first."))
        self.title.setWordWrap(True)
        self.back = QPushButton(_("It is over: back (Esc)"))
        self.blocks: dict[str, QLabel] = {}
        self._banner = QWidget()
        self._banner.setObjectName("banner")
        head = QHBoxLayout(self._banner)
        head.setContentsMargins(24, 10, 24, 10)
        head.addWidget(self.title, 1)
        head.addWidget(self.back)
        self._inside = QWidget()
        self._inside.setObjectName("page")
        columns = QHBoxLayout(self._inside)
        columns.setContentsMargins(24, 12, 24, 12)
        columns.setSpacing(34)
        self._columns: tuple[list[QLabel], list[QLabel]] = ([], [])
        for keys, labels in zip(self._shared(), self._columns, strict=True):
            column = QVBoxLayout()
            column.setSpacing(14)
            for key in keys:
                column.addLayout(self._block(key, labels))
            column.addStretch()
            columns.addLayout(column, 1)
        scroll = QScrollArea()
        scroll.setWidget(self._inside)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        stack = QVBoxLayout(self)
        stack.setContentsMargins(0, 0, 0, 0)
        stack.setSpacing(0)
        stack.addWidget(self._banner)
        stack.addWidget(scroll, 1)
        self.back.clicked.connect(self.back_wanted)
        self.refresh()

    def _shared(self) -> tuple[list[str], list[str]]:
        """Which case stands in which column, so that both are as long as may be; the first stays first."""
        cases = self._catalogue.emergencies
        first, *others = cases
        long = {key: AROUND + sum(map(len, about.lines)) for key, about in cases.items()}
        sides = [
            [first, *(key for key, left in zip(others, ways, strict=True) if left)]
            for ways in itertools.product((True, False), repeat=len(others))
        ]
        whole = sum(long.values())
        left = min(sides, key=lambda keys: abs(2 * sum(long[key] for key in keys) - whole))
        return left, [key for key in cases if key not in left]

    def _block(self, key: str, labels: list[QLabel]) -> QHBoxLayout:
        about = self._catalogue.emergencies[key]
        label = Rich()
        label.setWordWrap(True)
        label.setAlignment(Qt.AlignmentFlag.AlignTop)
        label.setAccessibleName(f"{about.label}. {' '.join(about.lines)}")
        self.blocks[key] = label
        labels.append(label)
        cell = QHBoxLayout()
        cell.setSpacing(12)
        cell.addWidget(_Sign(about.sign), 0, Qt.AlignmentFlag.AlignTop)
        cell.addWidget(label, 1)
        return cell

    def refresh(self) -> None:
        """Take up the theme."""
        t = theme.tokens()
        self._banner.setStyleSheet(f"QWidget#banner {{ background: {t.over}; }}")
        self.title.setFont(theme.font(TITLE, 700))
        self.title.setStyleSheet(f"color: {t.onover};")
        self.back.setFont(theme.font(13, 600))
        self._fit()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        """Take the largest size with which both columns end on the page."""
        wanted = (self.size(), theme.scaled(100))  # light or dark takes as much room
        if self._fitted == wanted:
            return
        self._fitted = wanted
        wide = (self.width() - 2 * 24 - 34) // 2 - SIGN - 12
        room = self.height() - self._banner.sizeHint().height() - 2 * 12 - 8
        size = LARGEST
        while True:
            self._write(size)
            tallest = max(
                sum(max(one.heightForWidth(wide), SIGN) for one in labels) + 14 * len(labels)
                for labels in self._columns
            )
            if tallest <= room or size <= SMALLEST:
                return
            size -= STEP

    def _write(self, size: float) -> None:
        first, rest, heading = (theme.scaled(size * px) for px in (FIRST, REST, HEADING))
        self.size_of_first = max(first, READ_AT_TWO_METRES)
        for key, label in self.blocks.items():
            label.setFont(theme.font(REST))
            label.setText(_written(self._catalogue.emergencies[key], heading, self.size_of_first, rest))


def _written(about: Emergency, heading: int, first: int, rest: int) -> Markup:
    """A case: its name and what comes first large, then the rest."""
    head = Markup("<p style='margin:0'><b style='font-size:{}px'>{}</b></p>").format(heading, about.label)
    line = Markup("<p style='margin:4px 0 0 0; font-size:{}px; font-weight:{}'>{}. {}</p>")
    lines = [
        line.format(first if number == 1 else rest, 600 if number == 1 else 400, number, text)
        for number, text in enumerate(about.lines, 1)
    ]
    return head + Markup("").join(lines)
