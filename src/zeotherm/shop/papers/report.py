"""The one-page report, as HTML and as PDF."""

from __future__ import annotations

import base64
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from typing import TYPE_CHECKING, Any

import numpy as np

from zeotherm import __version__
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.choices.board import Column
from zeotherm.core.judgement.margins import Margin
from zeotherm.core.judgement.standing import Standing
from zeotherm.core.machine.documents import Job, Reading, Setup, changed_paths, declaration
from zeotherm.core.parts.hotend.judge.answer import Answer, cautions
from zeotherm.core.parts.hotend.judge.course import Course
from zeotherm.core.runs.series import as_series, differences
from zeotherm.shop.papers.other_parts import OtherPart
from zeotherm.wording import causes, numbers, work
from zeotherm.wording import course as times
from zeotherm.wording import margins as words
from zeotherm.wording import standing as known
from zeotherm.wording.language import _
from zeotherm.wording.machine import value_text
from zeotherm.wording.verdict import BEYOND, verdict

if TYPE_CHECKING:
    from jinja2 import Template
    from PyQt6.QtCore import QByteArray
    from PyQt6.QtGui import QTextDocument

MARGIN_ROWS = 8
SCALES = (1.0, 0.94, 0.88, 0.82, 0.76, 0.7)  # of the printed page, the largest that holds it
FAN_AIR, COMPUTED = "surroundings.fan_air_c", _("computed")
KEY_FACTS = (
    "hotend.template", "hotend.break_part", "hotend.sink_joint", "printing.filament", "printing.nozzle_c",
    "printing.flow_mm3_s", "printing.retraction_mm", "surroundings.air_from", "surroundings.fan_air_c", "fan.voltage_v",
    "fan.guard_blocked_pct", "case.part", "case.vents_open_pct",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class SetupLine:
    """One line of the setup: as found, and on trial where that differs."""

    label: str
    found: str
    trial: str


def facts(job: Job, answer: Answer, as_found: Answer | None = None) -> list[SetupLine]:
    """The facts a reader asks for first, and every one that a trial changed."""
    tried = job.setup()
    changed = list(changed_paths(job.found, tried))
    lines = []
    for path in dict.fromkeys((*KEY_FACTS, *changed)):
        if path == FAN_AIR and not _stated(tried, answer):
            before, now = (as_found or answer).solved.air.fan, answer.solved.air.fan
            trial = numbers.with_unit(now, "°C") if as_found is not None and abs(now - before) > 0.05 else ""
            lines.append(SetupLine(declaration(path).label, f"{numbers.with_unit(before, '°C')}, {COMPUTED}", trial))
            continue
        found, trial = value_text(job.found, path, answer.catalogue), value_text(tried, path, answer.catalogue)
        lines.append(SetupLine(declaration(path).label, found, trial if path in changed else ""))
    return lines


def _stated(setup: Setup, answer: Answer) -> bool:
    return bool(answer.catalogue.air_sources[setup.surroundings.air_from].stated)


@dataclass(frozen=True)
class ReportSheet:
    """What the report tells: job, worst moment, the machine as found then, the whole job, and the set taken."""

    job: Job
    answer: Answer
    as_found: Answer  # what readings without a time are held against; the answer itself while nothing is on trial
    course: Course | None
    course_found: Course | None
    time: float  # of the moment [s]
    change: tuple[Column, Column] | None  # as found, and with the options taken
    others: Sequence[OtherPart]  # the machine beside its hotend
    on: Standing  # what the verdict stands on


def html(sheet: ReportSheet, picture: bytes, written: str) -> str:
    """The report as one HTML page; picture: PNG of the section; written: the date as shown."""
    job, answer, course = sheet.job, sheet.answer, sheet.course
    beside = {key: value for one in sheet.others for key, value in one.values.items()}
    return template("report.html").render(
        job=job,
        written=written,
        version=__version__,
        told=verdict(answer, sheet.on),
        outlook=times.outlook(course, answer, sheet.on) if course is not None else "",
        stands=stands_on(sheet.on, answer),
        moment=numbers.clock(course.run.clock(sheet.time)) if course is not None else "",
        picture=base64.b64encode(picture).decode("ascii"),
        rows=[_row(margin) for margin in answer.margins[:MARGIN_ROWS] if margin.room is not None],
        change=_change(job, *sheet.change) if sheet.change is not None else None,
        beyond=[BEYOND[law] for law in answer.solved.readout.extrapolated],
        more=sum(margin.room is not None for margin in answer.margins[MARGIN_ROWS:]),
        others=sheet.others,
        unknown=[words.label(margin) for margin in answer.margins if margin.room is None],
        readings=[_reading(sheet, key, beside) for key in job.readings],
        log=_log(sheet),
        facts=facts(job, answer, sheet.as_found if job.trial else None),
        trial=bool(job.trial),
        watts=answer.solved.readout.watts,
        ceiling=answer.ceiling * 1e9 if answer.ceiling else None,
        flow=answer.setup.printing.flow_mm3_s,
        told_facts=[
            causes.fact(f"{asked}.{option}", answer.catalogue)
            for asked, options in job.intake.answers.items()
            for option in options
            if asked in answer.catalogue.asked
        ],
        cause=answer.catalogue.causes.get(job.intake.decided or ""),
        cautions=[(answer.catalogue.cautions[key].sign, text) for key, text in cautions(answer).items()],
        number=numbers.plain,
        done=work.done(job.doing, answer.catalogue),
    )


def stands_on(on: Standing, answer: Answer) -> list[str]:
    """What of a machine is only assumed: how many facts and which, and how to find out those that decide."""
    if not on.assumed:
        return []
    about = answer.catalogue.facts
    deciding, unit = on.of(answer.worst.key), known.unit_of(answer.worst)
    lines = [known.assumed(on), _("Assumed: {facts}.").format(facts="; ".join(about[key].label for key in on.assumed))]
    if deciding is not None and deciding.first:
        lines += [known.ask(one, answer.catalogue, unit) for one in deciding.first]
        lines.append(known.would_be(deciding, answer.catalogue, unit))
    return lines


def _change(job: Job, before: Column, after: Column) -> dict[str, Any]:
    """Each limit as found and with the set, both at their own worst moments over the whole job."""
    names = [job.variants[key].label for key in after.keys]
    shown = sorted(
        (margin for margin in before.margins.values() if margin.room is not None),
        key=lambda margin: (margin.room or 0.0) / (margin.clear_from or 1.0),
    )
    rows = []
    for margin in shown[:MARGIN_ROWS]:
        with_set = after.margins.get(margin.key)
        rows.append(
            {
                **_row(margin),
                "after": words.room(with_set) if with_set is not None else "",
                "after_band": words.band(with_set) if with_set is not None else "",
                "after_state": with_set.state.value if with_set is not None else "",
            }
        )
    failures = [(column, column.failure) for column in (before, after)]
    stops = [times.span(column.course, one) if one is not None else _("not in this job") for column, one in failures]
    return {
        "names": names,
        "rows": rows,
        "sure": (numbers.share(before.sure), numbers.share(after.sure)),
        "stops": stops,
        "cost": f"{job.currency}{after.cost:.0f}",
        "minutes": f"{after.minutes:.0f} min",
        "energy": [f"{column.energy / 3.6e6:.2f} kWh" for column in (before, after)],
    }


def _log(sheet: ReportSheet) -> str:
    """How the job's log stands to the machine as found."""
    course = sheet.course_found or (sheet.course if not sheet.job.trial else None)
    run = sheet.job.measured.runs.get(sheet.job.measured.laid or "")
    if run is None or course is None:
        return ""
    return times.log(run.source, differences(as_series(run), course), course)


def _row(margin: Margin) -> dict[str, str]:
    return {
        "label": words.label(margin),
        "value": words.value(margin),
        "limit": words.limit(margin),
        "source": margin.source,
        "room": words.room(margin),
        "band": words.band(margin),
        "sure": words.sure(margin),
        "state": margin.state.value,
        "breaks": margin.breaks,
    }


def model_at(key: str, reading: Reading, values: Mapping[str, float | None], course: Course | None) -> float | None:
    """The model's value where and when something was read: at its time if that is known, else at the moment."""
    if course is not None and reading.clock_h is not None and key in course.series:
        time = (reading.clock_h - course.run.clock(0.0)) * 3600.0
        return float(np.interp(time, course.run.times, course.series[key]))
    return values.get(key)


def _reading(sheet: ReportSheet, key: str, beside: Mapping[str, float]) -> dict[str, str]:
    """A reading beside the model; beside: what the model has of bed, case and power path, by station."""
    reading, station = sheet.job.readings[key], STATIONS[key]
    course = sheet.course_found or (sheet.course if not sheet.job.trial else None)
    model = model_at(key, reading, sheet.as_found.solved.readout.values, course)
    model = beside.get(key) if model is None else model
    places = 3 if station.unit == "V" and abs(reading.value) < 1.0 else None
    unit = numbers.difference_unit(station.unit)
    when = f", {numbers.clock(reading.clock_h)}" if reading.clock_h is not None else ""
    return {
        "label": station.label,
        "measured": f"{numbers.with_unit(reading.value, station.unit, places)} "
        f"±{numbers.with_unit(reading.tolerance, unit, places)}",
        "by": f"{reading.instrument}{when}".removeprefix(", "),
        "model": numbers.with_unit(model, station.unit, places),
        "apart": numbers.with_unit(reading.value - model, unit, places) if model is not None else "",
    }


@cache
def template(name: str) -> Template:
    """One of the shop's pages; what a page asks for and is not given is an error."""
    from jinja2 import Environment, PackageLoader, StrictUndefined

    pages = Environment(loader=PackageLoader("zeotherm.shop.papers"), autoescape=True, undefined=StrictUndefined)
    return pages.get_template(name)


def pdf(page: str, title: str, *, one_page: bool = True) -> bytes:
    """The HTML page as A4 pages of PDF; one_page: as one, drawn smaller where it must be. Needs a QGuiApplication."""
    from PyQt6.QtCore import QBuffer, QIODevice, QMarginsF, QPointF, QRectF, QSizeF
    from PyQt6.QtGui import QFont, QPageLayout, QPageSize, QPainter, QPdfWriter, QTextDocument

    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setPageLayout(
        QPageLayout(QPageSize(QPageSize.PageSizeId.A4), QPageLayout.Orientation.Portrait, QMarginsF(14, 12, 14, 12),
                    QPageLayout.Unit.Millimeter)
    )  # fmt: skip
    writer.setTitle(title)
    writer.setResolution(96)
    document = QTextDocument()
    document.setDefaultFont(QFont("Atkinson Hyperlegible Next", 8))
    document.setHtml(page)
    scale = (
        1.0
        if not one_page
        else next((one for one in SCALES if _fits(document, writer.width() / one, writer.height() / one)), SCALES[-1])
    )
    document.setPageSize(QSizeF(writer.width() / scale, writer.height() / scale))
    painter = QPainter(writer)
    painter.scale(scale, scale)
    for number in range(document.pageCount()):
        if number:
            writer.newPage()
        painter.save()
        painter.translate(0.0, -number * document.pageSize().height())
        document.drawContents(painter, QRectF(QPointF(0.0, number * document.pageSize().height()), document.pageSize()))
        painter.restore()
    painter.end()
    del writer
    data: QByteArray = buffer.data()
    return bytes(data.data())


def _fits(document: QTextDocument, width: float, height: float) -> bool:
    document.setTextWidth(width)
    return bool(document.size().height() <= height)
