"""An answer as plain data, for the command line and other programs."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.causes.next_check import Next, Plan
from zeotherm.core.causes.ohms import cold_ohms
from zeotherm.core.causes.ranking import Ranking
from zeotherm.core.choices.board import Column
from zeotherm.core.judgement.estimate import Fit
from zeotherm.core.judgement.standing import Standing
from zeotherm.core.machine.documents import Job, Variant
from zeotherm.core.parts.hotend.judge.answer import Answer, cautions
from zeotherm.core.parts.hotend.judge.course import Course, Failure
from zeotherm.core.parts.hotend.judge.over_time import OverTime
from zeotherm.core.parts.hotend.judge.risk import risk_of
from zeotherm.core.work.planning import Order, tools
from zeotherm.core.work.proving import Proof
from zeotherm.wording import causes, fits, work
from zeotherm.wording import course as times
from zeotherm.wording import margins as words
from zeotherm.wording.results import band_as_data, margin_as_data
from zeotherm.wording.verdict import BEYOND, verdict


def as_data(job: Job, answer: Answer, course: Course, time: float, on: Standing) -> dict[str, Any]:
    """One moment of a job and what happens in it; numbers carry their unit in a field or a name beside them.

    on: what the verdict stands on.
    """
    told = verdict(answer, on)
    solved = answer.solved
    bands = answer.bands
    front = solved.readout.front
    return {
        "job": job.number,
        "machine": job.machine,
        "verdict": {"headline": told.headline, "reason": told.reason, "state": told.state.value},
        "moment": {"clock_h": course.run.clock(time), "seconds": time, "phase": course.run.at(time)[1].kind},
        "course": {
            "outlook": times.outlook(course, answer, on),
            "events": [
                {"clock_h": course.run.clock(one.time), "seconds": one.time, "what": times.event(one)}
                for one in course.events
            ],
            "worst_rooms": {
                key: {"room": room, "clock_h": course.run.clock(when)} for key, (room, when) in course.worst.items()
            },
            "stops_feeding": [_failure(one, course) for one in _failures(course, answer)],
            "chances": _chances(course, answer),
            "energy_kwh": {name: joules / 3.6e6 for name, joules in course.run.joules.items()},
            "energy_closure": course.run.closure,
            "steps": len(course.run.marks),
        },
        "strengths": [
            {"path": one.path, "to": one.to, "gain": one.gain, "enough": one.enough} for one in answer.strengths
        ],
        "enough": times.enough(answer, answer.catalogue, on),
        "facts": facts_as_data(job, on, answer),
        "stations": {
            key: {
                "label": STATIONS[key].label,
                "value": value,
                "unit": STATIONS[key].unit,
                "band": band_as_data(bands.values.get(key) if bands else None),
                "measured": job.readings[key].value if key in job.readings else None,
            }
            for key, value in solved.readout.values.items()
        },
        "margins": [margin_as_data(margin) for margin in answer.margins],
        "softening_front_mm_above_tip": front * 1e3 if front is not None else None,
        "melt_ceiling_mm3_s": answer.ceiling * 1e9 if answer.ceiling is not None else None,
        "watts": {name: getattr(solved.readout.watts, name) for name in solved.readout.watts.__slots__},
        "solver": {
            "imbalance": solved.field.imbalance,
            "energy_closure": solved.readout.watts.closure,
            "overshoot_k": solved.readout.overshoot,
            "corrections": solved.field.iterations,
            "unknowns": int(solved.model.layout.active.sum()),
            "heater_saturated": solved.field.saturated,
        },
        "beyond_range": [BEYOND[law] for law in solved.readout.extrapolated],
        "cautions": list(cautions(answer).values()),
    }


def facts_as_data(job: Job, on: Standing, answer: Answer) -> dict[str, Any]:
    """What a verdict stands on: the facts that nobody told, and those that decide, most deciding first."""
    deciding, about = on.of(answer.worst.key), answer.catalogue.facts
    return {
        "assumed": list(on.assumed),
        "known": {path: {"how": one.how, "about": one.about} for path, one in job.known.items()},
        "limit": answer.worst.key,
        "band_now": band_as_data(deciding.now if deciding is not None else None),
        "band_after_first": band_as_data(deciding.after if deciding is not None else None),
        "deciding": [
            {
                "fact": one.key, "label": about[one.key].label, "find": about[one.key].find,
                "minutes": about[one.key].minutes, "down": one.down, "up": one.up, "decides": one in deciding.decide,
            }
            for one in deciding.facts
        ] if deciding is not None else [],
    }  # fmt: skip


def _chances(course: Course, answer: Answer) -> dict[str, float] | None:
    """To finish this print, and to feed for eight hours; none before the bands are known."""
    if answer.bands is None or course.run.printing_from is None:
        return None
    risk = risk_of(course, answer.bands)
    printing = course.run.off - course.run.printing_from
    return {"finish": 1.0 - risk.by(printing), "eight_hours": 1.0 - risk.by(times.EIGHT_HOURS * 3600.0)}


def _failures(course: Course, answer: Answer) -> list[Failure]:
    return course.failures(answer.bands)


def _failure(one: Failure, course: Course) -> dict[str, Any]:
    def hour(time: float | None) -> float | None:
        return course.run.clock(time) if time is not None else None

    return {
        "by": one.key,
        "earliest_h": hour(one.earliest),
        "likely_h": hour(one.likely),
        "latest_h": hour(one.latest),
    }


def as_csv(course: Course, sure: OverTime) -> str:
    """Every station over a run: seconds, clock hours, phase, a column a station, its 95 % band where it is known, and
    the probability that each limit holds."""
    run = course.run
    columns = {
        f"{key} [{STATIONS[key].unit}]" if key in STATIONS else key: course.series[key]
        for key in (*(key for key in course.series if key in STATIONS), "room", "heater_power")
    }
    known = {"left": np.nan, "right": np.nan}
    for key in sure.down:
        if key in course.series:
            for side, widths in (("down", sure.down), ("up", sure.up)):
                columns[f"{key} band {side}"] = np.interp(run.times, sure.times, widths[key], **known)
    for key, holds in sure.holds.items():
        columns[f"{key} holds [-]"] = np.interp(run.times, sure.times, holds, **known)
    lines = [",".join(["time [s]", "clock [h]", "phase", *columns])]
    for index, mark in enumerate(run.marks):
        figures = (column[index] for column in columns.values())
        cells = (f"{value:.4g}" if value == value else "" for value in figures)
        kind = run.stretches[mark.stretch].kind
        lines.append(f"{mark.time:.2f},{run.clock(mark.time):.5f},{kind},{','.join(cells)}")
    return "\n".join(lines) + "\n"


def causes_as_data(
    job: Job, catalogue: Catalogue, ranking: Ranking, plan: Plan, facts: tuple[Next, ...] = ()
) -> dict[str, Any]:
    """Causes and what to check next, as plain data; facts: of the machine that compete with the checks."""
    findings = cold_ohms(job.found, catalogue, job.intake.ohms)
    told = causes.danger(findings) or causes.verdict(ranking, plan, job.intake.decided, catalogue, job.intake.answers)
    notes = [catalogue.contradictions[key].text for key in ranking.contradictions]
    notes += [causes.unexplained(name, catalogue) for name in ranking.unexplained]
    notes += [causes.alike(pair, catalogue) for pair in ranking.alike if ranking.told]
    return {
        "job": job.number,
        "trouble": job.intake.trouble,
        "first": causes.before_all(job.intake.answers, catalogue),
        "verdict": told.headline,
        "reason": told.reason,
        "simulated": ranking.simulated,
        "causes": [
            {
                "key": one.key,
                "label": causes.cause(one.key, catalogue),
                "probability": one.probability,
                "before": one.prior,
                "mends": catalogue.causes[one.key].mends,
                "evidence": [
                    {"for": item.ratio > 1.0, "ratio": item.ratio, "text": causes.evidence(item, catalogue)}
                    for item in one.evidence
                    if causes.speaks(item)
                ],
            }
            for one in ranking.causes
        ],
        "notes": notes,
        "checks": [
            {
                "key": one.key,
                "label": catalogue.checks[one.key].label,
                "how": causes.how(one, catalogue.checks[one.key], job, catalogue),
                "minutes": one.minutes,
                "cost": catalogue.checks[one.key].cost,
                "bits": one.bits,
                "answers": [
                    {
                        "label": causes.option(one, branch.option, catalogue),
                        "probability": branch.probability,
                        "leads": causes.cause(branch.first, catalogue),
                        "after": branch.after,
                    }
                    for branch in one.branches
                ],
            }
            for one in plan.checks
        ],
        "facts": [
            {
                "key": one.key,
                "label": catalogue.facts[one.key].label,
                "find": catalogue.facts[one.key].find,
                "minutes": one.minutes,
                "bits": one.bits,
            }
            for one in facts
        ],
        "enough": causes.enough(plan),
        "ohms": [causes.ohm_finding(one) for one in findings],
    }


def order_as_data(job: Job, order: Order, asked: Proof, catalogue: Catalogue) -> dict[str, Any]:
    """A work order, as plain data."""
    return {
        "job": job.number,
        "procedures": [catalogue.procedures[key].label for key in job.doing.procedures if key in catalogue.procedures],
        "steps": len(order.steps),
        "minutes": order.minutes_left,
        "proof": {"minutes": asked.minutes, "failed_after_min": asked.failed_after, "text": work.proof(asked)},
        "tools": list(tools(order.lines)),
        "lines": [
            {
                "key": line.key,
                "label": line.work if line.bar == "refused" else line.step.label,
                "text": work.text(line, catalogue),
                "status": line.status,
                "signs": list(line.step.signs),
                "target_c": line.target.value if line.target is not None and line.status != "barred" else None,
                "minutes": line.step.minutes,
                "gates": [gate.text for gate in line.step.gates],
                "exits": [one.label for one in line.exits],
                "ended": work.ended(line),
                "bar": work.bar(line, catalogue) if line.status == "barred" else "",
            }
            for line in order.lines
        ],
    }


def board_as_data(
    job: Job,
    variants: Mapping[str, Variant],
    results: Mapping[tuple[str, ...], Column | Exception],
    cheapest: Column | None,
    on: Standing,
) -> dict[str, Any]:
    """Options side by side, as plain data; on: what the verdict on the machine as found stands on."""
    rows = []
    for keys, result in results.items():
        label = _label(variants, keys)
        rows.append({"label": label, "trouble": str(result)} if isinstance(result, Exception) else _row(label, result))
    return {
        "job": job.number,
        "assumed": list(on.assumed),
        "currency": job.currency,
        "columns": rows,
        "cheapest": _row(_label(variants, cheapest.keys), cheapest) if cheapest is not None else None,
    }


def _label(variants: Mapping[str, Variant], keys: tuple[str, ...]) -> str:
    return " + ".join(variants[key].label for key in keys) or "As found"


def _row(label: str, column: Column) -> dict[str, Any]:
    known = [margin for margin in column.margins.values() if margin.room is not None]
    worst = min(known, key=lambda margin: (margin.room or 0.0) / (margin.clear_from or 1.0))
    failure = column.failure
    return {
        "label": label,
        "options": list(column.keys),
        "passes": column.passes,
        "sure": column.sure,
        "worst": words.label(worst),
        "room": words.room(worst),
        "rooms": {key: margin.room for key, margin in column.margins.items()},
        "stops_feeding": times.span(column.course, failure) if failure is not None else None,
        "cost": column.cost,
        "minutes": column.minutes,
        "warm_up_s": column.warm_up,
        "energy_kwh": column.energy / 3.6e6,
    }


def fit_as_data(fit: Fit[Any], words: fits.Words) -> dict[str, Any]:
    """What a curve told of a bed or a case."""
    return {
        "misfit_before_k": fit.misfit_before,
        "misfit_k": fit.misfit,
        "found": [
            {"name": one.name, "before": one.before, "after": one.after, "band_before": one.band_before,
             "band": one.band.up, "text": fits.fitted(one, words)}
            for one in fit.found
        ],
    }  # fmt: skip
