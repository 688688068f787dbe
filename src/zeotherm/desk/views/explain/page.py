"""The page that Explain is: the places that a part of the machine fills while its tab is on."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QPushButton, QWidget

from zeotherm.desk.viewmodels import LeverRow
from zeotherm.desk.views.frame import LadderColumn
from zeotherm.desk.widgets.cautions import Cautions
from zeotherm.desk.widgets.facts import DecidingFacts
from zeotherm.desk.widgets.labels import Plain, Rich
from zeotherm.desk.widgets.ladder import Ladder
from zeotherm.desk.widgets.levers import Levers
from zeotherm.desk.widgets.line import ElidedLine
from zeotherm.desk.widgets.margins import Margins
from zeotherm.desk.widgets.timestrip import TimeStrip
from zeotherm.desk.widgets.verdict import ArrowButton, VerdictBand
from zeotherm.wording.language import _


class ExplainPage(QWidget):
    """Ladder, verdict, margins, levers, strip and what stands between them."""

    bed_answered = pyqtSignal(object)  # BedFound
    part_answered = pyqtSignal(str)  # key of a part beside the hotend of which more is known now
    tab_wanted = pyqtSignal(str)  # by the key of a part
    asked_for = pyqtSignal(str)  # numbers and parts of the machine, by words in their name or place

    def __init__(self, understood: Callable[[LeverRow, str], float | str], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self.now: QObject | None = None  # the teller of the part that is shown
        self.parts: tuple[Any, ...] = ()  # all tellers
        self.shows_all = False  # whether what is shown needs every part answered
        self.tabs: dict[str, QPushButton] = {}
        self.ladder = Ladder()
        self.column = LadderColumn(self.ladder)
        self.verdict = VerdictBand(ArrowButton(_("Choose a change"), _("F5")))
        self.elsewhere = ElidedLine()
        self.margins = Margins()
        self.facts = DecidingFacts()
        self.levers = Levers(understood)
        self.rivals, self.fits, self.fit = Rich(), Plain(), QPushButton()
        self.cautions = Cautions()
        self.strip = TimeStrip()
        self.foot = ElidedLine()
        self.sure = Plain()
