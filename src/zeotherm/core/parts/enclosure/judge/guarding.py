"""Whether a heater may be fitted to an enclosure: only with a cut-out of its own that protects the weakest part."""

from __future__ import annotations

from functools import lru_cache

from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup
from zeotherm.core.parts.enclosure.judge.answer import encloses, first_case
from zeotherm.core.parts.enclosure.judge.sizing import CutOut, cut_out
from zeotherm.core.solver.plate import NotSettledError

Finding = tuple[str, dict[str, str]]
FINE: Finding = ("", {})


def heater_guard(setup: Setup, catalogue: Catalogue) -> Finding:
    """What forbids this machine's heater, with the figures of it; nothing where nothing does.

    Findings: none, target, missing, over, no_room.
    """
    case = setup.case
    if not encloses(setup, catalogue) or case.heater_w + case.heater2_w <= 0.0:
        return "none", {}
    if case.target_c <= 0.0:
        return "target", {}
    cut = _cut_out(setup.model_dump_json(), catalogue)
    if cut is None:
        return "no_room", {"low": "?", "high": "?"}
    figures = {"low": f"{cut.low:.0f}", "high": f"{cut.high:.0f}", "set": f"{cut.set_to:.0f}"}
    if not cut.possible:
        return "no_room", figures
    if cut.set_to <= 0.0:
        return "missing", figures
    return ("over", figures) if cut.blocked else FINE


class _Shared:
    """A catalogue that a cache may keep by what it is."""

    __slots__ = ("catalogue",)

    def __init__(self, catalogue: Catalogue) -> None:
        self.catalogue = catalogue

    def __hash__(self) -> int:
        return id(self.catalogue)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Shared) and other.catalogue is self.catalogue


def _cut_out(setup: str, catalogue: Catalogue) -> CutOut | None:
    return _cut_out_of(setup, _Shared(catalogue))


@lru_cache(maxsize=32)
def _cut_out_of(setup: str, shared: _Shared) -> CutOut | None:
    try:
        return cut_out(first_case(Setup.model_validate_json(setup), shared.catalogue))
    except (DoesNotFitError, NotSettledError):
        return None
