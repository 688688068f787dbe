"""What the widgets paint: frozen view-models, made from an answer. All words come from `wording`."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Protocol

from zeotherm.answers.board import SolvedBoard
from zeotherm.answers.hotend import Found, OtherJob
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.fitting import offering
from zeotherm.core.catalogue.shelves import Lever
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.judgement.findings import Strength
from zeotherm.core.judgement.levers import levers_of
from zeotherm.core.judgement.margins import Margin, State
from zeotherm.core.judgement.standing import Standing
from zeotherm.core.machine.documents import Job, Setup, declaration
from zeotherm.core.machine.hours import Pause
from zeotherm.core.machine.known import How, how_known
from zeotherm.core.machine.patches import value_at
from zeotherm.core.machine.quantity import Choice, Quantity, declared
from zeotherm.core.parts.hotend.judge.answer import Answer
from zeotherm.core.parts.hotend.judge.limits import margins
from zeotherm.desk.factsview import left_open
from zeotherm.shop.papers.report import model_at
from zeotherm.wording import margins as words
from zeotherm.wording import numbers
from zeotherm.wording.bed import minutes
from zeotherm.wording.course import PHASES
from zeotherm.wording.language import _, begun
from zeotherm.wording.numbers import clock
from zeotherm.wording.verdict import lead, verdict


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
    gain: float | None = None  # of the worst margin for one step; None: not known yet
    share: float = 0.0  # of the strongest lever's gain
    gain_text: str = ""
    how: How | None = None  # how what was found is known; None: not told in this list
    about: str = ""  # the instrument it was measured with, the run it was fitted to
    instruments: tuple[tuple[str, str], ...] = ()  # that measure such a value: key and label
    makes: bool = False  # whether one that is not on the shelf can be made

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
        marker(key, value, answer, job, found.was.get(key))
        for key, value in answer.solved.readout.values.items()
        if value is not None and STATIONS[key].is_temperature
    )
    counts = tuple((state, answer.count(state)) for state in (State.OVER, State.SHORT, State.CLOSE, State.CLEAR))
    view = LadderView(
        title=_title(found),
        markers=markers,
        softening=(given.softening, given.softening + given.swelling_span),
        counts=counts,
    )
    return unsure(view) if left_open(found) else view


def unsure(view: LadderView) -> LadderView:
    """A ladder of what hangs on facts that nobody entered: nothing on it is clear."""
    markers = tuple(replace(one, state=_unsure(one.state)) for one in view.markers)
    return replace(view, markers=markers, counts=tuple((_unsure(state), count) for state, count in view.counts))


def unsure_rows(rows: tuple[MarginRow, ...]) -> tuple[MarginRow, ...]:
    """Margins that hang on facts that nobody entered: none of them is clear."""
    return tuple(replace(row, state=_unsure(row.state)) for row in rows)


def as_sure(state: State, on: Standing) -> State:
    """A state by what it stands on: nothing is clear that hangs on facts that nobody entered."""
    return _unsure(state) if on.open else state


def _unsure(state: State) -> State:
    return State.UNKNOWN if state is State.CLEAR else state


def ladder_of_set(solved: SolvedBoard) -> LadderView | None:
    """The ladder of the set that is taken or suggested, at its worst moment; open dots are as found then."""
    base = solved.columns.get(())
    if base is None:
        return None
    keys = tuple(key for key in solved.job.variants if key in solved.job.chosen)
    column = solved.columns.get(keys) if keys else solved.cheapest
    shown = column or base
    run = base.course.run
    was = run.stations(min(shown.course.worst_time, run.end)) if shown is not base else {}
    answer = shown.answer
    given = answer.solved.resolved.inputs
    ranked = replace(answer, margins=margins(answer.solved, answer.limits, answer.bands))
    when = clock(shown.course.run.clock(shown.course.worst_time))
    title = _("With the set, worst at {clock}") if shown is not base else _("As found, worst at {clock}")
    view = LadderView(
        title=title.format(clock=when),
        markers=tuple(
            marker(key, value, ranked, solved.job, was.get(key))
            for key, value in answer.solved.readout.values.items()
            if value is not None and STATIONS[key].is_temperature
        ),
        softening=(given.softening, given.softening + given.swelling_span),
        counts=tuple((state, ranked.count(state)) for state in (State.OVER, State.SHORT, State.CLOSE, State.CLEAR)),
    )
    return unsure(view) if solved.on.open else view


def _title(found: Found) -> str:
    """When, and of which machine, the ladder speaks."""
    which = _("with the trial") if found.job.trial else _("as found")
    if left_open(found):
        which = _("as assumed")
    if found.course is None:
        return _("About, {which}").format(which=which)
    phase = PHASES[found.course.run.at(found.time)[1].kind]
    return _("At {clock}, {phase}, {which}").format(
        clock=clock(found.course.run.clock(found.time)), phase=phase, which=which
    )


def marker(key: str, value: float, answer: ShownJudgement, job: Job, was: float | None) -> Marker:
    """One station of an answer on the ladder; was: its value as found."""
    margin = next((item for item in answer.margins if item.station == key), None)
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


def rest_ladder(title: str, answer: Answer, job: Job, states: Iterable[State]) -> LadderView:
    """A hotend's answer at rest on the ladder; states: of what it is held against, which are counted."""
    given, found = answer.solved.resolved.inputs, tuple(states)
    markers = tuple(
        marker(key, value, answer, job, None)
        for key, value in answer.solved.readout.values.items()
        if value is not None and STATIONS[key].is_temperature
    )
    counts = tuple((state, found.count(state)) for state in (State.OVER, State.SHORT, State.CLOSE, State.CLEAR))
    return LadderView(title, markers, (given.softening, given.softening + given.swelling_span), counts)


def part_ladder(
    at_rest: str, answer: ShownJudgement, job: Job, time: float | None, values: Mapping[str, float],
    was: Mapping[str, float], keys: tuple[str, ...],
) -> LadderView:  # fmt: skip
    """The ladder of one part: its places by their keys, with what they were as found.

    at_rest: what it shows where no moment is looked at; time: that moment [s].
    """
    was = was if time is None else {}
    markers = tuple(marker(key, values[key], answer, job, was.get(key)) for key in keys if key in values)
    counts = tuple(
        (state, sum(one.state is state for one in answer.margins))
        for state in (State.OVER, State.SHORT, State.CLOSE, State.CLEAR)
    )
    which = _("with the trial") if job.trial else _("as found")
    when = at_rest if time is None else _("{time} after switching on").format(time=minutes(time))
    return LadderView(f"{when}, {which}", markers, None, counts)


class ShownJudgement(Protocol):
    """An answer of any part: its margins, worst first, and what its levers gain."""

    @property
    def margins(self) -> list[Margin]: ...

    @property
    def worst(self) -> Margin: ...

    @property
    def strengths(self) -> list[Strength]: ...


def margin_rows(answer: ShownJudgement) -> tuple[MarginRow, ...]:
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


def lever_rows(
    job: Job, catalogue: Catalogue, judged: ShownJudgement | None, part: str = "hotend"
) -> tuple[LeverRow, ...]:
    """The levers of a part as they stand, strongest first once their strengths are known."""
    setup = job.setup()
    known = {one.path: one for one in judged.strengths} if judged else {}
    most = max((one.gain for one in known.values()), default=0.0)
    rows = [
        _lever(path, lever, setup, job.found, catalogue, known.get(path), most, judged)
        for path, lever in levers_of(setup, catalogue, part).items()
    ]
    return tuple(sorted(rows, key=lambda row: -(row.gain if row.gain is not None else -1e9)))


def _lever(
    path: str,
    lever: Lever,
    setup: Setup,
    found: Setup,
    catalogue: Catalogue,
    strength: Strength | None,
    most: float,
    judged: ShownJudgement | None,
) -> LeverRow:
    item = declaration(path)
    value, was = value_at(setup, path), value_at(found, path)
    gain, share, text = None, 0.0, ""
    if strength is not None and judged is not None:
        unit = numbers.difference_unit(STATIONS[judged.worst.station].unit)
        gain, share = strength.gain, max(strength.gain, 0.0) / most if most > 0 else 0.0
        text = numbers.with_unit(strength.gain, unit, words.places(judged.worst, unit))
    if isinstance(item, Choice):
        fits = offering(item, setup, catalogue)
        options = tuple((key, entry.label) for key, entry in fits.items())
        better = strength is not None and share > 0
        aside = _("to {label}").format(label=begun(fits[str(strength.to)].label)) if strength and better else ""
        return LeverRow(path, item.label, aside, value, was, "", 0.0, 0.0, 0.0, options, item.help, gain, share, text)
    assert isinstance(item, Quantity)
    unit = numbers.difference_unit(item.unit)
    sign = "±" if strength is None or share <= 0 else "+" if float(strength.to) > float(value) else numbers.MINUS
    step = f"{sign}{numbers.with_unit(item.step, unit, 0 if item.step % 1 == 0 else 1)}"
    return LeverRow(
        path,
        item.label,
        step,
        value,
        was,
        item.unit,
        lever.low,
        lever.high,
        item.step,
        (),
        item.help,
        gain,
        share,
        text,
    )


def machine_rows(job: Job, catalogue: Catalogue, paths: Iterable[str] | None = None) -> tuple[LeverRow, ...]:
    """These numbers and parts of the setup; without paths every declared one, in the documents' order."""
    setup = job.setup()
    rows = []
    for path in declared(Setup) if paths is None else paths:
        item = declaration(path)
        lever = catalogue.levers.get(path) or Lever()
        if isinstance(item, Quantity) and lever.low == lever.high:
            lever = Lever(low=item.low, high=item.high)
        row = _lever(path, lever, setup, job.found, catalogue, None, 0.0, None)
        about = job.known[path].about if path in job.known else ""
        rows.append(
            replace(
                row,
                how=how_known(job.known, path),
                about=about,
                instruments=_instruments(item, catalogue),
                makes=isinstance(item, Choice) and item.shelf in catalogue.own_figures,
            )
        )
    return tuple(rows)


def _instruments(item: Quantity | Choice, catalogue: Catalogue) -> tuple[tuple[str, str], ...]:
    """What measures such a value."""
    if isinstance(item, Choice):
        return ()
    return tuple((key, one.label) for key, one in catalogue.instruments.items() if one.unit == item.unit)


def _pause(one: Pause) -> str:
    told = _("Pause after {after:g} min, {minutes:g} min")
    if one.nozzle_c is not None:
        told = _("Pause after {after:g} min, {minutes:g} min at {standby:g} °C")
    return told.format(after=one.after_min, minutes=one.minutes, standby=one.nozzle_c)


def timed_lines(job: Job) -> tuple[tuple[str, str], ...]:
    """What has a time, in words, and the entry line that takes it away."""
    setup = job.setup()
    start = setup.schedule.start_h
    lines = [
        (f"{heat.label}: {numbers.with_unit(heat.watts, 'W', 0)}, {clock(heat.from_h)} {_('to')} {clock(heat.to_h)}",
         f"forget {heat.label}")
        for heat in setup.heats.values()
    ]  # fmt: skip
    lines += [
        (_pause(one), "forget pauses")
        for one in setup.schedule.pauses.values()
    ]  # fmt: skip
    lines += [
        (f"{one.label} {_('at')} {clock(start + one.at_min / 60.0)}", f"forget {one.label}")
        for one in setup.faults.values()
    ]
    return tuple(lines)


def flags(found: Found) -> tuple[Flag, ...]:
    """Readings that are pinned, each beside the model's value."""
    answer = found.answer
    return tuple(flag for key in found.job.readings if (flag := _flag(key, found, answer)))


def _flag(key: str, found: Found, answer: Answer) -> Flag | None:
    if key not in STATIONS or not STATIONS[key].is_temperature:
        return None
    reading, model = found.job.readings[key], _model_beside(key, found)
    margin = next((item for item in answer.margins if item.station == key), None)
    band = answer.bands.values.get(key) if answer.bands else None
    doubt = reading.tolerance + (max(band.up, band.down) if band else 0.0)
    apart = model is not None and band is not None and abs(model - reading.value) > doubt
    measured = numbers.plain(reading.value)
    shown = numbers.plain(model) if model is not None else _("not known")
    label = STATIONS[key].label
    said = _("found {value}") if found.job.trial else _("model {value}")
    if reading.clock_h is not None and found.course is not None:
        said += f" {_('at')} {clock(reading.clock_h)}"
    return Flag(
        key, label, measured, said.format(value=shown), margin.state if margin else State.UNKNOWN, apart,
        _("{label}, measured {measured}, model {model} degrees").format(label=label, measured=measured, model=shown),
    )  # fmt: skip


def _model_beside(key: str, found: Found) -> float | None:
    """The model's value of the machine as it was found, at the time of the reading where that is known."""
    course = found.course_found or (found.course if not found.job.trial else None)
    values = found.was if found.job.trial and found.was else found.answer.solved.readout.values
    return model_at(key, found.job.readings[key], values, course)


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
    job, answer = other.job, other.answer
    kind = job.setup().hotend.template
    if answer is None:
        line = _("No steady answer for these values")
        return JobRow(other.key, job.machine, job.number, job.place, line, job.complaint, State.UNKNOWN, "", 0.0, kind,
                      f"{job.machine}, {line}")  # fmt: skip
    told, worst = verdict(answer, other.standing), lead(answer)
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
