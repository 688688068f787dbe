"""Further toolheads in Explain: each in section, as it prints or stands by; the tab is there where there are any."""

from __future__ import annotations

from zeotherm.core.machine.documents import Job
from zeotherm.core.parts.part import Part
from zeotherm.core.parts.toolheads.judge import ToolheadsAnswer
from zeotherm.core.parts.toolheads.part import ToolheadsFound
from zeotherm.desk.bench import Bench
from zeotherm.desk.parts.toolheads.board import ToolheadsBoard
from zeotherm.desk.parts.toolheads.shown import ToolheadsView, toolheads_ladder, toolheads_view
from zeotherm.desk.style.patina import Span
from zeotherm.desk.timeview import StripView
from zeotherm.desk.viewmodels import LadderView
from zeotherm.desk.views.explain.page import ExplainPage
from zeotherm.desk.views.explain.part_teller import PartTeller
from zeotherm.wording import toolheads as words


class ToolheadsTeller(PartTeller[ToolheadsFound]):
    """Fills Explain with the further toolheads while their tab is on."""

    span, told_below, has_levers = Span.FULL, False, False

    def __init__(self, bench: Bench, view: ExplainPage, part: Part[ToolheadsAnswer]) -> None:
        super().__init__(bench, view, part, ToolheadsBoard())
        self.board.wanted.connect(bench.put_in_front)
        self.board.dropped.connect(bench.take_out)

    def has_tab(self, job: Job) -> bool:
        return bool(job.setup().toolheads)

    def picture(self, found: ToolheadsFound) -> ToolheadsView:
        return toolheads_view(found)

    def ladder(self, found: ToolheadsFound) -> LadderView:
        return toolheads_ladder(found)

    def strip(self, found: ToolheadsFound) -> StripView | None:
        return None

    def lines(self, found: ToolheadsFound) -> list[str]:
        return []

    def foot(self, answer: ToolheadsAnswer) -> str:
        return words.foot(answer)


TELLER = ToolheadsTeller
