"""Asking: first the field and its margins, then how sure, why, how fast, and what would help."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup
from zeotherm.core.parts.hotend.judge.answer import Answer
from zeotherm.core.parts.hotend.judge.bands import bands
from zeotherm.core.parts.hotend.judge.capacity import melt_ceiling
from zeotherm.core.parts.hotend.judge.course import Course
from zeotherm.core.parts.hotend.judge.limits import held, margins
from zeotherm.core.parts.hotend.judge.probe import WhatIf
from zeotherm.core.parts.hotend.judge.reasons import reasons
from zeotherm.core.parts.hotend.judge.strengths import strengths
from zeotherm.core.parts.hotend.model.inputs import HotendAir
from zeotherm.core.parts.hotend.model.solved import solve_hotend


def first_answer(
    setup: Setup,
    catalogue: Catalogue,
    tolerances: dict[str, float] | None = None,
    previous: Answer | None = None,
    cancelled: Callable[[], bool] = lambda: False,
    *,
    air: HotendAir | None = None,
    fineness: float = 1.0,
) -> Answer:
    """The settled field and its margins, without bands; air: what the hotend stands in, else as the setup states.

    Raises DoesNotFitError, NotConvergedError or CancelledError.
    """
    before = previous.solved if previous else None
    solved = solve_hotend(setup, catalogue, tolerances, before, cancelled, air=air, fineness=fineness)
    limits = held(solved.resolved, catalogue)
    return Answer(setup, catalogue, solved, limits, margins(solved, limits, None))


def with_bands(answer: Answer, cancelled: Callable[[], bool] = lambda: False) -> Answer:
    """The answer with bands, and its margins ordered by them. Raises CancelledError."""
    found = bands(answer.solved, answer.limits, cancelled)
    return replace(answer, margins=margins(answer.solved, answer.limits, found), bands=found)


def full_answer(
    answer: Answer,
    cancelled: Callable[[], bool] = lambda: False,
    *,
    course: Course | None = None,
    time: float = 0.0,
) -> Answer:
    """The answer with bands, reasons, melt ceiling and strengths. Raises CancelledError.

    course, time: the run it is a moment of.
    """
    sure = with_bands(answer, cancelled)
    if not sure.margins or sure.bands is None:
        return sure
    worst = next(limit for limit in sure.limits if limit.key == sure.margins[0].key)
    probe = WhatIf(sure.setup, sure.catalogue, sure.solved, course, time, cancelled)
    if course is not None and course.run.at(time)[1].kind not in ("soak", "print", "pause"):
        return sure  # on its way up or down nothing is settled to compare with
    return replace(
        sure,
        reasons=reasons(probe, worst),
        ceiling=melt_ceiling(sure.solved, cancelled),
        strengths=strengths(probe, worst, sure.limits),
    )
