"""An enclosure's answer and its sizes as plain data."""

from __future__ import annotations

from typing import Any

from zeotherm.core.judgement.chamber.answer import ChamberAnswer
from zeotherm.core.judgement.chamber.sizing import CutOut, Gone, Heater, Tried
from zeotherm.core.machine.documents import Job
from zeotherm.shop.results import margin_as_data
from zeotherm.wording import chamber as words


def case_as_data(job: Job, answer: ChamberAnswer, found: list[Tried]) -> dict[str, Any]:
    """An enclosure as plain data; numbers carry their unit in their name or a field beside them."""
    told, solved = words.verdict(answer), answer.solved
    return {
        "job": job.number,
        "machine": job.machine,
        "verdict": {"headline": told.headline, "reason": told.reason, "state": told.state.value},
        "stations": dict(answer.values),
        "heater_w": solved.power,
        "bed_w": solved.bed_watts,
        "lost_w": solved.lost,
        "time_constant_s": answer.settles_in,
        "safe_to_open_s": answer.safe_to_open,
        "margins": [margin_as_data(margin) for margin in answer.margins],
        "energy_closure": answer.run.closure if answer.run is not None else None,
        "tried": [
            {"key": one.key, "air_c": one.low, "air_by_k": one.by, "bed_w": one.bed, "bed_by_w": one.bed_by,
             "text": words.tried(one)}
            for one in found
        ],
    }  # fmt: skip


def sizes_as_data(heater: Heater, cut: CutOut | None, faults: list[Gone], vents: float | None) -> dict[str, Any]:
    """Sizes of an enclosure as plain data."""
    return {
        "hold_w": heater.hold,
        "hold_w_band": heater.band,
        "fast_w": heater.fast,
        "within_s": heater.within,
        "open_share": vents,
        "cut_out": None
        if cut is None
        else {"low_c": cut.low, "high_c": cut.high, "weakest": cut.weakest, "possible": cut.possible,
              "blocked": cut.blocked},
        "faults": [
            {"key": one.key, "low_c": one.low, "high_c": one.high, "part": one.station or None, "after_s": one.after,
             "text": words.gone(one)}
            for one in faults
        ],
    }  # fmt: skip
