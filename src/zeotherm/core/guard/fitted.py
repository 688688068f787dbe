"""What may be fitted where nobody entered it: the guard goes by the weakest part that is not ruled out."""

from __future__ import annotations

from dataclasses import dataclass

from zeotherm.core.catalogue.knowledge import Fact
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Job, Setup, changed_paths, patched
from zeotherm.core.machine.patches import Patch, merged, patch_at, sets
from zeotherm.core.machine.toolheads import COLLECTION, plain

GUARDED = (
    "hotend.template", "hotend.break_part", "hotend.sensor", "hotend.sleeve", "hotend.sensor_offset_k",
    "printing.filament", "bed.part", "bed.sheet",
)  # fmt: skip
SEAT = "hotend.beside"  # of a further toolhead
SIZED_BY = ("bed.part", "bed.heater_w")  # what supply, wires, fuse and switch are sized by
Assumed = frozenset[str]  # of these paths, those of which nobody entered what is there
ALL_ENTERED: Assumed = frozenset()


@dataclass(frozen=True, slots=True)
class Possible:
    """A machine that it may be, by one fact that nobody entered."""

    fact: str  # label
    find: str  # how to find it out
    setup: Setup


def assumed_of(job: Job) -> Assumed:
    """What the guard goes by and nobody entered of a job's machine; what is tried is given."""
    every = (path for path in job.found.paths() if _guarded(path))
    return frozenset(path for path in every if path not in job.known and not sets(job.trial, path))


def _guarded(path: str) -> bool:
    """Whether the guard goes by it: of the toolhead in front, or of a further one, which may hang in its block."""
    return plain(path) in GUARDED or (path != plain(path) and plain(path) == SEAT)


def to_enter_first(job: Job, catalogue: Catalogue, paths: tuple[str, ...] = SIZED_BY) -> tuple[Fact, ...]:
    """Facts that nobody entered, without which nothing is to be bought or wired by what is sized."""
    known = {path for path in paths if path in job.known or sets(job.trial, path)}
    missing = set(paths) - known
    return tuple(fact for fact in catalogue.facts.values() if missing & set(fact.paths))


def possible(setup: Setup, assumed: Assumed, catalogue: Catalogue) -> tuple[Possible, ...]:
    """Every machine that it may be besides the one assumed, by one fact at a time: what a fact may turn out to be is
    data (`facts.toml`). Nothing that would change what was entered."""
    if not assumed:
        return ()
    last = _Last.found
    if last is not None and last[0] is setup and last[1] == assumed and last[2] is catalogue:
        return last[3]
    found = []
    for fact in catalogue.facts.values():
        if not assumed & set(fact.paths):
            continue
        for change in (_in_the_block(one, fact, assumed, catalogue) for one in _ways(fact)):
            try:
                other = patched(setup, change)
            except ValueError:  # does not fit this machine
                continue
            moved = {path for path in changed_paths(setup, other) if _guarded(path)}
            if moved and assumed.issuperset(moved):
                found.append(Possible(fact.label, fact.find, other))
    made = tuple(found)
    _Last.found = (setup, assumed, catalogue, made)
    return made


def _in_the_block(change: Patch, fact: Fact, assumed: Assumed, catalogue: Catalogue) -> Patch:
    """A change of a further toolhead that may hang in the block of the one in front: there it counts."""
    if f"{COLLECTION}.{fact.toolhead}.{SEAT}" not in assumed:
        return change
    shared = next(key for key, seat in catalogue.seats.items() if seat.block)
    return merged(patch_at(f"{COLLECTION}.{fact.toolhead}.{SEAT}", shared), change)


class _Last:
    """The last machine that was asked for; a walk through an order asks at every step."""

    found: tuple[Setup, Assumed, Catalogue, tuple[Possible, ...]] | None = None


def _ways(fact: Fact) -> list[Patch]:
    ends = [patch_at(fact.paths[0], end) for end in fact.between or ()]
    return [*(one.change for one in fact.may_be), *ends]
