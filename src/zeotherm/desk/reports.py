"""The report with its picture: HTML, PDF."""

from __future__ import annotations

import os
from pathlib import Path

from PyQt6.QtCore import QBuffer, QIODevice, QRectF
from PyQt6.QtGui import QGuiApplication, QImage, QPainter

from zeotherm.core.judgement.answer import Answer, first_answer
from zeotherm.core.machine.documents import Job
from zeotherm.desk import theme
from zeotherm.desk.bench import Found
from zeotherm.desk.patina import Span
from zeotherm.desk.pictures import hotend
from zeotherm.shop import report
from zeotherm.shop.errors import ShopError
from zeotherm.shop.job_files import write_bytes

WIDTH, HEIGHT = 470, 520
DENSITY = 2


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


def page(found: Found, written: str) -> str:
    """The report of a job as an HTML page; written: the date as shown."""
    return report.html(found.job, found.answer, found.as_found or found.answer, picture(found), written)


def title(job: Job) -> str:
    """What the document is called."""
    return f"{job.machine}, job {job.number}"


def save(found: Found, path: Path, written: str) -> None:
    """Write .html or .pdf; raises ShopError."""
    text = page(found, written)
    kinds = {".html": lambda: text.encode("utf-8"), ".pdf": lambda: report.pdf(text, title(found.job))}
    make = kinds.get(path.suffix.lower())
    if make is None:
        raise ShopError(f"{path.name} ends in neither .html nor .pdf. Give it one of these endings.")
    write_bytes(path, make())


def write_report(job: Job, answer: Answer, path: Path, written: str) -> None:
    """The report without a window, for the command line; raises ShopError."""
    if QGuiApplication.instance() is None:
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        write_report.application = QGuiApplication([])  # type: ignore[attr-defined]  # kept alive while it is used
    theme.load_fonts()
    as_found = first_answer(job.found, answer.catalogue, job.tolerances, answer) if job.trial else None
    save(Found(job, answer, as_found), path, written)
