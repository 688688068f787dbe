"""Report: the page as it will be printed, and where to."""

from __future__ import annotations

import base64
import re
from collections.abc import Callable, Sequence
from datetime import date

from PyQt6.QtCore import Qt, QUrl, pyqtSignal
from PyQt6.QtGui import QImage, QTextDocument
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QTextBrowser, QVBoxLayout, QWidget

from zeotherm.desk.bench import Bench
from zeotherm.desk.beside import AskedBeside
from zeotherm.desk.style import theme
from zeotherm.desk.views.report import reports
from zeotherm.desk.widgets.labels import Plain
from zeotherm.shop.papers.other_parts import OtherPart
from zeotherm.wording.language import _

PAGE_WIDTH = 800
PICTURE_WIDTH = 340  # as the template says


class ReportView(QWidget):
    """The report preview; buttons write it or go back."""

    save_wanted = pyqtSignal(str)  # .html or .pdf
    back_wanted = pyqtSignal()

    def __init__(
        self, bench: Bench, beside: AskedBeside, change: Callable[[], reports.Change], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self._bench = bench
        self._beside = beside
        self._written: object = None  # the job that the page tells
        self._change = change  # the set that is taken, as far as it is solved
        self.page = QTextBrowser()
        self.page.setOpenLinks(False)
        self.page.setFixedWidth(PAGE_WIDTH)
        self.page.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)  # the text goes by what is left
        self.page.setAccessibleName(_("Report"))
        self.page.setPlaceholderText(_("The report is being written."))
        self._head = Plain()
        self.pdf = QPushButton(_("Write PDF"))
        self.html = QPushButton(_("Write HTML"))
        self.back = QPushButton(_("Back to the bench (Esc)"))
        bar = QHBoxLayout()
        bar.setContentsMargins(20, 10, 20, 10)
        bar.setSpacing(8)
        bar.addWidget(self._head, 1)
        for button in (self.pdf, self.html, self.back):
            bar.addWidget(button)
        middle = QHBoxLayout()
        middle.addStretch()
        middle.addWidget(self.page)
        middle.addStretch()
        stack = QVBoxLayout(self)
        stack.setContentsMargins(0, 0, 0, 12)
        stack.setSpacing(0)
        stack.addLayout(bar)
        stack.addLayout(middle, 1)
        self.pdf.clicked.connect(lambda: self.save_wanted.emit(".pdf"))
        self.html.clicked.connect(lambda: self.save_wanted.emit(".html"))
        self.back.clicked.connect(self.back_wanted)
        bench.answered.connect(lambda _found: self.follow())
        self.refresh()

    def follow(self) -> None:
        """Write the page anew if it is seen."""
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Write the page anew."""
        self._head.setFont(theme.font(14, 700))
        self.page.setFrameShape(QFrame.Shape.NoFrame)
        self.page.setStyleSheet(
            "QTextBrowser { background: #ffffff; color: #182124; border: 1px solid #858C85; padding: 10px; }"
        )
        found = self._bench.found
        if found is None:
            self._head.setText(_("Nothing to report yet"))
            return
        self._head.setText(_("Report of {title}").format(title=reports.title(found.job)))
        if found.job is not self._written:
            self.page.clear()
        if not self.isVisible():
            return
        shown = found

        def write(others: Sequence[OtherPart]) -> None:
            if self._bench.found is shown and self.isVisible():
                self._written = shown.job
                self._show(reports.page(shown, others, date.today().isoformat(), self._change()))

        self._beside.ask_for(shown, write)

    def _show(self, text: str) -> None:
        """Qt's text widgets take pictures as resources, not as data in the page."""
        document = QTextDocument(self.page)
        document.setDefaultFont(theme.font(13))
        data = re.search(r'src="data:image/png;base64,([^"]+)"', text)
        if data is not None:
            image = QImage.fromData(base64.b64decode(data.group(1)))
            image = image.scaledToWidth(PICTURE_WIDTH, Qt.TransformationMode.SmoothTransformation)
            document.addResource(QTextDocument.ResourceType.ImageResource.value, QUrl("section.png"), image)
            text = text.replace(data.group(0), 'src="section.png"')
        document.setHtml(text)
        self.page.setDocument(document)

    def showEvent(self, event: object) -> None:
        self.refresh()
        self.pdf.setFocus(Qt.FocusReason.OtherFocusReason)
