"""Margins, bands and verdicts as plain data, for the command line and other programs."""

from __future__ import annotations

from typing import Any

from zeotherm.core.judgement.bands import Band
from zeotherm.core.judgement.margins import Margin
from zeotherm.wording import margins as words


def margin_as_data(margin: Margin) -> dict[str, Any]:
    """One limit's margin."""
    return {
        "limit": margin.key,
        "station": margin.station,
        "label": words.label(margin),
        "value": margin.value,
        "limit_value": margin.limit,
        "kind": margin.kind,
        "room": margin.room,
        "band": band_as_data(margin.band),
        "probability_holds": margin.holds,
        "state": margin.state.value,
        "breaks": margin.breaks,
        "source": margin.source,
    }


def band_as_data(band: Band | None) -> dict[str, float] | None:
    """A 95 % band, down and up."""
    return {"down": band.down, "up": band.up} if band else None
