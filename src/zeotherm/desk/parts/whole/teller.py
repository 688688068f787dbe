"""The whole machine in Explain: its verdict is that of the part which is worst, its picture shows them all."""

from __future__ import annotations

from operator import is_

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from zeotherm.answers.hotend import Found
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Job
from zeotherm.core.machine.toolheads import plain
from zeotherm.core.parts.hotend.judge.answer import called_for, cautions
from zeotherm.desk.bench import Bench
from zeotherm.desk.factsview import FactsView, assumed_view, deciding_view, facts_view
from zeotherm.desk.parts.whole.board import WholeBoard
from zeotherm.desk.parts.whole.card import PartCard
from zeotherm.desk.parts.whole.shown import (
    PartSeen,
    WholeFound,
    air_tags,
    card_view,
    cards_of,
    whole_ladder,
    whole_margins,
    whole_view,
)
from zeotherm.desk.parts.whole.verdicts import PartLine, PartVerdicts
from zeotherm.desk.style.patina import Span
from zeotherm.desk.timeview import strip
from zeotherm.desk.views.explain.page import ExplainPage
from zeotherm.desk.views.explain.part_teller import PartTeller
from zeotherm.desk.views.explain.teller import HoursTeller
from zeotherm.wording.language import _
from zeotherm.wording.machine import TITLE, lacking
from zeotherm.wording.parts import verdict_on, words_of
from zeotherm.wording.verdict import Verdict, short, short_of, verdict, with_lacking

KEYS = _("Up and Down go from part to part, most deciding first. Enter opens its card.")


class WholeTeller(HoursTeller):
    """Fills Explain with the machine while its tab is on; what it shows, the hotend and the parts' tellers ask."""

    part, title, span, told_below, shows_all = "machine", TITLE, Span.COOL, False, True

    def __init__(self, bench: Bench, view: ExplainPage) -> None:
        super().__init__(bench, view, WholeBoard())
        self._of = ""  # number of the job that is shown
        self._whole: WholeFound | None = None
        self._made_of: tuple[object, ...] = ()  # what `_whole` was put together of
        self._led: WholeFound | None = None  # what the picture shows before the rest is told
        self.card, self.lines = PartCard(bench), PartVerdicts()
        self.panel = QWidget()
        below = QVBoxLayout(self.panel)
        below.setContentsMargins(0, 0, 0, 0)
        below.setSpacing(0)
        below.addWidget(self.lines)
        below.addWidget(self.card)
        self.lines.activated.connect(view.tab_wanted)
        self.lines.pressed.connect(lambda key, _place: view.tab_wanted.emit(key))
        bench.unsolved.connect(self._show_trouble)
        bench.busy_changed.connect(lambda _busy: view.verdict.set_busy(self.busy) if self.on else None)
        view.part_answered.connect(lambda: self.tell())
        self.board.activated.connect(self.open_card)
        self.board.pressed.connect(lambda key, _place: self.open_card(key))
        self.card.closed.connect(self.close_card)
        self.card.more_wanted.connect(view.tab_wanted)

    @property
    def busy(self) -> bool:
        return self._bench.busy or any(one.busy for one in self._beside)

    def scrub(self, time: float | None) -> None:
        """Another moment of the machine's hours, for all of its parts; None: the worst of its hotend."""
        super().scrub(time)
        for one in self._beside:
            one.scrub(time)

    # what is known

    @property
    def _beside(self) -> tuple[PartTeller, ...]:  # type: ignore[type-arg]
        return tuple(one for one in self._view.parts if isinstance(one, PartTeller))

    @property
    def whole(self) -> WholeFound | None:
        """The machine as far as it is answered; None before anything is."""
        found, beside = self._bench.found, self._beside
        if found is None:
            return None
        made_of = (found, *(one.found for one in beside), *(one.trouble for one in beside))
        if len(made_of) != len(self._made_of) or not all(map(is_, made_of, self._made_of)):
            number, setup, catalogue = found.job.number, found.job.setup(), found.answer.catalogue
            seen = [
                PartSeen(one.of, one.found if one.found and one.found.job.number == number else None, catalogue,
                         one.trouble)
                for one in beside if one.of.counts(setup, catalogue)
            ]  # fmt: skip
            self._whole, self._made_of = WholeFound(found, tuple(seen)), made_of
        return self._whole

    def take_job(self, job: Job) -> None:
        if not self.on:
            return
        self._view.strip.set_stale()
        if self._of != job.number:
            self._of = job.number
            self._view.strip.show_view(None)
            self.close_card()
        for one in self._beside:
            one.leads = False
        self.show_card()

    def take_found(self, found: Found) -> None:
        if self.on and found.course is None and (whole := self.whole) is not None:
            self._show_picture(whole)
            self._led = whole
            self.board.repaint()  # while a lever is dragged the picture leads
        self.tell()

    def _show_picture(self, whole: WholeFound) -> None:
        if self._led is not whole:
            self.board.show_view(whole_view(whole), whole.hotend.answer, air_tags(whole))
        self._led = None

    def tell(self) -> None:
        whole, view = self.whole, self._view
        if not self.on or whole is None:
            return
        self._of = whole.job.number
        view.verdict.clear_trouble()
        view.verdict.show_verdict(self._verdict(whole))
        view.margins.show_rows(whole_margins(whole))
        facts, final = self._facts(whole)
        view.facts.show_view(facts, (self.part, whole.job.number), final=final)
        view.ladder.show_view(whole_ladder(whole))
        self.lines.show_lines(self._lines(whole))
        self._tell_cautions(whole)
        self._show_picture(whole)
        if whole.hotend.course is None:
            view.strip.set_stale()
        else:
            view.strip.show_view(strip(whole.hotend, view.strip.view))
        view.foot.setText(KEYS)
        view.foot.setToolTip("")
        self.show_card()
        view.verdict.set_busy(self.busy)
        self._ask_for_facts(whole)

    def _verdict(self, whole: WholeFound) -> Verdict:
        seen = whole.worst_part
        if seen is None:
            told = verdict(whole.hotend.judged, whole.hotend.standing)
        else:
            told = verdict_on(words_of(seen.part), seen.answer, whole.standing)
        waits = whole.waits if told.state is State.CLEAR else ()  # what is past a limit stays so, whatever follows
        names = ([words_of(one.part).LABEL for one in ones] for ones in (waits, whole.fails, whole.not_entered))
        return with_lacking(told, lacking(*names))

    def _lines(self, whole: WholeFound) -> tuple[PartLine, ...]:
        """Every part by its own verdict."""
        titles = {one.part: one.title for one in self._view.parts}
        own = verdict(whole.hotend.judged, whole.hotend.standing)
        lines = [PartLine("hotend", titles["hotend"], own.headline, own.state)]
        for seen in whole.parts:
            words = words_of(seen.part)
            if seen.trouble:
                told = Verdict(seen.trouble, "", State.UNKNOWN)
            elif seen.found is None:
                told = Verdict(_("Being worked out"), "", State.UNKNOWN)
            elif seen.answer is None:
                told = words.nothing()
            else:
                told = verdict_on(words, seen.answer, seen.standing)
            lines.append(PartLine(seen.part.key, titles[seen.part.key], told.headline, told.state))
        return tuple(lines)

    def _facts(self, whole: WholeFound) -> tuple[FactsView | None, bool]:
        """The facts that decide the verdict on the machine, and whether no more is to come."""
        seen = whole.worst_part
        if seen is None:
            return facts_view(whole.hotend), whole.hotend.decided
        facts = deciding_view(seen.answer, whole.standing, whole.catalogue)
        return facts or assumed_view(whole.standing, whole.catalogue), facts is not None

    def _tell_cautions(self, whole: WholeFound) -> None:
        calls = dict(cautions(whole.hotend.judged))
        for seen in whole.parts:
            if seen.answer is not None:
                calls |= called_for(whole.catalogue, seen.answer.facts)
        self._view.cautions.show_called(calls, whole.catalogue)

    def _ask_for_facts(self, whole: WholeFound) -> None:
        """What decides is only reckoned for a part that is looked at: the worst one is, here."""
        seen = whole.worst_part
        if seen is None or seen.found is None or not whole.standing.assumed or seen.found.deciding is not None:
            return
        for one in self._beside:
            if one.part == seen.part.key and not one.leads:
                one.leads = True
                one.solve()

    def _show_trouble(self, text: str) -> None:
        if self.on:
            self._view.verdict.show_trouble(text)
            self.board.set_stale()

    # the card

    def open_card(self, key: str) -> None:
        """Open a part's card beside the picture."""
        whole = self.whole
        if whole is None or key not in cards_of(whole.job.setup(), whole.catalogue):
            return
        self.board.show_card(key)
        self.show_card()

    def brief(self) -> tuple[str, State] | None:
        """The worst of what is known of the job on the bench, in few words; None where nothing is."""
        whole = self.whole
        if whole is None:
            return None
        current = whole.current
        seen = current.worst_part
        if seen is None:
            hotend = whole.hotend
            text, told = short(hotend.judged, hotend.standing), verdict(hotend.judged, hotend.standing)
        else:
            text = short_of(seen.answer.worst, seen.standing)
            told = verdict_on(words_of(seen.part), seen.answer, seen.standing)
        unsure = current.lacks and told.state is State.CLEAR
        return text, State.UNKNOWN if unsure else told.state

    def open_fact(self, fact: str) -> None:
        """Open the card on which a fact is entered."""
        about = self._bench.catalogue.facts.get(fact)
        cards = cards_of(self._bench.job.setup(), self._bench.catalogue)
        if about is not None and about.toolhead:
            self._bench.put_in_front(about.toolhead)
        paths = {plain(path) for path in about.paths} if about is not None else set()
        key = next((key for key, card in cards.items() if paths & set(card.paths)), "")
        self.open_card(key)
        if key:
            self.card.show_all(whole=True)

    def close_card(self) -> bool:
        """Close the card that is open; False: none was."""
        key = self.board.open_card
        if not key:
            return False
        self.board.show_card("")
        self.show_card()
        if self.on:
            self.board.focus_row(key)
        return True

    def show_card(self) -> None:
        """Show the card that is open, as things are now."""
        view, whole = self._view, self.whole
        key = self.board.open_card if self.on else ""
        opened = bool(key) and whole is not None
        if opened:
            assert whole is not None
            shown = card_view(key, whole, self._bench.job)
            self.card.show_view(shown, next((one.title for one in view.parts if one.part == shown.part), ""))
        else:
            self.card.show_view(None)
        if self.on:
            view.margins.setVisible(not opened)
            self.lines.setVisible(not opened)
            view.facts.setVisible(not opened and view.facts.view is not None)

    def leave(self) -> None:
        """Its tab goes, and the card with it."""
        self.card.show_view(None)
        self.lines.setVisible(False)

    def set_compact(self, compact: bool) -> None:
        self.card.set_compact(compact)
