"""An answer as plain data, for the command line and other programs."""

from __future__ import annotations

from typing import Any

from zeotherm.core.judgement.answer import Answer, cautions
from zeotherm.core.judgement.bands import Band
from zeotherm.core.judgement.margins import Margin
from zeotherm.core.machine.documents import Job
from zeotherm.core.twin.stations import STATIONS
from zeotherm.wording import margins as words
from zeotherm.wording.verdict import BEYOND, verdict


def as_data(job: Job, answer: Answer) -> dict[str, Any]:
    """Stations, limits, margins, watts and the solver's balance. Numbers carry their unit in a field beside them."""
    told = verdict(answer)
    solved = answer.solved
    bands = answer.bands
    front = solved.readout.front
    return {
        "job": job.number,
        "machine": job.machine,
        "verdict": {"headline": told.headline, "reason": told.reason, "state": told.state.value},
        "stations": {
            key: {
                "label": STATIONS[key].label,
                "value": value,
                "unit": STATIONS[key].unit,
                "band": _band(bands.values.get(key) if bands else None),
                "measured": job.readings[key].value if key in job.readings else None,
            }
            for key, value in solved.readout.values.items()
        },
        "margins": [_margin(margin) for margin in answer.margins],
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


def _margin(margin: Margin) -> dict[str, Any]:
    return {
        "limit": margin.key,
        "station": margin.station,
        "label": words.label(margin),
        "value": margin.value,
        "limit_value": margin.limit,
        "kind": margin.kind,
        "room": margin.room,
        "band": _band(margin.band),
        "probability_holds": margin.holds,
        "state": margin.state.value,
        "breaks": margin.breaks,
        "source": margin.source,
    }


def _band(band: Band | None) -> dict[str, float] | None:
    return {"down": band.down, "up": band.up} if band else None
