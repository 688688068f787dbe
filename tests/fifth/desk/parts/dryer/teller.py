"""A filament dryer in Explain."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import Qt

from zeotherm.desk.viewmodels import part_ladder
from zeotherm.desk.views.explain.part_teller import PartTeller
from zeotherm.desk.widgets.part_board import PartBoard


@dataclass(frozen=True)
class DryerPicture:
    """The box and its air."""

    air: float
    spoken: str


class DryerBoard(PartBoard[DryerPicture]):
    """Paints a box."""

    def paint_view(self, painter, view):
        painter.fillRect(self.rect().adjusted(80, 80, -80, -80), self._scale.colour(view.air))
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, view.spoken)


class DryerTeller(PartTeller):
    """Fills Explain with the dryer while its tab is on."""

    HEAD = "Dryer"

    def __init__(self, bench, view, part):
        super().__init__(bench, view, part, DryerBoard("The dryer", "No dryer."))

    def picture(self, found):
        return DryerPicture(found.answer.solved, f"{found.answer.solved:.0f} °C")

    def ladder(self, found):
        was = found.as_found.values if found.as_found is not None else {}
        return part_ladder("At rest", found.answer, found.job, found.time, found.values, was, ("dryer_air",))

    def strip(self, found):
        return None

    def lines(self, found):
        return []

    def foot(self, answer):
        return "Its walls lose 0.6 W/K."


TELLER = DryerTeller
