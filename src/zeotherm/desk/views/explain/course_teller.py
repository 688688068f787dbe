"""What tells of a part in Explain that is solved at rest at once and then over its course: the case, the power path."""

from __future__ import annotations

from typing import Any, Generic, TypeVar

from zeotherm.answers.executor import Task
from zeotherm.core.machine.documents import Job
from zeotherm.core.parts.hotend.judge.answer import called_for
from zeotherm.desk.bench import Bench
from zeotherm.desk.style import theme
from zeotherm.desk.timeview import StripView
from zeotherm.desk.viewmodels import LadderView, lever_rows, margin_rows
from zeotherm.desk.views.explain.page import ExplainPage
from zeotherm.desk.views.explain.part_teller import PartTeller
from zeotherm.desk.widgets.labels import headed
from zeotherm.desk.widgets.part_board import PartBoard
from zeotherm.wording.language import _
from zeotherm.wording.margins import label as part_label
from zeotherm.wording.verdict import Verdict

Known = TypeVar("Known")  # what is known of the part: job, answer, time


class CourseTeller(PartTeller, Generic[Known]):
    """Fills Explain with one part while its tab is on; what it says of it goes into the methods that raise."""

    HEAD = ""  # over the lines below the levers

    def __init__(self, bench: Bench, view: ExplainPage, board: PartBoard[Any]) -> None:
        super().__init__(bench, view, board)
        self.asked.changed.connect(self._take)
        self.found: Any = None  # Known
        self._rows_of: Job | None = None

    # of the part

    def task(self, job: Job) -> Task:
        """What is asked of it."""
        raise NotImplementedError

    def picture(self, found: Known) -> Any:
        """What its board paints."""
        raise NotImplementedError

    def ladder(self, found: Known) -> LadderView:
        """Its ladder."""
        raise NotImplementedError

    def strip(self, found: Known) -> StripView | None:
        """Its course, once it is there."""
        raise NotImplementedError

    def verdict(self, answer: Any) -> Verdict:
        """What is wrong with it, in one sentence."""
        raise NotImplementedError

    def nothing(self) -> tuple[Verdict, str]:
        """What is said where there is no such part, and over the empty ladder."""
        raise NotImplementedError

    def lines(self, found: Known) -> list[str]:
        """What stands below the levers."""
        raise NotImplementedError

    def foot(self, answer: Any) -> str:
        """What stands below the picture."""
        raise NotImplementedError

    def offer(self) -> None:
        """Show the button below the levers, if there is one."""

    # what arrives

    def stop(self) -> None:
        """Stop what is under way; what is known by now stays."""
        self.asked.stop()

    def take_job(self, job: Job) -> None:
        """Another state of the job: at once what the part would come to, while it is looked at."""
        if self.found is not None and self.found.job.number != job.number:
            self.found, self._wish = None, None
            self.board.show_view(None)
        if self.on:
            answer = self.found.answer if self.found is not None else None
            self._view.levers.show_rows(lever_rows(job, self._bench.catalogue, answer, self.part))
            self._rows_of = job
            self._view.strip.set_stale()
            self.solve()

    def solve(self) -> None:
        """Solve the part of the job on the bench while it is looked at."""
        if self.on:
            self.asked.ask(self.task(self._bench.job))

    def _take(self, found: Any) -> None:
        if found.job.number == self._bench.job.number:
            self.found = found.at(self._wish) if self._wish is not None else found
            if self.on and found.answer is not None and found.answer.run is None:
                self.board.show_view(self.picture(self.found))  # while a lever is dragged the picture leads
                self.board.repaint()
            self.tell()

    def scrub(self, time: float | None) -> None:
        """Another moment of the course; None: at rest."""
        self._bench.hand_moves()
        self._wish = time
        if self.found is not None and self.found.answer is not None:
            self.found = self.found.at(time)
            self.tell_moment()

    # what is shown

    def tell(self) -> None:
        """Show what is known, while the tab is on."""
        view, found = self._view, self.found
        if not self.on or found is None:
            return
        if found.answer is None:
            self._tell_nothing()
            return
        answer, catalogue = found.answer, self._bench.catalogue
        view.verdict.clear_trouble()
        view.verdict.show_verdict(self.verdict(answer))
        view.margins.show_rows(margin_rows(answer))
        view.cautions.show_called(called_for(catalogue, answer.facts), catalogue)
        if found.job != self._rows_of or answer.strengths:  # while dragged, the edit laid them already
            view.levers.show_rows(lever_rows(found.job, catalogue, answer, self.part))
        gains = _("{part} gains, per step").format(part=part_label(answer.worst).lower()) if answer.strengths else ""
        view.levers.show_advice(gains, "", "")
        self.offer()
        lines, soft = self.lines(found), theme.tokens().soft
        view.rivals.setText(headed(self.HEAD, lines, soft) if lines else "")
        self.tell_moment()

    def tell_moment(self) -> None:
        """Show the moment that is looked at, while the tab is on."""
        view, found = self._view, self.found
        if not self.on or found is None or found.answer is None:
            return
        view.ladder.show_view(self.ladder(found))
        self.board.show_view(self.picture(found))
        view.foot.setText(self.foot(found.answer))
        view.sure.setText("")
        shown = self.strip(found)
        if shown is not None:
            view.strip.show_view(shown)
        else:
            view.strip.set_stale()

    def _tell_nothing(self) -> None:
        view = self._view
        told, title = self.nothing()
        view.verdict.show_verdict(told)
        self.board.show_view(None)
        view.margins.show_rows(())
        view.ladder.show_view(LadderView(title, (), None, ()))
        view.levers.show_rows(lever_rows(self._bench.job, self._bench.catalogue, None, self.part))
        view.levers.show_advice("", "", "")
        view.rivals.setText("")
        view.foot.setText("")
        self.offer()
