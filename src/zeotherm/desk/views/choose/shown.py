"""What the options board paints: columns of room to every limit, costs, and the set that is suggested or taken."""

from __future__ import annotations

import logging
from dataclasses import dataclass

from zeotherm.answers.board import Keys, SolvedBoard
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.choices.board import Column, worse
from zeotherm.core.judgement.margins import Margin, State
from zeotherm.core.judgement.standing import Standing
from zeotherm.core.machine.documents import Job
from zeotherm.core.machine.patches import ClashError
from zeotherm.core.solver.axisymmetric import NotConvergedError
from zeotherm.desk.viewmodels import as_sure
from zeotherm.wording import course as times
from zeotherm.wording import margins as words
from zeotherm.wording import numbers
from zeotherm.wording.language import _, begun
from zeotherm.wording.standing import assumed
from zeotherm.wording.verdict import Verdict

log = logging.getLogger(__name__)
JOULES_PER_KWH = 3.6e6
WORTH_A_WORD = 0.01  # kWh a print
SHOWN_LIMITS = 9
LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"


@dataclass(frozen=True, slots=True)
class Cell:
    """Room to one limit in one column."""

    text: str
    state: State
    bar: float  # share of the bar's length, negative when passed
    least: float = 0.0  # the same for both ends of the 95 % band
    most: float = 0.0


@dataclass(frozen=True, slots=True)
class ColumnView:
    """One option, or a set."""

    key: str  # of the option; empty: as found
    letter: str
    title: str
    taken: bool
    pending: bool  # not solved yet
    cells: tuple[Cell, ...]
    figures: tuple[str, ...]
    state: State
    spoken: str
    tip: str = ""  # every limit's room with its band


@dataclass(frozen=True, slots=True)
class BoardView:
    """The whole board."""

    limits: tuple[tuple[str, str], ...]  # label, unit
    figures: tuple[str, ...]
    columns: tuple[ColumnView, ...]
    chosen: ColumnView | None  # the set taken, or the suggested one
    chosen_head: str
    notes: tuple[tuple[str, str, State], ...]  # head, text, colour
    verdict: Verdict
    foot: str  # the whole job with what is shown, in one sentence


FIGURES = (
    _("Sure all pass"), _("Stops feeding"), _("Parts"), _("Time to fit"), _("Warm-up"), _("Energy a print"),
)  # fmt: skip


def board(solved: SolvedBoard) -> BoardView:
    """The board as it stands."""
    job = solved.job
    base = solved.columns.get(())
    shown = _limits(solved)
    columns = [_column(solved, (), shown, _("As found"), "A", False)]
    letters = {}
    for index, (key, variant) in enumerate(job.variants.items()):
        letter = letters[key] = LETTERS[(index + 1) % len(LETTERS)]
        columns.append(_column(solved, (key,), shown, variant.label, letter, key in job.chosen))
    keys = _chosen_keys(solved)
    chosen = None
    if keys:
        title = " + ".join(letters[key] for key in keys if key in letters)
        chosen = _column(solved, keys, shown, title, "", True)
    return BoardView(
        limits=tuple((words.label(margin), _unit(margin)) for margin in shown),
        figures=FIGURES,
        columns=tuple(columns),
        chosen=chosen,
        chosen_head=_("Set taken") if job.chosen else _("Suggested set"),
        notes=_notes(solved, base),
        verdict=_verdict(solved, base),
        foot=_foot(solved),
    )


def shown_column(solved: SolvedBoard) -> Column | None:
    """The set taken, or the suggested one, or the machine as found; none until it is solved."""
    keys = _chosen_keys(solved)
    return solved.columns.get(keys) or (solved.cheapest if keys else solved.columns.get(()))


def _foot(solved: SolvedBoard) -> str:
    column = shown_column(solved)
    if column is None:
        return ""
    which = _("With the set") if column.keys else _("As found")
    return f"{which}: {begun(times.outlook(column.course, column.answer, solved.on))}"


def _chosen_keys(solved: SolvedBoard) -> Keys:
    if solved.job.chosen:
        return tuple(key for key in solved.job.variants if key in solved.job.chosen)
    return solved.cheapest.keys if solved.cheapest is not None else ()


def _unit(margin: Margin) -> str:
    return numbers.difference_unit(STATIONS[margin.station].unit)


def _limits(solved: SolvedBoard) -> list[Margin]:
    """The limits that any column comes near to, worst as found first."""
    base = solved.columns.get(())
    if base is None:
        return []
    every = [margin for margin in base.margins.values() if margin.room is not None]
    every.sort(key=lambda margin: (margin.room or 0.0) / (margin.clear_from or 1.0))
    return every[:SHOWN_LIMITS]


def _column(solved: SolvedBoard, keys: Keys, shown: list[Margin], title: str, letter: str, taken: bool) -> ColumnView:
    key = keys[0] if len(keys) == 1 else ""
    column = solved.columns.get(keys)
    if column is None and solved.cheapest is not None and solved.cheapest.keys == keys:
        column = solved.cheapest
    if column is None:
        trouble = _trouble(solved.failed[keys]) if keys in solved.failed else ""
        spoken = f"{title}, {trouble or _('being solved')}"
        state = State.UNKNOWN
        return ColumnView(key, letter, title, taken, not trouble, (), (trouble,) if trouble else (), state, spoken)
    cells = tuple(_cell(column.margins.get(margin.key), solved.on) for margin in shown)
    worst = min(
        (m for m in column.margins.values() if m.room is not None),
        key=lambda m: (m.room or 0.0) / (m.clear_from or 1.0),
    )
    spoken = f"{title}, {words.label(worst)} {words.room(worst)} {words.band(worst)}, "
    spoken += f"{_('sure')} {numbers.share(column.sure)}"
    figures = _figures(solved.job, column)
    state = as_sure(worst.state, solved.on)
    return ColumnView(key, letter, title, taken, False, cells, figures, state, spoken, _tip(title, column, shown))


def _tip(title: str, column: Column, shown: list[Margin]) -> str:
    found = [column.margins[margin.key] for margin in shown if margin.key in column.margins]
    lines = [f"{words.label(margin)}: {words.room(margin)} ({words.band(margin)})" for margin in found]
    return "\n".join([title, *lines, _("95 % bands, of first order")])


def _cell(margin: Margin | None, on: Standing) -> Cell:
    if margin is None or margin.room is None:
        return Cell("–", State.UNKNOWN, 0.0)
    unit = _unit(margin)
    whole = 4.0 * margin.clear_from or 1.0
    places = 2 if unit == "mm" else words.places(margin, unit)
    down, up = (margin.band.down, margin.band.up) if margin.band is not None else (0.0, 0.0)
    bar, least, most = (
        max(-1.0, min(1.0, room / whole)) for room in (margin.room, margin.room - down, margin.room + up)
    )
    return Cell(numbers.plain(margin.room, places), as_sure(margin.state, on), bar, least, most)


def _figures(job: Job, column: Column) -> tuple[str, ...]:
    failure = column.failure
    stops = _("no")
    if failure is not None:
        run = column.course.run
        stops = numbers.clock(run.clock(failure.likely)) if failure.likely is not None else _("perhaps")
    return (
        numbers.share(column.sure),
        stops,
        f"{job.currency}{column.cost:.0f}" if column.keys else "–",
        f"{column.minutes:.0f} min" if column.keys else "–",
        times.duration(column.warm_up) if column.warm_up is not None else _("never"),
        f"{column.energy / JOULES_PER_KWH:.2f} kWh",
    )


def _price(solved: SolvedBoard, column: Column) -> str:
    """'£12 and 40 minutes', or '£36 with 40 minutes of work' where that has its price."""
    text = _("{cost} with {minutes} minutes of work") if solved.hourly > 0.0 else _("{cost} and {minutes} minutes")
    cost = f"{solved.job.currency}{column.price(solved.hourly):.0f}"
    return text.format(cost=cost, minutes=f"{column.minutes:.0f}")


def _names(job: Job, keys: Keys) -> str:
    return " + ".join(begun(job.variants[key].label) for key in keys if key in job.variants)


def _verdict(solved: SolvedBoard, base: Column | None) -> Verdict:
    job = solved.job
    if base is None:
        return Verdict(_("The machine as found is being run"), _("Columns appear as they are solved."), State.UNKNOWN)
    if base.passes and not job.chosen:
        if solved.on.open:
            text = _("{assumed} Find them out before you leave it as it is.")
            reason = text.format(assumed=assumed(solved.on))
            return Verdict(_("Every limit holds as far as known"), reason, State.UNKNOWN)
        return Verdict(_("Every limit holds as found"), _("Nothing needs to be changed."), State.CLEAR)
    keys = _chosen_keys(solved)
    column = solved.columns.get(keys) or (solved.cheapest if keys else None)
    if keys and column is not None and column.keys == keys:
        headline = f"{_price(solved, column)}: {_names(job, keys)}"
        if column.passes:
            state = State.CLEAR if column.sure >= 0.95 else State.CLOSE
            reason = _("Every limit met over the whole job, {sure} sure.").format(sure=numbers.share(column.sure))
            if solved.on.open:
                reason = _("{reason} {assumed}").format(reason=reason, assumed=assumed(solved.on))
                return Verdict(headline, reason, State.UNKNOWN)
            return Verdict(headline, reason, state)
        passed = [m for m in column.margins.values() if m.room is not None and m.room < 0.0]
        listed = ", ".join(f"{begun(words.label(m))} {words.room(m)}" for m in passed[:3])
        return Verdict(headline, _("Not enough: {listed}.").format(listed=listed), State.OVER)
    if not job.variants:
        return Verdict(_("Nothing on the board yet"), _("Add parts, or keep a trial as an option."), State.UNKNOWN)
    if not solved.searched:
        return Verdict(_("Looking for the cheapest set"), _("Columns appear as they are solved."), State.UNKNOWN)
    return Verdict(
        _("No set on the board meets every limit"), _("Add an option; sets of up to three were tried."), State.OVER
    )


def _notes(solved: SolvedBoard, base: Column | None) -> tuple[tuple[str, str, State], ...]:
    """What is given up, what else would do, what makes it worse."""
    job = solved.job
    if base is None:
        return ()
    notes = []
    keys = _chosen_keys(solved)
    column = solved.columns.get(keys) or solved.cheapest
    if keys and column is not None and column.keys:
        more = (column.energy - base.energy) / JOULES_PER_KWH
        if abs(more) >= WORTH_A_WORD:
            way = _("more") if more >= 0 else _("less")
            text = _("{energy} kWh {way} for each print.").format(energy=numbers.plain(abs(more), 2), way=way)
            notes.append((_("Given up") if more >= 0 else _("Saved"), text, State.CLOSE if more >= 0 else State.CLEAR))
    cheapest = solved.cheapest
    if job.chosen and cheapest is not None and cheapest.keys != keys:
        price = _price(solved, cheapest)
        text = f"{_names(job, cheapest.keys)}, {price}, {numbers.share(cheapest.sure)} {_('sure')}."
        notes.append((_("Cheapest that meets every limit"), f"{text[:1].upper()}{text[1:]}", State.CLEAR))
    elif job.chosen and solved.searched and cheapest is None:
        notes.append((_("Cheapest that meets every limit"), _("None among these options."), State.OVER))
    singles = [one for one in solved.columns.values() if len(one.keys) == 1 and one.passes and one.keys != keys]
    if singles:
        best = max(singles, key=lambda one: one.sure)
        text = f"{_names(job, best.keys)}, {_price(solved, best)}, {numbers.share(best.sure)} {_('sure')}."
        notes.append((_("Alone it would do"), f"{text[:1].upper()}{text[1:]}", State.CLEAR))
    bad = worse([one for one in solved.columns.values() if len(one.keys) <= 1])
    if bad:
        text = ", ".join(_names(job, one.keys) for one in bad)
        notes.append((_("Makes it worse"), f"{text[:1].upper()}{text[1:]}.", State.OVER))
    return tuple(notes[:3])


def _trouble(wrong: Exception) -> str:
    """Why a column is not there, in a few words."""
    if isinstance(wrong, ClashError | DoesNotFitError):
        return str(wrong)
    if isinstance(wrong, NotConvergedError):
        return _("No answer for these values.")
    log.error("a column failed", exc_info=wrong)
    return _("The model failed on this; the log says more.")
