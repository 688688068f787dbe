"""Further toolheads as a part: at rest late in the print, and with bands."""

from __future__ import annotations

from collections.abc import Mapping

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.toolheads import COLLECTION, Toolhead
from zeotherm.core.parts.hotend.judge.course import Course
from zeotherm.core.parts.part import Part, PartFound
from zeotherm.core.parts.toolheads.judge import ToolheadsAnswer, first_toolheads, sure_toolheads
from zeotherm.core.questions import Cancelled, Stage


class ToolheadsFound(PartFound[ToolheadsAnswer]):
    """What is known of the further toolheads of the job on the bench."""

    @property
    def values(self) -> Mapping[str, float]:
        """Stations while the toolhead in front prints, so of each as it stands by."""
        assert self.answer is not None
        return self.answer.meanwhile


def _present(setup: Setup, _catalogue: Catalogue) -> bool:
    return bool(setup.toolheads)


def _at_rest(
    setup: Setup, catalogue: Catalogue, tolerances: dict[str, float], course: Course | None, *, cancelled: Cancelled
) -> ToolheadsAnswer:
    return first_toolheads(setup, catalogue, tolerances, course, cancelled)


def _meanwhile(
    setup: Setup, catalogue: Catalogue, tolerances: dict[str, float], course: Course | None, _last: object
) -> ToolheadsAnswer:
    return first_toolheads(setup, catalogue, tolerances, course)


def _in_full(answer: ToolheadsAnswer, _course: Course | None, *, cancelled: Cancelled) -> ToolheadsAnswer:
    return sure_toolheads(answer, cancelled)


PART: Part[ToolheadsAnswer] = Part(
    key=COLLECTION,
    module="toolheads",
    command="toolheads",
    declares=Toolhead,
    present=_present,
    rest=Stage("further toolheads at rest", _at_rest),
    then=(),
    full=Stage("further toolheads in full", _in_full),
    meanwhile=_meanwhile,
    found=ToolheadsFound,
)
