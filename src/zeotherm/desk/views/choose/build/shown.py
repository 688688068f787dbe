"""What the page of a build paints: slots, the open shelf, what it is held against, volts, watts."""

from __future__ import annotations

from dataclasses import dataclass

from zeotherm.answers.build import BuildFound
from zeotherm.core.catalogue.fitting import fed_volts
from zeotherm.core.choices.build.judged import HEAT_UP, Built, Row, SlotState
from zeotherm.core.choices.build.slots import Candidate, filled
from zeotherm.core.choices.build.watts import rated_for
from zeotherm.core.judgement.margins import State
from zeotherm.core.parts.power.judge.voltage import power_times
from zeotherm.desk.viewmodels import MarginRow
from zeotherm.wording import build as words
from zeotherm.wording import margins as margin_words
from zeotherm.wording.language import _
from zeotherm.wording.numbers import with_unit


@dataclass(frozen=True, slots=True)
class SlotLine:
    """A slot with what is in it, or a part of its shelf."""

    key: str  # slot, or slot/part
    head: str  # of the slot; empty: of a part
    part: str
    figure: str
    state: State
    taken: bool = False  # of a part: it is what the build holds
    changed: bool = False  # of a slot: not as found
    price: str = ""
    spoken: str = ""
    tip: str = ""

    @property
    def is_part(self) -> bool:
        """Whether it is a part of the open shelf."""
        return "/" in self.key


@dataclass(frozen=True, slots=True)
class VoltSquare:
    """What a part makes of its watts, as a square beside the one it is rated for."""

    label: str
    times: float
    text: str
    state: State


@dataclass(frozen=True, slots=True)
class BuildView:
    """The whole page."""

    slots: tuple[SlotLine, ...]
    rows: tuple[MarginRow, ...]
    squares: tuple[VoltSquare, ...]
    sums: tuple[tuple[str, str], ...]  # figure and what it is
    weakest: Row | None


def shown(found: BuildFound, opened: str, currency: str) -> BuildView:
    """The page as it stands; opened: the slot whose shelf is open."""
    built = found.built
    lines: list[SlotLine] = []
    for one in built.slots:
        lines.append(_slot(one, found))
        if one.slot == opened:
            lines += [_part(each, found, currency) for each in found.shelf]
    cost = words.NOT_KNOWN if built.cost is None else f"{currency}{built.cost:.0f}"
    grams = words.NOT_KNOWN if built.grams is None else with_unit(built.grams, "g", 0)
    sums = ((cost, _("parts")), (with_unit(built.minutes, "min"), _("to fit")), (grams, _("on the carriage")))
    weakest = next((one for one in built.rows if one.margin is not None), None)
    return BuildView(tuple(lines), tuple(_row(one, found) for one in built.rows), _squares(found), sums, weakest)


def _slot(one: SlotState, found: BuildFound) -> SlotLine:
    head = str(found.catalogue.slots[one.slot].label)
    figure, tip = "", ""
    if one.row is not None:
        figure, tip = words.amount(one.row), words.sentence(one.row, found.catalogue)
    if not one.known and one.state is State.UNKNOWN:
        figure = _("not entered")
        tip = _("Nobody entered what is fitted here; this part is assumed. {rest}").format(rest=tip).strip()
    return SlotLine(
        one.slot, head, one.label, figure, one.state, changed=one.chosen, tip=tip,
        spoken=", ".join(part for part in (head, one.label, figure, margin_words.STATE_WORDS[one.state]) if part),
    )  # fmt: skip


def _part(one: Candidate, found: BuildFound, currency: str) -> SlotLine:
    tried = (found.tried or {}).get(one.key)
    state, figure, tip = _brings(tried, one.slot, found)
    price = words.offer(one, currency)
    change = filled(found.built.change, one, found.job.found, found.catalogue)
    return SlotLine(
        f"{one.slot}/{one.key}", "", one.label, figure, state, taken=change == found.built.change, price=price,
        spoken=", ".join(part for part in (one.label, figure, price) if part), tip=tip,
    )  # fmt: skip


def _brings(tried: Built | None, slot: str, found: BuildFound) -> tuple[State, str, str]:
    """What a part makes of the build: a limit that it breaks elsewhere, else its weakest figure at this slot."""
    if tried is None:
        return State.UNKNOWN, _("being solved"), ""
    before = {one.key for one in found.built.rows if one.state.bad}
    broken = next((one for one in tried.rows if one.state.bad and one.key not in before), None)
    row = broken or next((one for one in tried.rows if one.slot == slot), None)
    if row is None:
        return State.CLEAR, "", ""
    text = words.amount(row) if row.slot == slot else f"{words.label(row, found.catalogue)} {words.amount(row)}"
    return row.state, text, words.sentence(row, found.catalogue)


def _row(one: Row, found: BuildFound) -> MarginRow:
    margin = one.margin
    label = words.label(one, found.catalogue)
    bar, band = 0.0, ""
    if margin is not None and margin.room is not None:
        scale = margin.limit if one.key == HEAT_UP else 4.0 * (margin.clear_from or 1.0)
        bar = max(min(margin.room / (scale or 1.0), 1.0), -0.7)
        band = "" if margin.band is None else margin_words.band(margin)
    amount = words.amount(one)
    value = "" if margin is None else words.value(margin)
    return MarginRow(
        key=one.key, label=label, value=value, room=amount, band=band, bar=bar, state=one.state,
        spoken=f"{label}, {amount}, {margin_words.STATE_WORDS[one.state]}", tip=words.sentence(one, found.catalogue),
    )  # fmt: skip


def _squares(found: BuildFound) -> tuple[VoltSquare, ...]:
    """Cartridge and fan by their volts, and what is wrong the other way round."""
    setup, catalogue = found.built.setup, found.catalogue
    made = []
    pairs = (
        ("heater", _("Cartridge"), setup.hotend.heater_rated_v, fed_volts(setup, catalogue)),
        ("fan", _("Fan"), catalogue.fans[setup.fan.part].rated_v, setup.fan.voltage_v),
    )
    for part, label, rated, gets in pairs:
        wrong = found.built.row(f"volts:{part}")
        times = power_times(rated, gets)
        text = _("{rated} on {gets}").format(rated=with_unit(rated, "V", 0), gets=with_unit(gets, "V", 0))
        made.append(VoltSquare(label, times, text, wrong.state if wrong is not None else State.CLEAR))
        if wrong is not None and rated != gets:
            other = _("{rated} on {gets}").format(rated=with_unit(gets, "V", 0), gets=with_unit(rated, "V", 0))
            made.append(VoltSquare(_("Swapped"), power_times(gets, rated), other, State.UNKNOWN))
    return tuple(made[:3])


def stamped(found: BuildFound) -> float:
    """Watts of the fitted cartridge as one for its supply's volts would be stamped [W]."""
    hotend = found.built.setup.hotend
    return hotend.heater_power_w * power_times(hotend.heater_rated_v, rated_for(found.built.setup, found.catalogue))
