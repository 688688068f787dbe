"""The work order for the bench, with boxes to tick, as HTML; `report.pdf` makes pages of it."""

from __future__ import annotations

from typing import Any

from zeotherm import __version__
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.guard.cautions import cautions_of
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.core.work.planning import OrderLine, choices_of, tools
from zeotherm.core.work.proving import Proof
from zeotherm.shop.editing.work_edits import order_of
from zeotherm.shop.papers.report import template
from zeotherm.wording import work

SIGNS = {"burn": "Burn", "mains": "Mains", "fumes": "Fumes", "flame": "Fire"}


def html(job: Job, catalogue: Catalogue, asked: Proof, printed: str) -> str:
    """The order as one HTML page; printed: the date as shown. Raises RefusedError."""
    order = order_of(job, catalogue)
    works = [catalogue.procedures[key] for key in job.doing.procedures if key in catalogue.procedures]
    parts = [job.variants[key].label for key in job.chosen if key in job.variants]
    return template("order.html").render(
        job=job,
        printed=printed,
        version=__version__,
        works=[one.label for one in works],
        time=work.minutes(order.minutes_left),
        prints=[text for one in works for text in one.prints],
        parts=list(dict.fromkeys([*parts, *(part for one in works for part in one.parts)])),
        tools=list(tools(order.lines)),
        choices=[work.choice(key, job.doing, catalogue) for key in choices_of(job.doing, catalogue)],
        proof=work.proof(asked),
        steps=_steps(order.steps, job.found, catalogue),
        barred=[f"{line.step.label}: {work.bar(line, catalogue)}" for line in order.lines if line.status == "barred"],
    )


def _steps(lines: list[OrderLine], setup: Setup, catalogue: Catalogue) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = []
    before = ""
    for number, line in enumerate(lines, 1):
        step, part = line.step, work.part(line)
        values = line.done.values if line.done is not None else {}
        found.append(
            {
                "number": number,
                "label": step.label,
                "head": part if part != before else "",
                "minutes": work.minutes(step.minutes) if line.done is None else line.done.ended.replace("T", " ")[:16],
                "text": work.text(line, catalogue),
                "cautions": [(SIGNS[one.sign], one.text) for one in cautions_of(step, setup, catalogue)],
                "target": work.target(line.target, step, catalogue) if line.target and not step.source else "",
                "ticks": [gate.text for gate in step.gates if gate.kind == "tick"],
                "waits": [work.wait_rule(gate, catalogue) for gate in step.gates if gate.kind != "tick"],
                "records": [
                    (one.label, one.unit, values.get(one.key, "")) for one in step.record if one.kind != "photo"
                ],
                "exits": [one.label for one in line.exits],
                "failing": step.failing,
                "done": work.ended(line),
            }
        )
        before = part
    return found
