"""What the page that sizes a case's heating paints: a row a filament on one scale of air, and what else, in words."""

from __future__ import annotations

from dataclasses import dataclass

from zeotherm.answers.enclosure_sizes import CaseSizeFound
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import patched
from zeotherm.core.parts.enclosure.judge.leads import Lead, lead_schedule
from zeotherm.core.parts.enclosure.judge.protecting import printed_anew
from zeotherm.core.parts.enclosure.judge.warmth import Warmth
from zeotherm.wording import enclosure as case_words
from zeotherm.wording import enclosure_sizes as words
from zeotherm.wording.language import _, begun
from zeotherm.wording.numbers import with_unit

LEAST_C, MOST_C = 10.0, 130.0  # of the scale


@dataclass(frozen=True, slots=True)
class WarmthRow:
    """One filament."""

    key: str
    label: str
    low: float  # °C: wanted from, to
    high: float
    creeps: float | None
    band: float
    state: State
    said: str
    spoken: str


@dataclass(frozen=True, slots=True)
class WarmthView:
    """Every filament on one scale of the print's air, the case as it stands and as it is wanted."""

    rows: tuple[WarmthRow, ...]
    air: float
    wanted: float
    weakest: float | None  # air at which the first part inside passes its limit
    weakest_said: str


@dataclass(frozen=True)
class CaseSizingView:
    """The whole page."""

    warmth: WarmthView
    heater: tuple[str, ...]
    air: tuple[str, ...]
    parts: tuple[str, ...]
    wrong: tuple[str, ...]
    fit: tuple[str, ...]
    lines: tuple[str, ...]


def case_sizing_view(found: CaseSizeFound) -> CaseSizingView:
    """Everything that the page shows."""
    wish, catalogue, sized = found.wish, found.catalogue, found.sized
    warmth = _warmth(found)
    if sized is None:
        return CaseSizingView(warmth, (_("Sizing the heater ..."),), (), (), (), (), ())
    heater = [case_words.heater(sized.heater, wish.wanted_c)]
    if not found.answer.resolved.inputs.heats and sized.watts > 0.0:
        heater.append(words.count(sized.watts, sized.count))
    heater += [words.placed(one, catalogue, wish.wanted_c) for one in sized.places]
    heater += [words.outlet(sized.outlet)] if sized.places else []
    heater += [case_words.cut_out(sized.cut)] if sized.cut is not None else []
    if sized.cut_helped is not None and sized.cut_helped.possible:
        heater.append(_("With the help below: {cut}").format(cut=begun(case_words.cut_out(sized.cut_helped))))
    air = (words.mixing(sized.mixing, wish.spread_k), case_words.vents(sized.vents, wish.wanted_c))
    case = found.answer.setup.case
    return CaseSizingView(
        warmth=warmth,
        heater=tuple(heater),
        air=air if sized.places else (),
        parts=(
            *words.parts(sized.parts, found.job.currency, case.printed_count, case.printed_g),
            *(words.prints_it(one, catalogue) for one in found.filaments if one.filament in printed_anew(sized.parts)),
            *(words.prints_it(one, catalogue, machine) for machine, one in found.elsewhere),
        ),
        wrong=tuple(case_words.gone(one) for one in sized.gone),
        fit=(*([words.fit(one) for one in sized.fits] or [words.unmeasured()]), words.leads(_leads(found))),
        lines=tuple(words.control_line(one) for one in sized.lines),
    )


def _leads(found: CaseSizeFound) -> list[Lead]:
    """Those of the case with the heater that is proposed."""
    setup = found.answer.setup
    watts = found.sized.watts if found.sized is not None else 0.0
    if setup.case.heater_w > 0.0 or watts <= 0.0:
        return lead_schedule(setup)
    return lead_schedule(patched(setup, {"case": {"heater_w": min(watts, 3000.0), "sensor_pct": 25.0}}))


def _warmth(found: CaseSizeFound) -> WarmthView:
    answer = found.answer
    inside = [one for one in answer.margins if one.kind == "ceiling" and one.room is not None]
    least = min(inside, key=lambda one: one.room or 0.0, default=None)
    weakest = answer.solved.low + (least.room or 0.0) if least is not None else None
    said = ""
    if least is not None and weakest is not None:
        said = _("{part} at its limit").format(part=STATIONS[least.station].label)
    rows = tuple(_row(one, found) for one in found.filaments)
    return WarmthView(rows, answer.solved.low, found.wish.wanted_c, weakest, said)


def _row(one: Warmth, found: CaseSizeFound) -> WarmthRow:
    label = found.catalogue.filaments[one.filament].label
    if not one.holds or not one.possible:
        state = State.OVER
    elif not one.warm_enough:
        state = State.SHORT
    elif not one.surely:
        state = State.CLOSE
    else:
        state = State.CLEAR
    said = words.creeps(one)
    spoken = words.filament(one, found.catalogue)
    low, high = one.wants[0].value, one.wants[1].value
    nozzle = with_unit(one.nozzle, "°C", 0)
    return WarmthRow(one.filament, f"{label}, {nozzle}", low, high, one.creeps_from, one.band, state, said, spoken)
