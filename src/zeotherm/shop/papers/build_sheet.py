"""The sheet of a build: what it is for, its parts, every limit, and the work in its order, as HTML."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from zeotherm import __version__
from zeotherm.answers.build import BuildFound
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.guard.cautions import cautions_of
from zeotherm.core.machine.documents import Job, Variant
from zeotherm.core.machine.doing import Doing
from zeotherm.core.work.planning import Order, tools
from zeotherm.core.work.proving import suggested
from zeotherm.shop.editing.work_edits import order_of
from zeotherm.shop.papers.order_sheet import SIGNS
from zeotherm.shop.papers.report import template
from zeotherm.wording import build as words
from zeotherm.wording import margins as margin_words
from zeotherm.wording import work

Kept = Callable[[str, str], int | None]  # how many of a part the drawer has, by shelf and key; none: not told
OPTION = "build"


def html(found: BuildFound, kept: Kept, printed: str) -> str:
    """The sheet as one HTML page; printed: the date as shown. Raises RefusedError."""
    job, built, catalogue = found.job, found.built, found.catalogue
    heads, *parts = words.parts_of(built, catalogue, job.currency, kept)
    taken = alone(job, found)
    order = order_of(taken, catalogue)
    works = [catalogue.procedures[key] for key in taken.doing.procedures]
    return template("build.html").render(
        job=job,
        printed=printed,
        version=__version__,
        told=words.verdict(built, catalogue),
        wish=words.wish(found.wanted, catalogue),
        others=words.others(found.wanted, catalogue),
        heads=heads,
        parts=parts,
        sum=words.sum_of(built, job.currency),
        rows=[
            (one.state.value, margin_words.STATE_WORDS[one.state], words.sentence(one, catalogue)) for one in built.rows
        ],
        open=words.open_points(built, catalogue),
        watts=words.watts(found.watts) if found.watts is not None else "",
        cold=words.cold(found.cold, found.wanted.air, catalogue) if found.cold is not None else "",
        works=[one.label for one in works],
        with_them=list(dict.fromkeys(part for one in works for part in one.parts)),
        prints=list(dict.fromkeys(text for one in works for text in one.prints)),
        tools=list(tools(order.lines)),
        time=work.minutes(order.minutes_left),
        steps=_steps(order),
        cautions=_cautions(order, job, catalogue),
    )


def alone(job: Job, found: BuildFound) -> Job:
    """The job with its build as the one option that is taken, and the work that fits it, nothing of it done."""
    built, catalogue = found.built, found.catalogue
    cost = built.cost if built.cost is not None else 0.0
    option = Variant(label=OPTION, change=built.change, cost=cost, minutes=built.minutes)
    taken = job.model_copy(update={"variants": {OPTION: option}, "chosen": [OPTION], "doing": Doing()})
    doing = Doing(procedures=suggested(taken, catalogue), choices=job.doing.choices)
    return taken.model_copy(update={"doing": doing})


def _steps(order: Order) -> list[dict[str, Any]]:
    return [
        {
            "label": line.step.label,
            "minutes": work.minutes(line.step.minutes),
            "text": "" if line.key.startswith("to/") else line.step.text,
            "check": line.key.startswith("check/"),
        }
        for line in order.steps
    ]


def _cautions(order: Order, job: Job, catalogue: Catalogue) -> list[tuple[str, str]]:
    """Each once, in the order of the work."""
    every = (one for line in order.steps for one in cautions_of(line.step, job.found, catalogue))
    return list(dict.fromkeys((SIGNS[one.sign], one.text) for one in every))
