"""The bed in Explain: what is shown of it while its tab is on, and that there is trouble with it while it is not."""

from __future__ import annotations

from markupsafe import Markup
from PyQt6.QtWidgets import QPushButton

from zeotherm.answers import fits
from zeotherm.core.judgement.margins import State
from zeotherm.core.parts.bed.judge.answer import BedAnswer
from zeotherm.core.parts.bed.part import BedFound
from zeotherm.core.parts.part import Part
from zeotherm.desk.bench import Bench
from zeotherm.desk.parts.bed.board import BedBoard
from zeotherm.desk.parts.bed.shown import BedPictureView, bed_ladder, bed_picture, bed_strip
from zeotherm.desk.style import theme
from zeotherm.desk.timeview import StripView
from zeotherm.desk.viewmodels import LadderView
from zeotherm.desk.views.explain.page import ExplainPage
from zeotherm.desk.views.explain.part_teller import FittedTeller
from zeotherm.desk.widgets.labels import headed
from zeotherm.wording import bed as words
from zeotherm.wording import fits as fits_words
from zeotherm.wording.bed_sizes import controller
from zeotherm.wording.language import _

SPANS = {False: _("Warm-up"), True: _("Print")}  # of the time strip


class BedTeller(FittedTeller[BedFound]):
    """Fills Explain with the bed while its tab is on; at all times knows how it stands."""

    HEAD, AHEAD = _("Computed both ways"), True

    def __init__(self, bench: Bench, view: ExplainPage, part: Part[BedAnswer]) -> None:
        super().__init__(bench, view, part, BedBoard())
        self.board.pointed.connect(self.show_point)
        self.spans = {whole: QPushButton(text) for whole, text in SPANS.items()}
        self.ways = tuple(self.spans.values())
        for whole, button in self.spans.items():
            button.clicked.connect(lambda _on=False, whole=whole: self.show_span(whole))
        self.fits_with(fits.BED, ("bed",), fits_words.BED, _("bed by its own curve"))
        self._whole = False

    def show_span(self, whole: bool) -> None:
        """The strip over the warm-up, or over the whole print."""
        self._whole = whole
        self.tell_strip()

    def show_point(self, text: str) -> None:
        """What is read at a point of the face; nothing: the balance again."""
        if self.on and self.found is not None and self.found.answer is not None:
            self._view.foot.setText(text or self.foot(self.found.answer))

    def tell(self) -> None:
        view, found = self._view, self.found
        answer = found.answer if found is not None else None
        state = answer.worst.state if answer is not None else State.UNKNOWN
        told = _("{part}, {state}").format(part=self.title, state=_("short") if state is State.SHORT else _("over"))
        view.tabs[self.part].setText(told if state.bad else self.title)
        view.elsewhere.setText("" if self.on or view.shows_all else words.elsewhere(answer))
        view.elsewhere.setVisible(bool(view.elsewhere.text()))
        if found is not None:
            view.bed_answered.emit(found)
        super().tell()

    def picture(self, found: BedFound) -> BedPictureView:
        return bed_picture(found)

    def ladder(self, found: BedFound) -> LadderView:
        return bed_ladder(found)

    def strip(self, found: BedFound) -> StripView | None:
        return bed_strip(found, whole=self._whole)

    def lines(self, found: BedFound) -> list[str]:
        answer = found.answer
        ruled = [words.controlled(answer.controlled)] if answer is not None and answer.controlled is not None else []
        tuned = [controller(found.tuned)] if found.tuned is not None else []
        return [*ruled, *(words.rival(one) for one in found.rivals), *tuned]

    def below(self, found: BedFound) -> str:
        assert found.answer is not None
        told = super().below(found)
        return (Markup(told) + Markup("<br>") if told else Markup("")) + headed(
            _("Sheet"), [words.sheet(found.answer)], theme.tokens().soft
        )

    def advice(self, answer: BedAnswer) -> str:
        return words.enough(answer)

    def foot(self, answer: BedAnswer) -> str:
        if said := self.board.reading:  # what is pointed at stays while more becomes known
            return str(said)
        return f"{words.balance(answer)}. {words.sensor_offset(answer)}."


TELLER = BedTeller
