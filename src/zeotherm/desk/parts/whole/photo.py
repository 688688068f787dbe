"""The photograph of a part's label on its card: small, opened by a press; added, replaced or taken off."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QSize, Qt, QUrl
from PyQt6.QtGui import QDesktopServices, QImage, QImageReader, QPixmap
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QPushButton, QWidget

from zeotherm.answers.executor import Rank, Task
from zeotherm.core.machine.intake import Attachment
from zeotherm.desk.bench import Bench
from zeotherm.desk.bridge import Asked
from zeotherm.desk.qt import PHOTOS
from zeotherm.desk.style import theme
from zeotherm.desk.widgets.labels import Plain
from zeotherm.desk.widgets.line import ElidedLine
from zeotherm.wording.language import _

SMALL = QSize(96, 64)


def small_picture(content: bytes, size: QSize) -> QImage | None:
    """A photograph made small, read no larger than it is shown; None for what is no picture that can be read."""
    held = QByteArray(content)
    buffer = QBuffer(held)
    buffer.open(QIODevice.OpenModeFlag.ReadOnly)
    reader = QImageReader(buffer)
    reader.setAutoTransform(True)
    whole = reader.size()
    if whole.isValid():
        reader.setScaledSize(whole.scaled(size, Qt.AspectRatioMode.KeepAspectRatio))
    image = reader.read()
    return None if image.isNull() else image


class LabelPhoto(QWidget):
    """What is kept of the label of the part whose card is open."""

    def __init__(self, bench: Bench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._bench = bench
        self._card = ""
        self._photo: Attachment | None = None
        self.picture, self.name = Plain(), ElidedLine()
        self.add, self.look, self.off = QPushButton(), QPushButton(_("Look at it")), QPushButton(_("Take off"))
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 6, 14, 8)
        row.addWidget(self.picture)
        row.addWidget(self.name, 1)
        for button in (self.look, self.off, self.add):
            row.addWidget(button)
        self._read = Asked(bench.executor, Rank.LIST, self)
        self._read.changed.connect(self._show_picture)
        self._read.failed.connect(lambda _wrong: self._show_picture(None))
        self.add.clicked.connect(self.ask)
        self.look.clicked.connect(self._open)
        self.off.clicked.connect(lambda: self._bench.photograph(self._card, None))

    def show_photo(self, card: str, label: str, photo: Attachment | None) -> None:
        """The photograph of a part; None: there is none yet."""
        again = photo is not None and photo == self._photo
        self._card, self._photo = card, photo
        for widget in (self.picture, self.look, self.off):
            widget.setVisible(photo is not None)
        self.add.setText(_("Photograph its label") if photo is None else _("Replace"))
        self.name.setText(photo.name if photo is not None else "")
        self.picture.setAccessibleName(_("Label of {part}").format(part=label))
        for button in (self.add, self.look, self.off):
            button.setFont(theme.font(13))
        self.name.setFont(theme.font(12))
        if photo is not None and not again:
            self.picture.setText("")
            self._read.ask(self._small(photo))

    def ask(self) -> None:
        """A photograph from a file."""
        name, _kind = QFileDialog.getOpenFileName(self, _("Photograph of its label"), "", PHOTOS)
        if name:
            self._bench.photograph(self._card, Path(name))

    def _small(self, photo: Attachment) -> Task:
        size = QSize(theme.scaled(SMALL.width()), theme.scaled(SMALL.height()))

        def task(_cancelled: object) -> Iterator[tuple[Attachment, QImage | None]]:
            content = self._bench.photo_bytes(photo)
            yield photo, small_picture(content, size) if content is not None else None

        return task

    def _show_picture(self, found: tuple[Attachment, QImage | None] | None) -> None:
        if found is None or found[0] != self._photo:
            return
        if found[1] is None:
            self.picture.setText(_("no preview"))
        else:
            self.picture.setPixmap(QPixmap.fromImage(found[1]))

    def _open(self) -> None:
        path = self._bench.unpack(self._photo) if self._photo is not None else None
        if path is not None:
            QDesktopServices.openUrl(QUrl.fromLocalFile(str(path)))
