"""The power path in Explain: what is shown of it while its tab is on."""

from __future__ import annotations

from datetime import date

from PyQt6.QtWidgets import QPushButton

from zeotherm.core.machine.documents import Job
from zeotherm.core.parts.part import Part
from zeotherm.core.parts.power.judge.answer import PowerAnswer
from zeotherm.core.parts.power.judge.readings import Seen
from zeotherm.core.parts.power.model.inputs import CONTACTS
from zeotherm.core.parts.power.part import PowerFound
from zeotherm.core.runs.thermal_picture import spots_of
from zeotherm.desk.bench import Bench
from zeotherm.desk.parts.power.board import PowerBoard
from zeotherm.desk.parts.power.shown import PowerPictureView, power_ladder, power_picture, power_strip
from zeotherm.desk.timeview import StripView
from zeotherm.desk.viewmodels import LadderView
from zeotherm.desk.views.explain.page import ExplainPage
from zeotherm.desk.views.explain.part_teller import PartTeller
from zeotherm.wording import power as words
from zeotherm.wording import voltage
from zeotherm.wording.language import _

WIDTHS = {False: _("A"), True: _("W")}  # of the strip


class PowerTeller(PartTeller[PowerFound]):
    """Fills Explain with the power path while its tab is on."""

    HEAD = _("Read and reckoned")

    def __init__(self, bench: Bench, view: ExplainPage, part: Part[PowerAnswer]) -> None:
        super().__init__(bench, view, part, PowerBoard())
        self.by_watts = False
        self.widths = {watts: QPushButton(text) for watts, text in WIDTHS.items()}
        self.ways = tuple(self.widths.values())
        for watts, button in self.widths.items():
            button.setToolTip(_("Width of the strip by watts") if watts else _("Width of the strip by amps"))
            button.clicked.connect(lambda _on=False, watts=watts: self.show_watts(watts))
        view.fit.clicked.connect(lambda: view.asked_for.emit(f"{self.part}.") if self.on else None)

    def told(self, job: Job) -> tuple[Seen, ...]:
        return _seen(job)

    def show_watts(self, by_watts: bool) -> None:
        """The strip's width by watts, or by amps."""
        self.by_watts = by_watts
        self.tell_moment()

    def picture(self, found: PowerFound) -> PowerPictureView:
        return power_picture(found, by_watts=self.by_watts)

    def ladder(self, found: PowerFound) -> LadderView:
        return power_ladder(found)

    def strip(self, found: PowerFound) -> StripView | None:
        return power_strip(found, by_watts=self.by_watts)

    def lines(self, found: PowerFound) -> list[str]:
        answer = found.answer
        assert answer is not None
        lines = [voltage.comes(one) for one in answer.wrong]
        lines += [words.told(one, words.PARTS[name]) for name, one in found.told] + list(found.refused)
        wall = found.job.readings.get("power_wall")
        lines += [words.wall_read(wall.value, answer)] if wall is not None else []
        lines += [words.wall(answer), words.stays(answer), words.retorque(answer, date.today())]
        lines = [line for line in lines if line]
        return lines + ([words.lasts(found.lasting)] if answer.strengths else [])

    def foot(self, answer: PowerAnswer) -> str:
        return words.foot(answer, by_watts=self.by_watts)

    def offer(self) -> None:
        """All numbers and parts of the path, to describe it."""
        self._view.fit.setText(_("All of the path"))
        self._view.fit.setVisible(True)


def _seen(job: Job) -> tuple[Seen, ...]:
    """Contacts in the job's thermal pictures: regions that are called as they are."""
    contacts = {words.PARTS[key].lower(): key for key in CONTACTS}
    return tuple(
        Seen(contacts[region.strip().lower()], warm, picture.camera_doubt, picture.label)
        for picture in job.measured.pictures.values()
        for region, warm in spots_of(picture).items()
        if region.strip().lower() in contacts
    )


TELLER = PowerTeller
