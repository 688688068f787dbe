"""An enclosure's answer and its sizes as plain data."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Job
from zeotherm.core.parts.enclosure.judge.answer import ChamberAnswer
from zeotherm.core.parts.enclosure.judge.sized import SizedEnclosure
from zeotherm.core.parts.enclosure.judge.sizing import Size, Tried
from zeotherm.core.parts.enclosure.judge.warmth import Warmth
from zeotherm.shop.results import margin_as_data
from zeotherm.wording import enclosure as words
from zeotherm.wording import enclosure_sizes as sizes


def case_as_data(job: Job, answer: ChamberAnswer, found: Sequence[Tried]) -> dict[str, Any]:
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
             "changes_an_hour": one.changes, "air_w": one.lost, "follows_room": one.follows, "text": words.tried(one)}
            for one in found
        ],
    }  # fmt: skip


def sizes_as_data(found: SizedEnclosure, catalogue: Catalogue) -> dict[str, Any]:
    """Sizes of an enclosure as plain data."""
    heater, cut, parts = found.heater, found.cut, found.parts
    return {
        **_size("hold_w", heater.hold),
        **_size("fast_w", heater.fast),
        **_size("reached_c", heater.reached),
        "within_s": heater.within,
        "proposed_w": found.watts,
        "heaters": found.count,
        **_size("outlet_w", found.outlet),
        **_size("open_share", found.vents),
        **_size("mixing_m3h", found.mixing, 3600.0),
        "places": [
            {"place": one.place, "label": catalogue.heater_places[one.place].label, "print_c": one.low,
             "roof_c": one.high, "c_band": one.band, "w": one.power, **_size("minutes", one.minutes)}
            for one in found.places
        ],
        "cut_out": None
        if cut is None
        else {"low_c": cut.low, "high_c": cut.high, "high_c_band": cut.band,
              "weakest": cut.weakest, "possible": cut.possible, "blocked": cut.blocked},
        "parts": [
            {"part": one.station, "c": one.value, "over_k": -(one.margin.room or 0.0),
             "ways": [{"key": way.key, "label": way.protection.label, "room_k": way.room, "room_k_band": way.band,
                       "enough": way.enough, "cost": way.protection.cost,
                       "minutes": way.protection.minutes} for way in one.ways]}
            for one in parts.parts
        ],
        "board_life": dict(zip(("least", "likely", "most"), parts.life, strict=True)),
        "faults": [
            {"key": one.key, "low_c": one.low, "high_c": one.high, "part": one.station or None, "after_s": one.after,
             "text": words.gone(one)}
            for one in found.gone
        ],
        "fit": [
            {"way": one.way, "needs_mm": one.needs, "has_mm": one.has, "spare_mm": one.spare,
             "mm_band": one.band}
            for one in found.fits
        ],
        "lines": [sizes.control_line(one) for one in found.lines],
    }  # fmt: skip


def _size(name: str, one: Size | None, scale: float = 1.0) -> dict[str, float | None]:
    """A size and its 95 % half-width under their names."""
    if one is None:
        return {name: None, f"{name}_band": None}
    return {name: scale * one.value, f"{name}_band": scale * one.band}


def warmths_as_data(found: Sequence[Warmth], catalogue: Catalogue) -> list[dict[str, Any]]:
    """How warm each filament may be kept, as plain data."""
    return [
        {"filament": one.filament, "nozzle_c": one.nozzle, "wants_c": [one.wants[0].value, one.wants[1].value],
         "creeps_from_c": one.creeps_from, "band_k": one.band, "air_c": one.air, "holds": one.holds,
         "text": sizes.filament(one, catalogue)}
        for one in found
    ]  # fmt: skip
