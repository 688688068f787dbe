"""The one-page report, as HTML and as PDF."""

from __future__ import annotations

import base64
from dataclasses import dataclass
from functools import cache
from typing import TYPE_CHECKING

from zeotherm import __version__
from zeotherm.core.judgement.answer import Answer, cautions
from zeotherm.core.judgement.margins import Margin
from zeotherm.core.machine.documents import Job, Setup, value_at
from zeotherm.core.machine.quantity import Choice, declared
from zeotherm.core.twin.stations import STATIONS
from zeotherm.wording import margins as words
from zeotherm.wording import numbers
from zeotherm.wording.verdict import BEYOND, verdict

if TYPE_CHECKING:
    from jinja2 import Template
    from PyQt6.QtCore import QByteArray

MARGIN_ROWS = 8
KEY_FACTS = (
    "hotend.template", "hotend.break_part", "hotend.sink_joint", "printing.filament", "printing.nozzle_c",
    "printing.flow_mm3_s", "printing.retraction_mm", "surroundings.fan_air_c", "fan.voltage_v", "fan.guard_blocked_pct",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Fact:
    """One line of the setup: as found, and on trial where that differs."""

    label: str
    found: str
    trial: str


def facts(job: Job, answer: Answer) -> list[Fact]:
    """The facts a reader asks for first, and every one that a trial changed."""
    changed = [path for path in declared(Setup) if value_at(job.found, path) != value_at(answer.setup, path)]
    lines = []
    for path in dict.fromkeys((*KEY_FACTS, *changed)):
        found, trial = _shown(job.found, path, answer), _shown(answer.setup, path, answer)
        lines.append(Fact(declared(Setup)[path].label, found, trial if path in changed else ""))
    return lines


def _shown(setup: Setup, path: str, answer: Answer) -> str:
    item, value = declared(Setup)[path], value_at(setup, path)
    if isinstance(item, Choice):
        return str(answer.catalogue.shelf(item.shelf)[value].label)
    return numbers.with_unit(value, item.unit)


def html(job: Job, answer: Answer, as_found: Answer, picture: bytes, written: str) -> str:
    """The report as one HTML page.

    as_found: what the readings are held against, the answer itself while nothing is on trial; picture: PNG of the
    section; written: the date as shown.
    """
    return _template().render(
        job=job,
        written=written,
        version=__version__,
        told=verdict(answer),
        picture=base64.b64encode(picture).decode("ascii"),
        rows=[_row(margin) for margin in answer.margins[:MARGIN_ROWS]],
        beyond=[BEYOND[law] for law in answer.solved.readout.extrapolated],
        more=max(0, len(answer.margins) - MARGIN_ROWS),
        readings=[_reading(job, as_found, key) for key in job.readings],
        facts=facts(job, answer),
        trial=bool(job.trial),
        watts=answer.solved.readout.watts,
        ceiling=answer.ceiling * 1e9 if answer.ceiling else None,
        flow=answer.setup.printing.flow_mm3_s,
        cautions=[(answer.catalogue.cautions[key].sign, text) for key, text in cautions(answer).items()],
        number=numbers.plain,
    )


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


def _reading(job: Job, answer: Answer, key: str) -> dict[str, str]:
    reading, station = job.readings[key], STATIONS[key]
    model = answer.solved.readout.values.get(key)
    unit = numbers.difference_unit(station.unit)
    return {
        "label": station.label,
        "measured": f"{numbers.with_unit(reading.value, station.unit)} ±{numbers.with_unit(reading.tolerance, unit)}",
        "by": reading.instrument,
        "model": numbers.with_unit(model, station.unit),
        "apart": numbers.with_unit(reading.value - model, unit) if model is not None else "",
    }


@cache
def _template() -> Template:
    from jinja2 import Environment, PackageLoader, StrictUndefined

    pages = Environment(loader=PackageLoader("zeotherm.shop"), autoescape=True, undefined=StrictUndefined)
    return pages.get_template("report.html")


def pdf(page: str, title: str) -> bytes:
    """The HTML page as an A4 PDF; needs a running QGuiApplication."""
    from PyQt6.QtCore import QBuffer, QIODevice, QMarginsF, QSizeF
    from PyQt6.QtGui import QFont, QPageLayout, QPageSize, QPdfWriter, QTextDocument

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
    document.setPageSize(QSizeF(writer.width(), writer.height()))
    document.print(writer)
    del writer
    data: QByteArray = buffer.data()
    return bytes(data.data())
