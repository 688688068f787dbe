"""What a figure of a part decides: how far its doubt moves what the verdict on a machine speaks of."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import NamedTuple

from pydantic import ValidationError

from zeotherm.core.catalogue.own import NoSuchPartError, OwnFigure, Stated, made_anew, stated
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.judgement.margins import Margin
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.core.parts.hotend.judge.ask import first_answer
from zeotherm.core.parts.registry import PARTS

PARTS_OF = {"bed": "bed", "case": "case", "power": "power", "supplies": "power", "wiring": "power"}  # by where it is
HOTEND = "hotend"
FELT = 0.05  # of a margin's unit, below which nothing is said to move
Cancelled = Callable[[], bool]


class Stake(NamedTuple):
    """How much of a margin hangs on one figure."""

    at: str  # of the figure
    limit: str  # the margin's key
    station: str
    half: float  # the margin moves so far to either side when the figure goes through its tolerance


class MovedMargin(NamedTuple):
    """A limit of a machine with the part as it is on the shelf, and with other figures."""

    before: Margin
    after: Margin

    @property
    def moved(self) -> float:
        """By how much its room grows."""
        return (self.after.room or 0.0) - (self.before.room or 0.0)


@dataclass(frozen=True)
class User:
    """A machine that has the part fitted."""

    job: Job
    paths: tuple[str, ...]
    worst: Margin | None = None  # over the whole job; none: not solved, or no limit is judged
    change: MovedMargin | None = None  # of the limit that the other figures move most; none: nothing is told, or moves
    worst_then: Margin | None = None  # with the other figures
    wrong: str = ""  # why there is no answer


@dataclass(frozen=True)
class ShelfFound:
    """What is known of one entry of a shelf by now."""

    shelf: str
    key: str
    told: Mapping[str, Stated]
    users: tuple[User, ...] = ()
    stakes: Mapping[str, Stake] = field(default_factory=dict)  # by figure, on the job on the bench
    unknown: tuple[str, ...] = ()  # figures that the entry does not state
    done: bool = False


def worst_of(margins: Mapping[str, Margin]) -> Margin | None:
    """The margin with the least room for what counts as clear of it."""
    known = [one for one in margins.values() if one.room is not None]
    return min(known, key=lambda one: (one.room or 0.0) / (one.clear_from or 1.0), default=None)


def most_changed(before: Mapping[str, Margin], after: Mapping[str, Margin]) -> MovedMargin | None:
    """The limit whose room moves most for what counts as clear of it; none: nothing moves that is felt."""
    both = [MovedMargin(one, after[key]) for key, one in before.items()
            if key in after and one.room is not None and after[key].room is not None]  # fmt: skip
    most = max(both, key=lambda one: abs(one.moved) / (one.before.clear_from or 1.0), default=None)
    return most if most is not None and abs(most.moved) >= FELT * min(most.before.clear_from or 1.0, 1.0) else None


def part_at(path: str) -> str:
    """The part of a machine that what is fitted at a path belongs to, by its key."""
    return PARTS_OF.get(path.split(".")[0], HOTEND)


def with_figures(catalogue: Catalogue, shelf: str, key: str, told: dict[str, Stated]) -> Catalogue:
    """The catalogue as it would be if an entry had these figures. Raises NoSuchPartError."""
    entry = made_anew(catalogue, shelf, key, catalogue.shelf(shelf)[key].label, told)
    try:
        return catalogue.with_entry(shelf, key, entry)
    except ValidationError as wrong:
        why = str(wrong.errors(include_url=False)[0]["msg"]).removeprefix("Value error, ")
        raise NoSuchPartError(why) from None


def stakes(
    setup: Setup, catalogue: Catalogue, tolerances: dict[str, float], shelf: str, key: str, path: str,
    cancelled: Cancelled = lambda: False,
) -> Iterator[Stake]:  # fmt: skip
    """Each figure of the entry that is fitted at a path, as it is known: half of what a margin of that part moves by
    between the ends of the figure's tolerance, late in a print and settled; of the margin that moves most for what
    counts as clear of it. A figure without a tolerance is left out. Raises CancelledError, DoesNotFitError,
    NotConvergedError, NotSettledError."""
    part = part_at(path)
    now = {one.key: one for one in _margins(part, setup, catalogue, tolerances, cancelled) if one.room is not None}
    entry = catalogue.shelf(shelf)[key]
    for figure in catalogue.own_figures[shelf].figures:
        ends = _ends(stated(entry, figure), figure)
        if ends is None or not now:
            continue
        rooms = {one: [] for one in now}  # type: dict[str, list[float]]
        for value in ends:
            try:
                moved = with_figures(catalogue, shelf, key, {figure.at: Stated(value)})
            except NoSuchPartError:  # the other figures do not let it go so far
                moved = catalogue
            for margin in _margins(part, setup, moved, tolerances, cancelled):
                if margin.key in rooms and margin.room is not None:
                    rooms[margin.key].append(margin.room)
        halves = {one: 0.5 * (max(found) - min(found)) for one, found in rooms.items() if found}
        most = max(halves, key=lambda one: halves[one] / (now[one].clear_from or 1.0))
        yield Stake(figure.at, most, now[most].station, halves[most])


def _ends(known: Stated, figure: OwnFigure) -> tuple[float, float] | None:
    """The ends of a figure's tolerance, within what such a part can have."""
    if known.value is None or not known.half:
        return None
    return max(known.value - known.half, figure.low), min(known.value + known.half, figure.high)


def _margins(
    part: str, setup: Setup, catalogue: Catalogue, tolerances: dict[str, float], cancelled: Cancelled
) -> list[Margin]:
    if part == HOTEND:
        return first_answer(setup, catalogue, tolerances, cancelled=cancelled).margins
    if not PARTS[part].present(setup, catalogue):
        return []
    found: list[Margin] = PARTS[part].rest.work(setup, catalogue, tolerances, None, cancelled=cancelled).margins
    return found
