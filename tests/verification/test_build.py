"""The hotend that is put together, held against marching, against solving anew, and against trying everything."""

from __future__ import annotations

import itertools
import random

import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.choices.build.cheapest import meets, search
from zeotherm.core.choices.build.cold_side import flow_for
from zeotherm.core.choices.build.judged import first_built, fully_built
from zeotherm.core.choices.build.slots import candidates, filled
from zeotherm.core.choices.build.wanted import wanted_of
from zeotherm.core.choices.build.watts import picture, rule_of_thumb, with_watts
from zeotherm.core.machine.build import Build
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.parts.enclosure.judge.warmth import air_late, creeps_from
from zeotherm.core.parts.hotend.model.inputs import HotendAir
from zeotherm.core.parts.whole.run import heat_up, simulate

CATALOGUE = shipped()
METAL = patched(Setup(), {"schedule": {"print_min": 30.0, "cool_min": 0.0, "soak_min": 0.0}})
EVERYTHING = frozenset(Setup().paths())


@pytest.fixture(scope="module")
def metal():
    return simulate(METAL, CATALOGUE)


def wanted(run, **asked):
    return wanted_of(Build(**asked), run.setup, air_late(run), CATALOGUE)


def built(run, change=None, **asked):
    return first_built(run.setup, change or {}, wanted(run, **asked), run, EVERYTHING)


def test_found_watts_reach_the_temperature_in_the_time_within_a_hundredth(metal, record):
    found = fully_built(built(metal, hot_within_s=75.0), EVERYTHING)
    told = picture(found.setup, CATALOGUE, found.answer.solved, found.melts, 75.0, 4.0, found.band, found.seconds)
    slower = 1.0 + found.band.up / found.seconds
    again = heat_up(with_watts(found.setup, told.for_time, CATALOGUE), CATALOGUE)
    off = abs(slower * again / 75.0 - 1.0)
    record("Watts for a heat-up in a time", "the heat-up marched with them", f"{off:.2%}", "1 %")
    assert off <= 0.01
    assert (told.seconds[1:] <= told.seconds[:-1]).all()
    assert (told.flows[1:] >= told.flows[:-1]).all()
    assert (told.slowest >= told.seconds).all()
    assert (told.least_flows <= told.flows + 1e-9).all()
    assert told.rule == rule_of_thumb(4.0, CATALOGUE) == 40.0


def test_the_flow_that_is_found_puts_the_air_at_which_it_jams_on_its_target(record):
    hot = patched(METAL, {"printing": {"filament": "pla", "nozzle_c": 215.0}, "hotend": {"break_part": "steel_thick"}})
    air = HotendAir(46.0, 46.0, 46.0)
    found = flow_for(hot, CATALOGUE, air)
    assert found is not None
    fan = CATALOGUE.fans[hot.fan.part]
    scaled = {
        "flow_m3_h": tuple(found.scale * one for one in fan.flow_m3_h),
        "pressure_pa": tuple(found.scale**2 * one for one in fan.pressure_pa),
    }  # fmt: skip
    other = CATALOGUE.with_entry("fans", hot.fan.part, {**fan.model_dump(), **scaled})
    creeps, _band = creeps_from(hot, other, lambda one: HotendAir(one, one, one), None, lambda: False)
    record(
        "Flow through the fins for an air",
        "the air at which it creeps, found anew",
        f"{abs(creeps - 46.0):.2f} K",
        "0.3 K",
    )
    assert abs(creeps - 46.0) <= 0.3


def small_shelf(run, seed: int, count: int):
    """A few parts in a few slots, and something wanted that what is fitted may not do."""
    rng = random.Random(seed)
    slots = rng.sample(["cooling", "break", "cartridge", "nozzle", "sleeve", "sensor", "hotend"], count)
    kept = {slot: [one for one in candidates(slot, run.setup, run.setup, CATALOGUE, {}) if not one.fitted
                   and one.cost is not None and one.change] for slot in slots}  # fmt: skip
    kept = {slot: tuple(rng.sample(its, min(count, len(its)))) for slot, its in kept.items()}
    asked = {
        "nozzle_c": rng.choice([235.0, 250.0, 262.0]), "plastics": [rng.choice(["petg", "abs"])],
        "flow_mm3_s": rng.choice([6.0, 9.0, 12.0]), "hot_within_s": rng.choice([60.0, 90.0, 180.0]),
        "air_c": rng.choice([35.0, 48.0, 58.0]),
    }  # fmt: skip
    return kept, asked


def cheapest_by_trying(run, kept, asked) -> float | None:
    """The least price of all sets that meet every limit, each solved in full."""
    prices = []
    for parts in itertools.product(*([None, *its] for its in kept.values())):
        change = {}
        for one in sorted((one for one in parts if one is not None), key=lambda one: one.slot != "hotend"):
            change = filled(change, one, run.setup, CATALOGUE)
        found = built(run, change, **asked)
        if found.answers and found.meets_all and meets(fully_built(found, EVERYTHING), found.wanted.sure):
            prices.append(sum(one.cost for one in parts if one is not None))
    return min(prices, default=None)


def agrees(run, seed: int, count: int = 2) -> bool:
    kept, asked = small_shelf(run, seed, count)
    *_steps, last = search(run.setup, wanted(run, **asked), run, EVERYTHING, offers=lambda slot: kept.get(slot, ()))
    told = None if last.best is None else last.price
    return told == cheapest_by_trying(run, kept, asked)


@pytest.mark.verify
@pytest.mark.parametrize("first", [0, 50])
def test_the_search_agrees_with_trying_everything(metal, record, first):
    wrong = [seed for seed in range(first, first + 50) if not agrees(metal, seed)]
    record("Cheapest build, 50 small shelves", "every set solved in full", f"{50 - len(wrong)} agree", "≥ 49")
    assert len(wrong) <= 1, wrong
