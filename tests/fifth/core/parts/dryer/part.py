"""A filament dryer: a box that a heater keeps warm about a spool; a part that the product does not have."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.catalogue.stations import Station
from zeotherm.core.judgement.bands import Doubted, limit_doubts, outcome, summed_doubts
from zeotherm.core.judgement.findings import Strength
from zeotherm.core.judgement.levers import solved_again
from zeotherm.core.judgement.limits import Held
from zeotherm.core.judgement.margins import Margin, Ordered, margins_with
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.patches import patch_at
from zeotherm.core.machine.quantity import Document, quantity
from zeotherm.core.parts.part import Part
from zeotherm.core.questions import Stage

LOSES = 0.6  # W/K by its walls: estimate
LOSES_DOUBT = 0.15


class Dryer(Document):
    """A box that keeps a spool warm and dry."""

    heater_w: float = quantity(0.0, "Dryer heater", "W", 0, 300, step=5, relative=0.1, names=("dryer",),
                               help="Watts of the dryer's heater; zero: there is no dryer.")  # fmt: skip
    target_c: float = quantity(45.0, "Dryer temperature", "°C", 30, 90, step=5, tolerance=3.0,
                               names=("dryer temperature",), help="What the dryer is set to.")  # fmt: skip


@dataclass(frozen=True)
class DryerAnswer(Ordered):
    """What the model says of a dryer."""

    setup: Setup
    catalogue: Catalogue
    solved: float  # its air [°C]
    limits: list[Held]
    margins: list[Margin]
    bands: Doubted | None = None
    strengths: list[Strength] = field(default_factory=list)
    facts: frozenset[str] = frozenset()

    @property
    def values(self) -> dict[str, float]:
        """By station."""
        return {"dryer_air": self.solved}


def of(setup: Setup) -> Dryer:
    """A setup's dryer."""
    found = getattr(setup, "dryer")  # noqa: B009  # the field comes with the part
    assert isinstance(found, Dryer)
    return found


def present(setup: Setup, _catalogue: Catalogue) -> bool:
    return of(setup).heater_w > 0.0


def air(setup: Setup, loses: float = LOSES) -> float:
    """What a dryer's air comes to [°C]: T = T_room + P/G, held to what it is set to."""
    return min(of(setup).target_c, setup.room.mean_c + of(setup).heater_w / loses)


def rest(setup, catalogue, tolerances, course, *, cancelled=lambda: False) -> DryerAnswer:
    softens = {"value": catalogue.filaments[setup.printing.filament].softening_c.value}
    mine = {key: one for key, one in catalogue.limits.items() if one.part == "dryer"}
    limits = [Held(key, one.model_copy(update=softens), one.source, "") for key, one in mine.items()]
    answer = DryerAnswer(setup, catalogue, air(setup), limits, [])
    return replace(answer, margins=margins_with(limits, answer.values, None))


def full(answer: DryerAnswer, course, *, cancelled) -> DryerAnswer:
    base = outcome(None, answer.values, answer.limits)
    doubts = {"target": 3.0, "walls": air(answer.setup, LOSES - LOSES_DOUBT) - answer.solved}
    sides = {name: [{key: (-by if key.startswith("room") else by) * sign for key in base} for sign in (1.0, -1.0)]
             for name, by in doubts.items()}  # fmt: skip
    bands = summed_doubts(base, sides | limit_doubts(answer.limits))
    sure = replace(answer, bands=bands, margins=margins_with(answer.limits, answer.values, bands))
    gains = solved_again(
        sure, "dryer", lambda path, to: rest(patched(answer.setup, patch_at(path, to)), answer.catalogue, {}, None),
        cancelled,
    )  # fmt: skip
    assert math.isfinite(sure.solved)
    return replace(sure, strengths=gains)


PART: Part[DryerAnswer] = Part(
    key="dryer",
    module="dryer",
    command="dryer",
    declares=Dryer,
    present=present,
    rest=Stage("dryer at rest", rest),
    then=(),
    full=Stage("dryer in full", full),
    meanwhile=lambda setup, catalogue, tolerances, course, _last: rest(setup, catalogue, tolerances, course),
    home="tests.fifth",
    stations={"dryer_air": Station("dryer_air", "Dryer air", "°C", True)},
    shelf={
        "limits": {"dryer_spool": {"station": "dryer_air", "part": "dryer", "kind": "ceiling", "clear": 5.0,
                                   "value": 60.0, "source": "where the spool softens",
                                   "breaks": "the filament on the spool sticks together"}},
        "levers": {"dryer.target_c": {"parts": ["dryer"], "low": 30.0, "high": 90.0}},
    },
)  # fmt: skip
