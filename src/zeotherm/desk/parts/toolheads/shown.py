"""What Explain shows of further toolheads, as frozen view-models."""

from __future__ import annotations

from dataclasses import dataclass

from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.judgement.margins import State, worst_first
from zeotherm.core.judgement.standing import standing
from zeotherm.core.parts.hotend.judge.answer import Answer
from zeotherm.core.parts.part import PartFound
from zeotherm.core.parts.toolheads.judge import FurtherToolhead, ToolheadsAnswer
from zeotherm.core.parts.toolheads.part import PART
from zeotherm.desk.viewmodels import LadderView, part_ladder
from zeotherm.wording import toolheads as words
from zeotherm.wording.language import _


@dataclass(frozen=True)
class ToolheadColumn:
    """One further toolhead in the picture."""

    number: str
    does: str
    worst: str
    state: State
    shown: tuple[tuple[str, Answer], ...]  # whose fields are painted, and what each is: printing, on standby


@dataclass(frozen=True)
class ToolheadsView:
    """All that the picture paints."""

    title: str
    columns: tuple[ToolheadColumn, ...]
    spoken: str


def toolheads_view(found: PartFound[ToolheadsAnswer]) -> ToolheadsView:
    """The picture."""
    answer = found.answer
    assert answer is not None
    open_ = standing(found.job, PART.key, answer.catalogue, found.deciding).open
    columns = tuple(_column(one, answer, unsure=open_) for one in answer.each)
    title = _("{front} is active and printing").format(front=answer.setup.toolhead)
    spoken = " ".join(f"{one.does} {one.worst}." for one in columns)
    return ToolheadsView(title, columns, f"{title}. {spoken}")


def _column(one: FurtherToolhead, answer: ToolheadsAnswer, *, unsure: bool) -> ToolheadColumn:
    worst = worst_first([margin for _does, margins in one.judged for margin in margins])[0].state
    state = State.UNKNOWN if unsure and worst is State.CLEAR else worst
    shown = [(words.printing(one), one.prints)]
    shown += [(words.standing_by(one), one.stands_by)] if one.stands_by is not None else []
    return ToolheadColumn(one.number, words.does(one, answer), words.worst(one), state, tuple(shown))


def toolheads_ladder(found: PartFound[ToolheadsAnswer]) -> LadderView:
    """Their places on the ladder, as each prints."""
    answer = found.answer
    assert answer is not None
    stations = dict.fromkeys(margin.station for margin in answer.margins)
    keys = tuple(one for one in stations if STATIONS[one].is_temperature)
    was = found.as_found.values if found.as_found is not None else {}
    return part_ladder(_("Late in the print"), answer, found.job, None, answer.values, was, keys)
