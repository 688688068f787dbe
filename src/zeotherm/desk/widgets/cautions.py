"""Cautions where the work is: sign, word, and what to do."""

from __future__ import annotations

from markupsafe import Markup
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from zeotherm.core.catalogue import Catalogue
from zeotherm.desk.style import theme
from zeotherm.desk.style.shapes import draw_hazard
from zeotherm.desk.widgets.labels import Rich
from zeotherm.wording.language import _

WORDS = {"burn": _("Burn"), "mains": _("Mains"), "fumes": _("Fumes"), "flame": _("Fire")}
MOST = 2


class HazardSign(QWidget):
    """One hazard sign."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.sign = "burn"
        self.setFixedSize(26, 26)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if not self.sign:
            return
        painter = QPainter(self)
        draw_hazard(painter, self.sign, QRectF(1, 1, 24, 24))
        painter.end()


class Cautions(QWidget):
    """The cautions that this setup calls for: those of its own first, then the usual ones; as many as fit."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName(_("Cautions"))
        stack = QVBoxLayout(self)
        stack.setContentsMargins(16, 6, 14, 8)
        stack.setSpacing(6)
        self._lines: list[tuple[HazardSign, QLabel]] = []
        self._most, self._called = (
            MOST,
            list[tuple[str, str, bool]](),
        )  # sign, text, whether the setup itself calls for it
        for _line in range(MOST):
            row = QHBoxLayout()
            row.setSpacing(8)
            sign, text = HazardSign(), Rich()
            text.setWordWrap(True)
            row.addWidget(sign)
            row.addWidget(text, 1)
            stack.addLayout(row)
            self._lines.append((sign, text))

    def set_most(self, most: int) -> None:
        """How many to show; what the setup calls for besides is named behind the last."""
        self._most = most
        for index, line in enumerate(self._lines):
            for widget in line:
                widget.setVisible(index < most)
        self._tell()

    def show_called(self, called: dict[str, str], catalogue: Catalogue) -> None:
        """These cautions, by key."""
        entries = catalogue.cautions
        own_first = sorted(called.items(), key=lambda item: not entries[item[0]].when)
        self._called = [(entries[key].sign, text, bool(entries[key].when)) for key, text in own_first]
        self._tell()

    def _tell(self) -> None:
        besides = [(WORDS[sign], text) for sign, text, own in self._called[self._most :] if own]
        for index, (sign, label) in enumerate(self._lines):
            if index >= len(self._called):
                label.setText("")
                sign.sign = ""
                sign.update()
                continue
            kind, text, _own = self._called[index]
            sign.sign, word, mark = kind, WORDS[kind], theme.tokens().close
            sentence = text.split(". ")[0].rstrip(".") + "."
            bold = Markup('<b style="color:{}">{}</b>')
            told = bold.format(mark, f"{word}.") + " " + sentence
            whole = [f"{word}. {text}"]
            if index == self._most - 1 and besides:
                words = ", ".join(dict.fromkeys(one for one, _text in besides))
                told += " " + bold.format(mark, _("Besides: {words}.").format(words=words.lower()))
                whole += [f"{one}. {more}" for one, more in besides]
            label.setFont(theme.font(12))
            label.setText(told)
            label.setToolTip("\n".join(whole))
            label.setAccessibleName(" ".join(whole))
            sign.update()
