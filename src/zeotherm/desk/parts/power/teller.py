"""The power path in Explain: what is shown of it while its tab is on."""

from __future__ import annotations

from datetime import date

from PyQt6.QtWidgets import QPushButton

from zeotherm.answers.executor import Task
from zeotherm.answers.power import PowerFound, Seen, power
from zeotherm.core.machine.documents import Job
from zeotherm.core.parts.power.judge.answer import PowerAnswer
from zeotherm.core.parts.power.model.inputs import CONTACTS
from zeotherm.core.questions import Start
from zeotherm.core.runs.thermal_picture import spots_of
from zeotherm.desk.bench import Bench
from zeotherm.desk.parts.power.board import PowerBoard
from zeotherm.desk.parts.power.shown import PowerPictureView, power_ladder, power_picture, power_strip
from zeotherm.desk.timeview import StripView
from zeotherm.desk.viewmodels import LadderView
from zeotherm.desk.views.explain.course_teller import CourseTeller
from zeotherm.desk.views.explain.page import ExplainPage
from zeotherm.wording import power as words
from zeotherm.wording import voltage
from zeotherm.wording.language import _
from zeotherm.wording.verdict import Verdict

POWER = "power"
WIDTHS = {False: _("A"), True: _("W")}  # of the strip


class PowerTeller(CourseTeller[PowerFound]):
    """Fills Explain with the power path while its tab is on."""

    part, title = POWER, _("Power")
    HEAD = _("Read and reckoned")

    def __init__(self, bench: Bench, view: ExplainPage) -> None:
        super().__init__(bench, view, PowerBoard())
        self._start: Start[PowerAnswer] = Start()
        self.by_watts = False
        self.widths = {watts: QPushButton(text) for watts, text in WIDTHS.items()}
        self.ways = tuple(self.widths.values())
        for watts, button in self.widths.items():
            button.setToolTip(_("Width of the strip by watts") if watts else _("Width of the strip by amps"))
            button.clicked.connect(lambda _on=False, watts=watts: self.show_watts(watts))
        view.fit.clicked.connect(lambda: view.asked_for.emit(f"{POWER}.") if self.on else None)

    def task(self, job: Job) -> Task:
        bench = self._bench
        return power(bench.store, job, bench.catalogue, self._start, _seen(job))

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

    def verdict(self, answer: PowerAnswer) -> Verdict:
        return words.verdict(answer)

    def nothing(self) -> tuple[Verdict, str]:
        return words.undescribed(), _("Not described")

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
