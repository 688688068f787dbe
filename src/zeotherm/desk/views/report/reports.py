"""The report with its picture: HTML, PDF."""

from __future__ import annotations

import os
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QBuffer, QIODevice, QRectF
from PyQt6.QtGui import QGuiApplication, QImage, QPainter

from zeotherm.answers.beside import parts_beside
from zeotherm.answers.board import columns_of
from zeotherm.answers.build import BuildFound
from zeotherm.answers.hotend import Found, decides, hours, worst
from zeotherm.answers.processes import answer_of
from zeotherm.answers.store import Store
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.choices.board import Column
from zeotherm.core.choices.machine_card import CardLine
from zeotherm.core.machine.documents import Job
from zeotherm.core.work.proving import Proof
from zeotherm.desk.parts.hotend import drawing as hotend
from zeotherm.desk.style import theme
from zeotherm.desk.style.patina import Span
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files.job_files import write_bytes
from zeotherm.shop.papers import build_sheet, machine_card, order_sheet, report
from zeotherm.shop.papers.other_parts import OtherPart, other_parts

WIDTH, HEIGHT = 470, 520
DENSITY = 2
Change = tuple[Column, Column] | None


def picture(found: Found) -> bytes:
    """The section on white paper, as PNG."""
    image = QImage(WIDTH * DENSITY, HEIGHT * DENSITY, QImage.Format.Format_RGB32)
    image.fill(theme.LIGHT["flag"])
    before = theme.tokens().name
    theme.choose("light")
    try:
        painter = QPainter(image)
        painter.scale(DENSITY, DENSITY)
        hotend.paint(painter, found, QRectF(0, 0, WIDTH, HEIGHT), Span.FULL.value)
        painter.end()
    finally:
        theme.choose(before)
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")
    return bytes(buffer.data().data())


def page(
    found: Found, others: Sequence[OtherPart], written: str, change: Change = None, drawn: bytes | None = None
) -> str:
    """The report of a job as an HTML page.

    others: the machine beside its hotend; written: the date as shown; change: as found, and with the set taken; drawn:
    its picture, where that was painted already: only the window's thread may put on the light theme.
    """
    shown = at_worst(found)
    sheet = report.ReportSheet(
        shown.job, shown.judged, shown.as_found or shown.judged, shown.course, shown.course_found, shown.time, change,
        others, shown.standing,
    )  # fmt: skip
    return report.html(sheet, drawn or picture(shown), written)


def at_worst(found: Found) -> Found:
    """What was found, at the job's worst moment, whatever moment is shown."""
    if found.course is None or found.worst is None:
        return found
    return replace(found, answer=found.worst, time=found.course.worst_time)


def title(job: Job) -> str:
    """What the document is called."""
    return f"{job.machine}, job {job.number}"


def save(
    found: Found, others: Sequence[OtherPart], path: Path, written: str, change: Change = None,
    drawn: bytes | None = None,
) -> None:  # fmt: skip
    """Write .html or .pdf, as `page`; raises ShopError."""
    _write(path, page(found, others, written, change, drawn), title(found.job), one_page=True)


def save_order(job: Job, catalogue: Catalogue, asked: Proof, path: Path, printed: str) -> None:
    """Write the work order as .html or .pdf. Raises ShopError, RefusedError."""
    text = order_sheet.html(job, catalogue, asked, printed)
    _write(path, text, _order_title(job), one_page=False)


def save_card(job: Job, lines: tuple[CardLine, ...], catalogue: Catalogue, path: Path, printed: str) -> None:
    """Write the card of a machine as .html or .pdf. Raises ShopError."""
    text = machine_card.html(job, lines, catalogue, printed)
    _write(path, text, f"{title(job)}, card of the machine", one_page=True)


def save_build(found: BuildFound, kept: build_sheet.Kept, path: Path, printed: str) -> None:
    """Write the sheet of a build as .html or .pdf. Raises ShopError, RefusedError."""
    _write(path, build_sheet.html(found, kept, printed), f"{title(found.job)}, build", one_page=False)


def _order_title(job: Job) -> str:
    return f"{title(job)}, work order"


def _write(path: Path, text: str, named: str, *, one_page: bool) -> None:
    """Write a page as its ending says. Raises ShopError."""
    kinds = {
        ".html": lambda: text.encode("utf-8"),
        ".pdf": lambda: report.pdf(text, named, one_page=one_page),
    }
    make = kinds.get(path.suffix.lower())
    if make is None:
        raise ShopError(f"{path.name} ends in neither .html nor .pdf. Give it one of these endings.")
    write_bytes(path, make())


def need_application() -> None:
    """Fonts and pages need one, with no screen where there is no window; kept alive while it is used."""
    if QGuiApplication.instance() is None:
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        need_application.application = QGuiApplication([])  # type: ignore[attr-defined]
    theme.load_fonts()


def write_report(store: Store, job: Job, catalogue: Catalogue, path: Path, written: str) -> None:
    """The report without a window, for the command line. Raises ShopError, and what the hours of a job raise."""
    need_application()
    setup = job.setup()
    course, answer = store.ask(hours(setup, job, catalogue)), store.ask(worst(setup, job, catalogue))
    was = store.ask(hours(job.found, job, catalogue)) if job.trial else None
    change: Change = None
    if job.chosen:
        columns = columns_of(job, job.variants, catalogue)
        keys = tuple(key for key in job.variants if key in job.chosen)
        change = store.ask(columns[()]), store.ask(columns[keys])
    others = other_parts(job, answer_of(parts_beside(store, job, catalogue)))
    facts = store.ask(decides(setup, job, catalogue))
    found = Found(job, answer, None, course, was, course.worst_time, answer, deciding=facts, decided=True)
    save(found, others, path, written, change)
