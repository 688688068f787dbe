"""What the widgets paint: frozen view-models, made from an answer. All words come from `wording`."""

from __future__ import annotations

from dataclasses import dataclass

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.judgement.answer import Answer
from zeotherm.core.judgement.margins import Margin, State
from zeotherm.core.machine.documents import Job, Setup, value_at
from zeotherm.core.machine.quantity import Choice, Quantity, declared
from zeotherm.core.twin.stations import STATIONS
from zeotherm.desk.bench import Found, OtherJob
from zeotherm.wording import margins as words
from zeotherm.wording import numbers
from zeotherm.wording.language import _
from zeotherm.wording.verdict import lead

LEVERS = (
    "surroundings.fan_air_c",
    "fan.voltage_v",
    "fan.guard_blocked_pct",
    "hotend.break_part",
    "hotend.sink_joint",
    "printing.nozzle_c",
    "printing.flow_mm3_s",
    "printing.retraction_mm",
)
LEVER_SPANS = {  # the part of a quantity's bounds that a slider covers
    "surroundings.fan_air_c": (5.0, 70.0),
    "fan.voltage_v": (0.0, 28.0),
    "printing.nozzle_c": (170.0, 320.0),
    "printing.flow_mm3_s": (0.2, 25.0),
    "printing.retraction_mm": (0.0, 8.0),
}


@dataclass(frozen=True, slots=True)
class Marker:
    """One place on the ladder."""

    key: str
    label: str
    value: float
    limit: float | None
    kind: str
    state: State
    measured: bool
    was: float | None
    spoken: str


@dataclass(frozen=True, slots=True)
class LadderView:
    """The ladder: markers, softening span, counts."""

    title: str
    markers: tuple[Marker, ...]
    softening: tuple[float, float] | None
    counts: tuple[tuple[State, int], ...]


@dataclass(frozen=True, slots=True)
class MarginRow:
    """One limit in the side column."""

    key: str
    label: str
    value: str
    room: str
    band: str
    bar: float  # share of the bar's length, negative when passed
    state: State
    spoken: str
    tip: str


@dataclass(frozen=True, slots=True)
class LeverRow:
    """One thing that can be changed."""

    path: str
    label: str
    step: str
    value: float | str
    found: float | str
    unit: str
    low: float
    high: float
    step_size: float
    options: tuple[tuple[str, str], ...]  # (key, label) of a choice
    tip: str

    @property
    def is_choice(self) -> bool:
        """Whether it is chosen from a shelf."""
        return bool(self.options)

    @property
    def on_trial(self) -> bool:
        """Whether it differs from what was found."""
        return self.value != self.found


@dataclass(frozen=True, slots=True)
class Flag:
    """A measured value pinned to its place, beside the model's."""

    station: str
    label: str
    measured: str
    model: str
    state: State
    apart: bool  # further apart than both doubts allow
    spoken: str


def ladder(found: Found) -> LadderView:
    """The ladder of one job."""
    answer, job = found.answer, found.job
    given = answer.solved.resolved.inputs
    markers = tuple(
        _marker(key, value, answer, job, found.as_found)
        for key, value in answer.solved.readout.values.items()
        if value is not None and STATIONS[key].is_temperature
    )
    counts = tuple((state, answer.count(state)) for state in (State.OVER, State.SHORT, State.CLOSE, State.CLEAR))
    return LadderView(
        title=_("Steady, with the trial") if job.trial else _("Steady, as found"),
        markers=markers,
        softening=(given.softening, given.softening + given.swelling_span),
        counts=counts,
    )


def _marker(key: str, value: float, answer: Answer, job: Job, as_found: Answer | None) -> Marker:
    margin = next((item for item in answer.margins if item.station == key), None)
    was = as_found.solved.readout.values.get(key) if as_found else None
    label = STATIONS[key].label
    return Marker(
        key=key,
        label=words.label(margin) if margin else label,
        value=value,
        limit=margin.limit if margin else None,
        kind=margin.kind if margin else "ceiling",
        state=margin.state if margin else State.UNKNOWN,
        measured=key in job.readings,
        was=was if was is not None and abs(was - value) > 0.5 else None,
        spoken=words.spoken(margin) if margin else f"{label}, {numbers.with_unit(value, '°C')}, {_('no limit known')}",
    )


def margin_rows(answer: Answer) -> tuple[MarginRow, ...]:
    """The margins, worst first; none of what is not there."""
    return tuple(_margin_row(margin) for margin in answer.margins if margin.room is not None)


def _margin_row(margin: Margin) -> MarginRow:
    assert margin.room is not None
    band = words.band(margin)
    tip = _("Limit {limit}: {breaks}. Source: {source}.").format(
        limit=words.limit(margin), breaks=margin.breaks, source=margin.source
    )
    if band:
        tip += " " + _("Room {room} {band} (95 %); {sure}.").format(
            room=words.room(margin), band=band, sure=words.sure(margin)
        )
    scale = 4.0 * margin.clear_from or 1.0
    return MarginRow(
        key=margin.key,
        label=words.label(margin),
        value=words.value(margin),
        room=words.room(margin),
        band=band.removesuffix(f" {numbers.difference_unit(STATIONS[margin.station].unit)}"),
        bar=max(-1.0, min(1.0, margin.room / scale)),
        state=margin.state,
        spoken=words.spoken(margin),
        tip=tip,
    )


def lever_rows(job: Job, catalogue: Catalogue) -> tuple[LeverRow, ...]:
    """The levers of the hotend as they stand."""
    setup = job.setup()
    return tuple(_lever(path, setup, job.found, catalogue) for path in LEVERS)


def _lever(path: str, setup: Setup, found: Setup, catalogue: Catalogue) -> LeverRow:
    item = declared(Setup)[path]
    value, was = value_at(setup, path), value_at(found, path)
    if isinstance(item, Choice):
        fits = catalogue.fitting(item.shelf, setup.hotend.template)
        options = tuple((key, entry.label) for key, entry in fits.items())
        return LeverRow(path, item.label, "", value, was, "", 0.0, 0.0, 0.0, options, item.help)
    assert isinstance(item, Quantity)
    low, high = LEVER_SPANS.get(path, (item.low, item.high))
    unit = numbers.difference_unit(item.unit)
    step = f"±{numbers.with_unit(item.step, unit, 0 if item.step % 1 == 0 else 1)}"
    return LeverRow(path, item.label, step, value, was, item.unit, low, high, item.step, (), item.help)


def flags(found: Found) -> tuple[Flag, ...]:
    """Readings that are pinned, each beside the model's value."""
    answer = found.answer
    return tuple(flag for key in found.job.readings if (flag := _flag(key, found, answer)))


def _flag(key: str, found: Found, answer: Answer) -> Flag | None:
    if key not in STATIONS or not STATIONS[key].is_temperature:
        return None
    reading, model = found.job.readings[key], answer.solved.readout.values.get(key)
    if found.job.trial and found.as_found is not None:
        model = found.as_found.solved.readout.values.get(key)  # a reading is of the machine as it was found
    margin = next((item for item in answer.margins if item.station == key), None)
    band = answer.bands.values.get(key) if answer.bands else None
    doubt = reading.tolerance + (max(band.up, band.down) if band else 0.0)
    apart = model is not None and band is not None and abs(model - reading.value) > doubt
    measured = numbers.plain(reading.value)
    shown = numbers.plain(model) if model is not None else _("not known")
    label = STATIONS[key].label
    said = _("found {value}") if found.job.trial else _("model {value}")
    return Flag(
        key, label, measured, said.format(value=shown), margin.state if margin else State.UNKNOWN, apart,
        _("{label}, measured {measured}, model {model} degrees").format(label=label, measured=measured, model=shown),
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class JobRow:
    """One job in the list."""

    key: int
    machine: str
    number: str
    place: str
    verdict: str
    complaint: str
    state: State
    room: str
    bar: float
    kind: str  # of hotend, for the silhouette
    spoken: str


def job_row(other: OtherJob) -> JobRow:
    """A job by its verdict line."""
    from zeotherm.wording.verdict import verdict

    job, answer = other.job, other.answer
    kind = job.setup().hotend.template
    if answer is None:
        line = _("No steady answer for these values")
        return JobRow(other.key, job.machine, job.number, job.place, line, job.complaint, State.UNKNOWN, "", 0.0, kind,
                      f"{job.machine}, {line}")  # fmt: skip
    told, worst = verdict(answer), lead(answer)
    bar = 0.0 if worst.room is None else max(-1.0, min(1.0, worst.room / (4.0 * worst.clear_from)))
    return JobRow(other.key, job.machine, job.number, job.place, told.headline, job.complaint, told.state,
                  words.room(worst), bar, kind, f"{job.machine}, {told.headline}")  # fmt: skip


def sore_spots(others: list[OtherJob]) -> LadderView:
    """The ladder of all jobs: the worst temperature of each."""
    markers = []
    for other in others:
        if other.answer is None:
            continue
        worst = next(
            (item for item in other.answer.margins if STATIONS[item.station].is_temperature and item.value is not None),
            None,
        )
        if worst is None or worst.value is None:
            continue
        name = other.job.machine.split(",")[0]
        markers.append(
            Marker(str(other.key), name, worst.value, worst.limit, worst.kind, worst.state, False, None,
                   f"{other.job.machine}, {words.spoken(worst)}")
        )  # fmt: skip
    counts = tuple(
        (state, sum(m.state is state for m in markers)) for state in (State.OVER, State.SHORT, State.CLOSE, State.CLEAR)
    )
    return LadderView(_("Sore spots, all jobs"), tuple(markers), None, counts)
