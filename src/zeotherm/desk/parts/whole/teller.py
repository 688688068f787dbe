"""The whole machine in Explain: its verdict is that of the part which is worst, its picture shows them all."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from zeotherm.answers.hotend import Found
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Job
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
from zeotherm.desk.viewmodels import unsure_rows
from zeotherm.desk.views.explain.page import ExplainPage
from zeotherm.desk.views.explain.part_teller import PartTeller
from zeotherm.desk.views.explain.teller import HoursTeller
from zeotherm.wording.language import _
from zeotherm.wording.machine import TITLE
from zeotherm.wording.parts import verdict_on, words_of
from zeotherm.wording.verdict import Verdict, short, short_of, verdict

KEYS = _("Up and Down go from part to part, most deciding first. Enter opens its card.")


class WholeTeller(HoursTeller):
    """Fills Explain with the machine while its tab is on; what it shows, the hotend and the parts' tellers ask."""

    part, title, span, told_below, shows_all = "machine", TITLE, Span.COOL, False, True

    def __init__(self, bench: Bench, view: ExplainPage) -> None:
        super().__init__(bench, view, WholeBoard())
        self._of = ""  # number of the job that is shown
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
        found = self._bench.found
        if found is None:
            return None
        seen = [PartSeen(one.of, one.found) for one in self._beside if one.found is not None]
        return WholeFound(found, tuple(one for one in seen if one.found.job.number == found.job.number))

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
        if self.on:
            self.tell()
            if found.course is None:
                self.board.repaint()  # while a lever is dragged the picture leads

    def tell(self) -> None:
        whole, view = self.whole, self._view
        if not self.on or whole is None:
            return
        self._of = whole.job.number
        view.verdict.clear_trouble()
        view.verdict.show_verdict(self._verdict(whole))
        rows = whole_margins(whole)
        view.margins.show_rows(unsure_rows(rows) if whole.open else rows)
        facts, final = self._facts(whole)
        view.facts.show_view(facts, (self.part, whole.job.number), final=final)
        view.ladder.show_view(whole_ladder(whole))
        self.lines.show_lines(self._lines(whole))
        self._tell_cautions(whole)
        self.board.show_view(whole_view(whole), whole.hotend.answer, air_tags(whole))
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
            return verdict(whole.hotend.judged, whole.hotend.standing)
        return verdict_on(words_of(seen.part), seen.found.answer, whole.standing)

    def _lines(self, whole: WholeFound) -> tuple[PartLine, ...]:
        """Every part by its own verdict."""
        titles = {one.part: one.title for one in self._view.parts}
        own = verdict(whole.hotend.judged, whole.hotend.standing)
        lines = [PartLine("hotend", titles["hotend"], own.headline, own.state)]
        for one in self._beside:
            seen = next((seen for seen in whole.parts if seen.part is one.of), None)
            if seen is None:
                told = Verdict(_("Being worked out"), "", State.UNKNOWN)
            elif seen.found.answer is None:
                told = one.words.nothing()
            else:
                told = verdict_on(one.words, seen.found.answer, seen.standing(whole.catalogue))
            lines.append(PartLine(one.part, one.title, told.headline, told.state))
        return tuple(lines)

    def _facts(self, whole: WholeFound) -> tuple[FactsView | None, bool]:
        """The facts that decide the verdict on the machine, and whether no more is to come."""
        seen = whole.worst_part
        if seen is None:
            return facts_view(whole.hotend), whole.hotend.decided
        assert seen.found.answer is not None
        facts = deciding_view(seen.found.answer, whole.standing, whole.catalogue)
        return facts or assumed_view(whole.standing, whole.catalogue), facts is not None

    def _tell_cautions(self, whole: WholeFound) -> None:
        calls = dict(cautions(whole.hotend.judged))
        for seen in whole.parts:
            if seen.found.answer is not None:
                calls |= called_for(whole.catalogue, seen.found.answer.facts)
        self._view.cautions.show_called(calls, whole.catalogue)

    def _ask_for_facts(self, whole: WholeFound) -> None:
        """What decides is only reckoned for a part that is looked at: the worst one is, here."""
        seen = whole.worst_part
        if seen is None or not whole.standing.assumed or seen.found.deciding is not None:
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
        if whole is None or key not in cards_of(whole.catalogue):
            return
        self.board.show_card(key)
        self.show_card()

    def brief(self) -> tuple[str, State] | None:
        """The worst of what is known of the job on the bench, in few words; None where nothing is."""
        whole = self.whole
        if whole is None:
            return None
        current = replace(whole, parts=tuple(one for one in whole.parts if one.found.job == whole.job))
        seen = current.worst_part
        if seen is None:
            hotend = whole.hotend
            return short(hotend.judged, hotend.standing), verdict(hotend.judged, hotend.standing).state
        assert seen.found.answer is not None
        worst, on = seen.found.answer.worst, seen.standing(whole.catalogue)
        return short_of(worst, on), verdict_on(words_of(seen.part), seen.found.answer, on).state

    def open_fact(self, fact: str) -> None:
        """Open the card on which a fact is entered."""
        about = self._bench.catalogue.facts.get(fact)
        cards = cards_of(self._bench.catalogue)
        paths = set(about.paths) if about is not None else set()
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
