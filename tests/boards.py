"""A board's columns asked of processes, for tests and benchmarks."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from zeotherm.answers.board import COLUMN, Keys
from zeotherm.answers.processes import BOARD, Processes, blocking
from zeotherm.answers.processes import processes as count
from zeotherm.core.catalogue import Catalogue, shipped
from zeotherm.core.choices.board import Column, subjects
from zeotherm.core.machine.documents import Setup, Variant, patched
from zeotherm.core.questions import Cancelled, Question, never


def questions(
    found: Setup, variants: Mapping[str, Variant], catalogue: Catalogue, wanted: Iterable[Keys]
) -> dict[Keys, Question[Column]]:
    """What is asked for columns of a board."""
    speaks = subjects(variants)
    return {keys: COLUMN.of(found, {key: variants[key] for key in keys}, speaks, catalogue, {}) for keys in wanted}


def columns(
    processes: Processes, found: Setup, variants: Mapping[str, Variant], catalogue: Catalogue, wanted: Iterable[Keys],
    cancelled: Cancelled = never,
) -> dict[Keys, Column | Exception]:  # fmt: skip
    """Columns of a board, or what went wrong with them."""
    return dict(blocking(processes.each(BOARD, catalogue, questions(found, variants, catalogue, wanted), cancelled)))


def warm_up(processes: Processes) -> None:
    """Have every process at work once, so that what follows is timed without their beginning."""
    soaks = [patched(Setup(), {"schedule": {"print_min": 5.0 + n, "cool_min": 0.0}}) for n in range(count())]
    asked = {n: COLUMN.of(setup, {}, subjects({}), shipped(), {}) for n, setup in enumerate(soaks)}
    list(blocking(processes.each(BOARD, shipped(), asked)))
