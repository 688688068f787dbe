"""What Explain asks of a part of the machine: each part has a teller, and the view knows no part by name."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QPushButton, QWidget

from zeotherm.answers.executor import Rank
from zeotherm.answers.hotend import Found
from zeotherm.core.machine.documents import Job
from zeotherm.desk.bench import Bench
from zeotherm.desk.style.patina import Span
from zeotherm.desk.views.explain.page import ExplainPage


class Teller(QObject):
    """Fills Explain with one part while its tab is on."""

    part = ""  # its key
    title = ""  # of its tab
    span = Span.COOL  # of the ladder, to begin with
    has_levers = True  # whether anything of it is tried by levers
    told_below = True  # whether it has something to say below the levers
    shows_all = False  # whether it shows every part, so that each is to be answered

    def __init__(self, bench: Bench, view: ExplainPage, board: QWidget) -> None:
        super().__init__(view)
        self._bench, self._view = bench, view
        self.board: Any = board
        self.ways: tuple[QPushButton, ...] = ()  # to look at it, beside the tabs
        self.panel: QWidget | None = None  # its own in the side column

    @property
    def on(self) -> bool:
        """Whether its tab is on."""
        return self._view.now is self

    @property
    def busy(self) -> bool:
        """Whether more is still to come."""
        raise NotImplementedError

    def has_tab(self, job: Job) -> bool:
        """Whether it has a tab for a job."""
        return True

    def tab_text(self, job: Job) -> str:
        """What its tab says."""
        return self.title

    def leave(self) -> None:
        """Its tab goes."""

    def set_compact(self, compact: bool) -> None:
        """Its own panel with less in it, where the window is narrow."""

    def matters(self, rank: Rank) -> None:
        """How urgent it is."""
        raise NotImplementedError

    def take_job(self, job: Job) -> None:
        """Another state of the job."""
        raise NotImplementedError

    def take_found(self, found: Found) -> None:
        """The hotend was answered, or the machine's hours are known."""

    def solve(self) -> None:
        """Ask what is looked at, where that was not asked yet."""

    def scrub(self, time: float | None) -> None:
        """Another moment; None: the one that is shown of itself."""
        raise NotImplementedError

    def tell(self) -> None:
        """Show what is known, while the tab is on."""
        raise NotImplementedError

    def stop(self) -> None:
        """Stop what is under way; what is known by now stays."""
        raise NotImplementedError


class HoursTeller(Teller):
    """A teller of what the bench answers: the hotend over the machine's hours, or all of the machine."""

    @property
    def busy(self) -> bool:
        return self._bench.busy

    def matters(self, rank: Rank) -> None:
        self._bench.matters(rank)

    def stop(self) -> None:
        self._bench.stop_solving()

    def scrub(self, time: float | None) -> None:
        """Another moment; None: the job's worst."""
        self._bench.scrub(time)
