"""A build solved as a whole: every plastic that is wanted, in the warmest air, against every limit and every clash."""

from __future__ import annotations

import math
from collections.abc import Callable, Collection
from dataclasses import dataclass, replace

from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.catalogue.own import NOT_PARTS
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.choices.build.slots import (
    NO_PRICES,
    Candidate,
    Prices,
    candidates,
    chosen_in,
    fitted_in,
    in_slot,
    is_known,
    not_entered,
)
from zeotherm.core.choices.build.wanted import BuildWish, wanted_setup
from zeotherm.core.choices.build.watts import heat_up_band
from zeotherm.core.guard.clashes import ClashFound, clashes
from zeotherm.core.judgement.bands import Band, Doubted
from zeotherm.core.judgement.limits import Held
from zeotherm.core.judgement.margins import Margin, State, margin_at, worst_first
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.patches import Patch, is_part
from zeotherm.core.parts.enclosure.judge.warmth import FINENESS, airs_of
from zeotherm.core.parts.hotend.judge.answer import Answer
from zeotherm.core.parts.hotend.judge.ask import first_answer, with_bands
from zeotherm.core.parts.hotend.judge.capacity import MELT_DOUBT, melt_ceiling, with_ample_heater
from zeotherm.core.parts.power.judge.voltage import Mismatch
from zeotherm.core.parts.whole.run import History, heat_up
from zeotherm.core.solver.axisymmetric import NotConvergedError

Cancelled = Callable[[], bool]
HEAT_UP, MOST_FLOW, MELT = "heat_up", "most_flow", "exit_core"
SLOT_OF = {"heater": "cartridge", "fan": "cooling"}  # a part whose volts are wrong sits in
CLASHED = {"over": State.OVER, "close": State.CLOSE, "unknown": State.UNKNOWN}
ORDER = (State.OVER, State.SHORT, State.UNKNOWN, State.CLOSE, State.CLEAR)
MM3 = 1e9


@dataclass(frozen=True, slots=True)
class Row:
    """One thing that a build is held against."""

    key: str
    slot: str  # that it speaks of; empty: of none alone
    state: State
    plastic: str = ""  # with which it is worst
    margin: Margin | None = None
    clash: ClashFound | None = None
    wrong: Mismatch | None = None
    refusal: str = ""  # why the parts do not go into each other
    of_several: bool = False  # other plastics leave it more room


@dataclass(frozen=True, slots=True)
class SlotState:
    """What is in a slot, and its weakest figure."""

    slot: str
    label: str  # of the part
    row: Row | None  # none: nothing is known against it
    chosen: bool  # by the build; else as found
    known: bool  # whether anybody entered it, or the build puts it there

    @property
    def state(self) -> State:
        """Unknown is never clear."""
        worst = self.row.state if self.row is not None else State.CLEAR
        return State.UNKNOWN if not self.known and ORDER.index(worst) > ORDER.index(State.UNKNOWN) else worst


@dataclass(frozen=True)
class Built:
    """A build by what comes of it."""

    change: Patch
    catalogue: Catalogue
    setup: Setup  # with it, printing its hottest plastic
    wanted: BuildWish
    answers: dict[str, Answer]  # at rest in the warmest air, by plastic
    rows: tuple[Row, ...]  # worst first
    slots: tuple[SlotState, ...]
    bought: tuple[Candidate, ...]  # what is put in
    grams: float | None  # of all slots; none: not all are known
    open: tuple[str, ...] = ()  # what it stands on that nobody entered, by its labels
    seconds: float | None = None  # of its heat-up; none: not marched yet
    band: Band | None = None  # of that
    melts: float | None = None  # flow that its nozzle melts [m³/s]; none: not found, or none

    @property
    def cost(self) -> float | None:
        """Of what is put in; none: not all of it is known."""
        costs = [one.cost for one in self.bought]
        return None if None in costs else sum(one or 0.0 for one in costs)

    @property
    def minutes(self) -> float:
        """To put it in."""
        return sum(one.minutes for one in self.bought)

    @property
    def worst(self) -> Row | None:
        """What the verdict speaks of."""
        return self.rows[0] if self.rows else None

    @property
    def tightest(self) -> Margin | None:
        """The limit with the least room of those that the model tells at rest."""
        own = (HEAT_UP, MOST_FLOW)
        return next((one.margin for one in self.rows if one.margin is not None and one.key not in own), None)

    @property
    def meets_all(self) -> bool:
        """Whether nothing that is known speaks against it."""
        return not any(one.state.bad for one in self.rows)

    def row(self, key: str) -> Row | None:
        """One of them."""
        return next((one for one in self.rows if one.key == key), None)

    @property
    def answer(self) -> Answer | None:
        """Of the plastic that the worst limit speaks of, else of the first."""
        worst = next((one for one in self.rows if one.margin is not None and one.plastic in self.answers), None)
        return self.answers[worst.plastic] if worst is not None else next(iter(self.answers.values()), None)


def first_built(
    found: Setup, change: Patch, wanted: BuildWish, run: History, known: Collection[str], prices: Prices = NO_PRICES,
    tolerances: dict[str, float] | None = None, cancelled: Cancelled = lambda: False, previous: Built | None = None,
) -> Built:  # fmt: skip
    """A build without bands: solved at rest with each plastic, clashes, volts, prices.

    found: the machine as found, whose hours `run` is; known: paths that somebody entered; previous: a like one to start
    from. Raises CancelledError; ValueError where the change is none of a machine.
    """
    catalogue = run.catalogue
    setup = patched(found, change)
    printing = {one: wanted_setup(setup, wanted, one, catalogue) for one in wanted.plastics}
    answers: dict[str, Answer] = {}
    rows: list[Row] = []
    for plastic, trial in printing.items():
        last = previous.answers.get(plastic) if previous is not None else None
        try:
            air = airs_of(trial, run)(wanted.air)
            answers[plastic] = first_answer(trial, catalogue, tolerances, last, cancelled, air=air, fineness=FINENESS)
        except DoesNotFitError as wrong:
            rows.append(Row("fits", _slot_at(wrong.path, catalogue), State.OVER, plastic, refusal=str(wrong)))
        except NotConvergedError:
            rows.append(Row("heater", "cartridge", State.SHORT, plastic))
    hottest = wanted.hottest(catalogue)
    limits = _margin_rows({key: one.margins for key, one in answers.items()}, catalogue)
    passed = {one.key for one in limits if one.state.bad}
    rows += [one for one in _clash_rows(printing, change, known, catalogue)
             if one.clash is None or one.clash.rule.as_limit not in passed]  # fmt: skip
    rows += _volt_rows(answers)
    rows += limits
    made = Built(
        change, catalogue, printing[hottest], wanted, answers, tuple(rows), (),
        _bought(found, setup, change, catalogue, prices), _weighed(setup, catalogue),
    )  # fmt: skip
    return _ordered(made, known)


def fully_built(
    built: Built, known: Collection[str], tolerances: dict[str, float] | None = None,
    cancelled: Cancelled = lambda: False, like: Built | None = None,
) -> Built:  # fmt: skip
    """The same with bands, the flow that its nozzle melts, and its heat-up; like: one of the same machine, whose
    heat-up's band is taken by its share instead of being marched anew. Raises CancelledError."""
    if not built.answers:
        return built
    catalogue = built.catalogue
    answers = {key: with_bands(one, cancelled) for key, one in built.answers.items()}
    melted = {key: melt_ceiling(with_ample_heater(one.solved), cancelled) or 0.0 for key, one in answers.items()}
    stiffest = min(melted, key=lambda key: melted[key])
    kept = [one for one in built.rows if one.margin is None]
    rows = kept + _margin_rows({key: one.margins for key, one in answers.items()}, catalogue)
    rows = [one for one in rows if one.key != MELT]
    asked = _Asked(built.wanted.flow)
    flow = melted[stiffest] * MM3
    row = _own_row(MOST_FLOW, asked, flow, Band(MELT_DOUBT * flow, MELT_DOUBT * flow), catalogue)
    rows.append(replace(row, plastic=stiffest, of_several=len(answers) > 1))
    seconds, band = math.inf, Band(0.0, 0.0)
    try:
        seconds = heat_up(built.setup, catalogue, tolerances, cancelled=cancelled)
        if math.isfinite(seconds):
            band = _share_of(like, seconds) or heat_up_band(built.setup, catalogue, tolerances, seconds, cancelled)
    except (DoesNotFitError, NotConvergedError):
        pass
    if math.isfinite(seconds):
        late = _Asked(built.wanted.seconds)
        turned = Band(band.up, band.down)  # of the room: slower is less of it
        rows.append(_own_row(HEAT_UP, late, seconds, turned, catalogue))
    else:
        rows.append(Row(HEAT_UP, "cartridge", State.SHORT))
    whole = replace(
        built, answers=answers, rows=tuple(rows), seconds=seconds, band=band, melts=melted[stiffest] or None
    )
    return _ordered(whole, known)


def _share_of(like: Built | None, seconds: float) -> Band | None:
    """The band of a heat-up by that of another one; none where that has none."""
    if like is None or like.band is None or like.seconds is None or not math.isfinite(like.seconds):
        return None
    share = seconds / like.seconds
    return Band(share * like.band.down, share * like.band.up)


@dataclass(frozen=True, slots=True)
class _Asked:
    """What a limit of the job's own asks for, by the name that limits have for it."""

    wanted: float


def _own_row(key: str, asked: _Asked, value: float, band: Band, catalogue: Catalogue) -> Row:
    limit = catalogue.limits[key]
    doubts = Doubted({limit.station: band}, {key: band}, {})
    margin = margin_at(asked, Held(key, limit, limit.source, "wanted"), value, doubts)
    return Row(key, _slot_of_limit(key, catalogue), margin.state, margin=margin)


def _margin_rows(of: dict[str, list[Margin]], catalogue: Catalogue) -> list[Row]:
    """Each limit with the plastic that leaves it the least room."""
    found: dict[str, Row] = {}
    for plastic, margins in of.items():
        for one in margins:
            if one.room is None:  # of the carriage and what rides on it: the whole job tells that
                continue
            slot = _slot_of_limit(one.key, catalogue)
            row = Row(one.key, slot, one.state, plastic, one, of_several=len(of) > 1)
            if one.key not in found or worst_first([one, _margin(found[one.key])])[0] is one:
                found[one.key] = row
    return list(found.values())


def _margin(row: Row) -> Margin:
    assert row.margin is not None
    return row.margin


def _clash_rows(printing: dict[str, Setup], change: Patch, known: Collection[str], catalogue: Catalogue) -> list[Row]:
    known = {*known, "printing.filament", "printing.nozzle_c", "printing.part_fan_pct"}
    known |= {slot.at for slot in catalogue.slots.values() if chosen_in(slot, change, catalogue)}
    found: dict[str, Row] = {}
    for plastic, setup in printing.items():
        for one in clashes(setup, catalogue, known):
            state = State.UNKNOWN if one.unknown else CLASHED[one.rule.state]
            key = f"clash:{one.key}"
            if key not in found or ORDER.index(state) < ORDER.index(found[key].state):
                slot = next((_slot_at(path, catalogue) for path in one.rule.stands_on
                             if _slot_at(path, catalogue)), "")  # fmt: skip
                found[key] = Row(key, slot, state, plastic, clash=one)
    return list(found.values())


def _volt_rows(answers: dict[str, Answer]) -> list[Row]:
    answer = next(iter(answers.values()), None)
    wrong = [one for one in answer.wrong if one.part in SLOT_OF and not one.of] if answer is not None else []
    return [Row(f"volts:{one.part}", SLOT_OF[one.part], State.OVER if one.times > 1.0 else State.SHORT, wrong=one)
            for one in wrong]  # fmt: skip


def _slot_at(path: str, catalogue: Catalogue) -> str:
    if path == "hotend.nozzle_mm":
        return "nozzle"
    if path.startswith(("hotend.heater", "power.heater")):
        return "cartridge"
    if path.startswith(("fan.", "surroundings.air_from")):
        return "cooling"
    return next((key for key, slot in catalogue.slots.items() if slot.at == path), "")


def _slot_of_limit(key: str, catalogue: Catalogue) -> str:
    return next((name for name, slot in catalogue.slots.items() if key in slot.limits), "")


def _rank(row: Row) -> tuple[int, float, float]:
    """What does not go in and wrong volts first, then limits by the chance that they hold, then what clashes."""
    margin = row.margin
    if margin is None or margin.room is None:
        return ORDER.index(row.state), 2.0 if row.clash is not None else -1.0, 0.0
    holds = margin.holds if margin.holds is not None else (0.0 if margin.room < 0 else 1.0)
    return ORDER.index(row.state), round(holds, 3), margin.room / (margin.clear_from or 1.0)


def _ordered(built: Built, known: Collection[str]) -> Built:
    rows = tuple(sorted(built.rows, key=_rank))
    slots = []
    for key, slot in built.catalogue.slots.items():
        row = next((one for one in rows if one.slot == key), None)
        bought = next((one for one in built.bought if one.slot == key), None)
        label = bought.label if bought is not None else in_slot(slot, built.setup, built.catalogue)
        sure = is_known(slot, built.change, known, built.catalogue)
        slots.append(SlotState(key, label, row, bought is not None, sure))
    left = not_entered(built.setup, built.change, built.wanted, known, built.catalogue)
    return replace(built, rows=rows, slots=tuple(slots), open=left)


def _bought(found: Setup, setup: Setup, change: Patch, catalogue: Catalogue, prices: Prices) -> tuple[Candidate, ...]:
    """What a build puts into its slots."""
    made = []
    for name, slot in catalogue.slots.items():
        if chosen_in(slot, change, catalogue):
            offers = candidates(name, found, setup, catalogue, prices)
            made += [one for one in offers if is_part(one.change, change)][:1]
    return tuple(made)


def _weighed(setup: Setup, catalogue: Catalogue) -> float | None:
    """Grams of all slots; none: not all are known."""
    grams: float | None = 0.0
    for slot in catalogue.slots.values():
        key = fitted_in(slot, setup, catalogue)
        if key in NOT_PARTS:  # it is weighed with what it came with
            continue
        weight = catalogue.shelf(slot.shelf)[key].grams if key else None
        grams = None if grams is None or weight is None else grams + weight
    return grams
