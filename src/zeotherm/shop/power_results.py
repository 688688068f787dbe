"""A power path's answer, its sizes and its wiring as plain data."""

from __future__ import annotations

from typing import Any

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Job
from zeotherm.core.machine.wiring import Wiring
from zeotherm.core.parts.power.judge.answer import PowerAnswer
from zeotherm.core.parts.power.judge.nets import BrokenRule
from zeotherm.core.parts.power.judge.readings import ContactReading
from zeotherm.core.parts.power.judge.sizing import PowerSizes
from zeotherm.core.parts.power.model.model import BRANCH
from zeotherm.shop.results import margin_as_data
from zeotherm.wording import power as words
from zeotherm.wording import voltage


def power_as_data(job: Job, answer: PowerAnswer) -> dict[str, Any]:
    """A power path as plain data; numbers carry their unit in their name or a field beside them."""
    told, solved, full = words.verdict(answer), answer.solved, answer.full
    return {
        "job": job.number,
        "machine": job.machine,
        "verdict": {"headline": told.headline, "reason": told.reason, "state": told.state.value},
        "runs_away": solved.runs_away,
        "stations": dict(answer.values),
        "parts": [{"part": name, "lost_v": full.lost(name), "text": words.part_line(answer, name)} for name in BRANCH],
        "bed_v": full.bed_volts,
        "bed_a": full.amps.bed,
        "feed_a": full.amps.feed,
        "hotend_v": full.heater_volts,
        "hotend_a": full.amps.heater,
        "path_w": full.path_watts,
        "supply_asked_w": answer.asked,
        "supply_gives_w": answer.gives,
        "loads": _loads(answer),
        "wrong_voltage": [
            {"part": one.part, "rated_v": one.rated_v, "gets_v": one.gets_v, "times": one.times,
             "text": voltage.comes(one)}
            for one in answer.wrong
        ],
        "margins": [margin_as_data(margin) for margin in answer.margins],
        "energy_closure": answer.run.closure if answer.run is not None else None,
    }  # fmt: skip


def _loads(answer: PowerAnswer) -> dict[str, Any] | None:
    """What the supply is asked for and gives over the job."""
    if answer.loads is None or answer.run is None:
        return None
    loads, times = answer.loads, answer.run.times
    hour, start = loads.worst_hour(times)
    return {"times_s": times.tolist(), "mean_w": loads.mean.tolist(), "together_w": loads.together.tolist(),
            "gives_w": loads.gives.tolist(), "lost_w": loads.lost.tolist(), "worst_hour_w": hour,
            "worst_hour_from_s": start}  # fmt: skip


def sizes_as_data(found: PowerSizes, catalogue: Catalogue) -> dict[str, Any]:
    """Sizes of a power path as plain data."""
    supply, fuse = found.supply, found.fuse
    return {
        "supply": {"asked_w": supply.asked, "asked_w_band": supply.asked_band, "rule_w": supply.rule,
                   "model_w": supply.model, "model_w_band": supply.band, "offered_w": supply.offered},
        "staged": {"at_once_w": found.staged.at_once, "one_by_one_w": found.staged.one_by_one,
                   "fits": found.staged.fits, "minutes": found.staged.minutes, "bed_share": found.staged.throttled,
                   "bed_share_minutes": found.staged.throttled_minutes},
        "wires": [{"wire": one.name, "a": one.amps, "m": one.metres, "by_drop_mm2": one.by_drop,
                   "by_warmth_mm2": one.by_warmth, "rule_mm2": one.rule, "has_mm2": one.has} for one in found.wires],
        "fuse": {"load_a": fuse.load, "wire_carries_a": fuse.carries, "offered_a": fuse.offered, "has_a": fuse.has},
        "contacts": [{"kind": one.key, "load": one.load, "w": one.watts, "c": one.warm, "c_band": one.band,
                      "fits": one.fits, "text": words.part_size(one, catalogue, "contacts")} for one in found.contacts],
        "switches": [{"kind": one.key, "load": one.load, "w": one.watts, "c": one.warm, "c_band": one.band,
                      "fits": one.fits, "heatsink_k_w": one.sink,
                      "text": words.part_size(one, catalogue, "switches")} for one in found.switches],
        "outputs": [{"load": one.key, "a": one.amps, "rated_a": one.rated, "share": one.load}
                    for one in found.outputs],
    }  # fmt: skip


def told_as_data(one: ContactReading) -> dict[str, float]:
    """A contact by a reading, as plain data."""
    return {"milliohm": one.milliohm, "down": one.down, "up": one.up, "w": one.watts, "a": one.amps,
            "sound_milliohm": one.good}  # fmt: skip


def wiring_as_data(wiring: Wiring, faults: list[BrokenRule], catalogue: Catalogue) -> dict[str, Any]:
    """A way of wiring and its faults as plain data."""
    return {
        "wiring": wiring.model_dump(),
        "faults": [{"fault": one.key, "ends": list(one.ends), "bad": catalogue.wiring_faults[one.key].bad,
                    "text": words.fault(one, catalogue, wiring.kind)} for one in faults],
        "may_be_wired": not faults,
    }  # fmt: skip
