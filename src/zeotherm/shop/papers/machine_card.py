"""The card of a machine for its door: each filament against the air at the fan, as HTML; `report.pdf` makes a page."""

from __future__ import annotations

from zeotherm import __version__
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.choices.machine_card import CardLine
from zeotherm.core.judgement.standing import standing
from zeotherm.core.machine.documents import Job
from zeotherm.shop.papers.report import template
from zeotherm.wording import machine_card as words


def html(job: Job, lines: tuple[CardLine, ...], catalogue: Catalogue, printed: str) -> str:
    """The card as one HTML page; printed: the date as shown."""
    marks = ["no" if one.barred or one.never else "yes" if one.sound else "close" for one in lines]
    return template("card.html").render(
        job=job,
        printed=printed,
        version=__version__,
        title=words.title(job.setup()),
        wrong=words.wrong(job.setup(), catalogue),
        head=words.head(lines),
        how=words.HOW,
        assumed=words.assumed(standing(job, "hotend", catalogue), catalogue),
        heads=words.HEADS,
        rows=list(zip(marks, words.rows(lines, catalogue), strict=True)),
    )
