"""What a verdict stands on: which facts nobody told, and which of them decide it."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

from zeotherm.core.catalogue.knowledge import Fact
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.judgement.bands import Band
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.core.machine.further import further_of
from zeotherm.core.machine.known import How
from zeotherm.core.machine.patches import sets
from zeotherm.core.machine.toolheads import turned

DECIDES = 0.05  # of the band's width that knowing a fact must take away, for it to decide
FIRST = 3  # facts that are to be found out first


@dataclass(frozen=True, slots=True)
class Doubtful:
    """How far the worst margin may be off while a fact is only assumed: 95 % half-widths in the limit's unit."""

    key: str
    down: float
    up: float
    through: str = ""  # a limit of another unit that it may make the worst; none: it moves the one there is

    @property
    def width(self) -> float:
        """The wider side."""
        return max(self.down, self.up)


@dataclass(frozen=True)
class Deciding:
    """The facts that nobody told by how far each moves the worst margin, most deciding first, and its band."""

    limit: str  # of the worst margin, by key
    facts: tuple[Doubtful, ...]
    own: Band  # of the model, with every fact known
    untried: tuple[str, ...] = ()  # facts of which nothing could be tried: nobody knows what hangs on them

    @property
    def now(self) -> Band:
        """With every fact as it is assumed. The facts' own shares add as squares, as do those of the model."""
        return self.without(())

    def without(self, known: tuple[str, ...], *, other_limits: bool = True) -> Band:
        """The band once these facts are known as well; other_limits: with what makes another limit the worst."""
        left = [one for one in self.facts if one.key not in known and (other_limits or not one.through)]
        return Band(
            math.hypot(self.own.down, *(one.down for one in left)), math.hypot(self.own.up, *(one.up for one in left))
        )

    def most_deciding_first(self) -> Deciding:
        """The same with its facts by how much of the band each takes away."""
        return replace(self, facts=tuple(sorted(self.facts, key=lambda one: _wide(self.without((one.key,))))))

    @property
    def decide(self) -> tuple[Doubtful, ...]:
        """Those that take a share of the band away once they are known."""
        most = (1.0 - DECIDES) * _wide(self.now)
        return tuple(one for one in self.facts if _wide(self.without((one.key,))) < most)

    @property
    def first(self) -> tuple[Doubtful, ...]:
        """What to find out first."""
        return self.decide[:FIRST]

    @property
    def after(self) -> Band:
        """The band once the first are known."""
        return self.without(tuple(one.key for one in self.first))


@dataclass(frozen=True)
class Standing:
    """What the verdict on a part stands on."""

    assumed: tuple[str, ...] = ()  # facts of the part that nobody told, by key
    deciding: Deciding | None = None  # which of them decide; None: not reckoned

    def of(self, limit: str) -> Deciding | None:
        """What decides, where it was reckoned for this limit."""
        return self.deciding if self.deciding is not None and self.deciding.limit == limit else None

    @property
    def open(self) -> bool:
        """Whether something that nobody told may change the verdict: what was not reckoned may."""
        known = self.deciding is not None and not self.deciding.decide and not self.deciding.untried
        return bool(self.assumed) and not known

    def with_deciding(self, deciding: Deciding | None) -> Standing:
        """The same once it is known what decides."""
        return replace(self, deciding=deciding)


ALL_KNOWN = Standing()


def _wide(band: Band) -> float:
    return band.down + band.up


def told(job: Job, fact: Fact) -> bool:
    """Whether a fact of a job's machine is known, or what is tried in its place is given."""
    return all(path in job.known or sets(job.trial, path) for path in fact.paths)


def told_paths(job: Job) -> tuple[str, ...]:
    """Paths of a job's machine that are known, or are tried."""
    return tuple(path for path in job.found.paths() if path in job.known or sets(job.trial, path))


def facts_here(setup: Setup, catalogue: Catalogue) -> Mapping[str, Fact]:
    """The facts that count for a machine, by key; asked for at every turn of a lever, and made once."""
    last = _Here.last
    if last is None or last[0] is not setup or last[1] is not catalogue:
        here = {key: fact for key, fact in catalogue.facts.items() if meets(fact, setup, catalogue)}
        last = _Here.last = (setup, catalogue, here)
    return last[2]


class _Here:
    """The last machine that was asked for, with its facts: documents are never changed in place."""

    last: tuple[Setup, Catalogue, Mapping[str, Fact]] | None = None


def counts_for(fact: Fact, part: str, setup: Setup, catalogue: Catalogue) -> bool:
    """Whether the verdict on a part stands on a fact of a machine."""
    return (part == fact.part or part in fact.also) and meets(fact, setup, catalogue)


def meets(fact: Fact, setup: Setup, catalogue: Catalogue) -> bool:
    """Whether a machine has what a fact needs to count."""
    if fact.toolhead or fact.further:
        return fact.toolhead in setup.toolheads and _has(fact.needs, turned(setup, fact.toolhead), catalogue)
    there = fact.of is None or fact.of[1] in further_of(setup, fact.of[0])
    return there and _has(fact.needs, setup, catalogue)


def _has(needs: str, setup: Setup, catalogue: Catalogue) -> bool:
    stated = catalogue.air_sources[setup.surroundings.air_from].stated
    return {
        "": True,
        "liner": catalogue.hotends[setup.hotend.template].bore == "liner",
        "stated": stated,
        "computed": not stated,
        "vented": not stated and catalogue.cases[setup.case.part].vent_cm2.value > 0.0,
    }[needs]


def not_told(job: Job, part: str, catalogue: Catalogue) -> dict[str, Fact]:
    """The facts that the verdict on a part of a job stands on and that nobody told, by key."""
    here = facts_here(job.setup(), catalogue)
    return {key: fact for key, fact in here.items() if (part == fact.part or part in fact.also) and not told(job, fact)}


def standing(job: Job, part: str, catalogue: Catalogue, deciding: Deciding | None = None) -> Standing:
    """What the verdict on a part of a job stands on."""
    return Standing(tuple(not_told(job, part, catalogue)), deciding)


def rows_known(job: Job, catalogue: Catalogue) -> Mapping[str, bool]:
    """Every fact that counts for any part of a job's machine, by key: whether it is told."""
    return {key: told(job, fact) for key, fact in facts_here(job.setup(), catalogue).items()}


LEAST_KNOWN_FIRST: tuple[How, ...] = ("assumed", "entered", "measured", "fitted")


def how_told(job: Job, fact: Fact) -> How:
    """How a fact of a job's machine is known: as the least known of its values is; what is tried is entered."""
    if not told(job, fact):
        return "assumed"
    ways = [job.known[path].how if path in job.known else "entered" for path in fact.paths]
    return min(ways, key=LEAST_KNOWN_FIRST.index)


def facts_by_how(job: Job, catalogue: Catalogue) -> dict[How, int]:
    """How many of the facts that count for a job's machine are known so, least known first."""
    counts: dict[How, int] = dict.fromkeys(LEAST_KNOWN_FIRST, 0)
    for fact in facts_here(job.setup(), catalogue).values():
        counts[how_told(job, fact)] += 1
    return counts
