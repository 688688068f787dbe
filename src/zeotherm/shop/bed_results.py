"""A bed's answer, its sizes and its fit as plain data."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from zeotherm.core.machine.documents import Job
from zeotherm.core.parts.bed.judge.answer import BedAnswer
from zeotherm.core.parts.bed.judge.rivals import Rival
from zeotherm.core.parts.bed.judge.sizing import SizedInsulation
from zeotherm.core.parts.bed.model.controlled import Controlled
from zeotherm.shop.results import margin_as_data
from zeotherm.wording import bed as words


def bed_as_data(job: Job, answer: BedAnswer, why: Sequence[Rival]) -> dict[str, Any]:
    """A bed as plain data; numbers carry their unit in their name or a field beside them."""
    told, course, watts = words.verdict(answer), answer.course, answer.readout.watts
    return {
        "job": job.number,
        "machine": job.machine,
        "verdict": {"headline": told.headline, "reason": told.reason, "state": told.state.value},
        "stations": dict(answer.readout.values),
        "coldest": {"edge": answer.readout.edge, "corner": answer.readout.corner},
        "share_within_2_k": answer.readout.share,
        "watts": {name: getattr(watts, name) for name in watts.__slots__},
        "available_w": answer.solved.available,
        "interfaces": [
            {"label": words.interface(one), "below": one.below, "above": one.above, "temperature_c": one.temperature}
            for one in answer.readout.interfaces
        ],
        "margins": [margin_as_data(margin) for margin in answer.margins],
        "strengths": [
            {"path": one.path, "to": one.to, "gain": one.gain, "enough": one.enough} for one in answer.strengths
        ],
        "course": None
        if course is None
        else {
            "text": words.outlook(answer),
            "sensor_warm_s": course.sensor_warm,
            "ready_s": course.ready,
            "release_s": course.release,
            "peak_w": course.peak,
            "energy_kwh": course.joules / 3.6e6,
            "energy_closure": answer.run.closure if answer.run is not None else None,
        },
        "controlled": None if answer.controlled is None else _controlled_as_data(answer.controlled),
        "compared": [
            {"key": one.key, "before": one.before, "after": one.after, "text": words.rival(one)} for one in why
        ],
    }


def _controlled_as_data(course: Controlled) -> dict[str, Any]:
    low, high = course.swing
    return {
        "law": course.controller.law,
        "text": words.controlled(course),
        "reached_s": course.reached,
        "over_k": course.over,
        "lowest_c": low,
        "highest_c": high,
        "face_swing_k": course.face_swing,
        "period_s": course.period,
    }


def sizes_as_data(rows: list[SizedInsulation]) -> list[dict[str, Any]]:
    """Insulations at one size each."""
    return [
        {
            "material": one.material,
            "thickness_mm": 1e3 * one.thickness,
            "allowed": one.allowed,
            "too_hot": one.too_hot,
            "too_thick": one.too_thick,
            "warm_side_c": one.warm_side,
            "limit_c": one.limit,
            "spare_mm": 1e3 * one.spare,
            "saved_w": one.saved_watts,
            "saved_w_band": one.band,
            "saved_s": one.saved_s,
            "saved_kwh_a_print": one.saved_joules / 3.6e6,
            "saved_a_month": one.saved_money,
            "cost": one.cost,
            "payback_months": one.payback_months if np.isfinite(one.payback_months) else None,
        }
        for one in rows
    ]
