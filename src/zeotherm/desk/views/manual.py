"""The manual, beside the window: the page of what is shown, and any other by a word."""

from __future__ import annotations

from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtGui import QTextCursor, QTextDocument
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from zeotherm.desk.style import theme
from zeotherm.desk.widgets.labels import Plain
from zeotherm.shop.manual import INDEX, find, pages
from zeotherm.wording.language import _

NAME = Qt.ItemDataRole.UserRole
OF_VIEWS = {  # the page of each view, and of each part in Explain
    "intake": "intake", "measure": "measuring", "machine": "machine", "hotend": "reading",
    "bed": "bed", "case": "case", "power": "power", "toolheads": "toolheads",
    "choose": "choosing", "do": "doing", "jobs": "jobs", "report": "readings", "emergency": "trouble",
    "shelf": "shelf",
}  # fmt: skip


class ManualDialog(QDialog):
    """Pages at the left, found by words; the page itself at the right."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(_("Manual"))
        self.search = QLineEdit()
        self.search.setPlaceholderText(_("Words to find"))
        self.search.setAccessibleName(_("Words to find in the manual"))
        self.search.setClearButtonEnabled(True)
        self.list = QListWidget()
        self.list.setAccessibleName(_("Pages of the manual"))
        self.none = Plain()
        self.page = QTextBrowser()
        self.page.setOpenLinks(False)
        self.page.setAccessibleName(_("Page of the manual"))
        side = QVBoxLayout()
        side.addWidget(self.search)
        side.addWidget(self.none)
        side.addWidget(self.list, 1)
        whole = QHBoxLayout(self)
        whole.setSizeConstraint(QLayout.SizeConstraint.SetNoConstraint)
        whole.addLayout(side, 1)
        whole.addWidget(self.page, 3)
        self.search.textChanged.connect(self._find)
        self.list.currentItemChanged.connect(self._turn)
        self.page.anchorClicked.connect(self._follow)
        self.refresh()
        self._find("")
        self.resize(960, 680)

    def open_at(self, view: str) -> None:
        """Come up with the page of a view or a part; the index for one that has none."""
        self.search.clear()
        self.turn_to(OF_VIEWS.get(view, INDEX))
        self.show()
        self.activateWindow()
        self.search.setFocus()

    def turn_to(self, name: str) -> None:
        """Show a page by its name, if it is on the list."""
        for row in range(self.list.count()):
            item = self.list.item(row)
            if item is not None and item.data(NAME) == name:
                self.list.setCurrentItem(item)

    def refresh(self) -> None:
        """Take up the theme."""
        self.setFont(theme.font(13))
        self.page.setFont(theme.font(13))
        t = theme.tokens()
        document = self.page.document()
        if document is not None:
            document.setDefaultStyleSheet(f"a {{ color: {t.accent}; }}")

    def _find(self, words: str) -> None:
        now = self.list.currentItem()
        name = now.data(NAME) if now is not None else INDEX
        hits = find(words) if words.strip() else [(one, 0) for one in pages().values()]
        self.list.clear()
        for one, count in hits:
            item = QListWidgetItem(f"{one.title} ({count})" if count else one.title)
            item.setData(NAME, one.name)
            self.list.addItem(item)
        self.none.setText("" if hits else _("No page has these words."))
        self.none.setVisible(not hits)
        self.turn_to(name)
        if self.list.currentItem() is None and hits:
            self.list.setCurrentRow(0)
        self._mark(words)

    def _turn(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            features = QTextDocument.MarkdownFeature.MarkdownDialectGitHub
            document = self.page.document()
            if document is not None:
                document.setMarkdown(pages()[item.data(NAME)].text, features)
                _spread(document)
            self.page.moveCursor(QTextCursor.MoveOperation.Start)
            self._mark(self.search.text())

    def _mark(self, words: str) -> None:
        """Go to where the first of the words stands."""
        first = words.split()[:1]
        if first:
            self.page.moveCursor(QTextCursor.MoveOperation.Start)
            self.page.find(first[0])

    def _follow(self, link: QUrl) -> None:
        name = link.fileName().removesuffix(".md")
        if name in pages():
            self.search.clear()
            self.turn_to(name)


def _spread(document: QTextDocument) -> None:
    """Leave room below each paragraph; cells of tables and items of lists stand close."""
    block = document.begin()
    while block.isValid():
        cursor = QTextCursor(block)
        if cursor.currentTable() is None and cursor.currentList() is None:
            spaced = cursor.blockFormat()
            spaced.setBottomMargin(theme.scaled(8))
            cursor.setBlockFormat(spaced)
        block = block.next()
