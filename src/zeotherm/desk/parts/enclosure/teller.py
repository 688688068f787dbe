"""The case in Explain: what is shown of it while its tab is on, and what is known of it at all times."""

from __future__ import annotations

from zeotherm.answers import fits
from zeotherm.core.parts.enclosure.judge.answer import ChamberAnswer
from zeotherm.core.parts.enclosure.part import CaseFound
from zeotherm.core.parts.part import Part
from zeotherm.core.runs.warm_up import AIRS
from zeotherm.desk.bench import Bench
from zeotherm.desk.parts.enclosure.board import CaseBoard
from zeotherm.desk.parts.enclosure.shown import CasePictureView, case_ladder, case_picture, case_strip
from zeotherm.desk.timeview import StripView
from zeotherm.desk.viewmodels import LadderView
from zeotherm.desk.views.explain.page import ExplainPage
from zeotherm.desk.views.explain.part_teller import FittedTeller
from zeotherm.wording import enclosure as words
from zeotherm.wording import fits as fits_words
from zeotherm.wording.enclosure_sizes import filament
from zeotherm.wording.language import _


class CaseTeller(FittedTeller[CaseFound]):
    """Fills Explain with the enclosure while its tab is on."""

    HEAD = _("Computed both ways")

    def __init__(self, bench: Bench, view: ExplainPage, part: Part[ChamberAnswer]) -> None:
        super().__init__(bench, view, part, CaseBoard())
        self.fits_with(fits.CASE, AIRS, fits_words.CASE, _("case by its own curve"))

    def picture(self, found: CaseFound) -> CasePictureView:
        return case_picture(found)

    def ladder(self, found: CaseFound) -> LadderView:
        return case_ladder(found)

    def strip(self, found: CaseFound) -> StripView | None:
        return case_strip(found)

    def lines(self, found: CaseFound) -> list[str]:
        lines = [filament(found.own, self._bench.catalogue)] if found.own is not None else []
        lines += [words.tried(one) for one in found.tried]
        lines += [words.cut_out(found.cut)] if found.cut is not None else []
        return lines + [words.gone(one) for one in found.gone]

    def foot(self, answer: ChamberAnswer) -> str:
        return words.settles(answer)


TELLER = CaseTeller
