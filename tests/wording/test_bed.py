"""What is said of a bed."""

from __future__ import annotations

import math

import numpy as np
import pytest

from tests.core.test_bed import CATALOGUE, setup_of
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import patched
from zeotherm.core.parts.bed.judge.answer import first_bed, with_course
from zeotherm.core.parts.bed.judge.rivals import Rival
from zeotherm.core.parts.bed.judge.sizing import BedFeed, SizedInsulation, StagedPreheat
from zeotherm.core.parts.bed.model.controlled import Controlled, Controller
from zeotherm.wording import bed, bed_sizes


def sized(**change: float | None) -> SizedInsulation:
    given = {
        "material": "felt", "thickness": 0.010, "watts": 110.0, "saved_watts": 42.0, "band": 7.0, "ready": 480.0,
        "saved_s": 23.0,
        "saved_joules": 0.9e6, "saved_money": 1.63, "cost": 3.1, "payback_months": 1.9, "warm_side": 75.0,
        "limit": 200.0, "doubt": 15.0, "spare": 0.010,
    }  # fmt: skip
    return SizedInsulation(**(given | change))


@pytest.mark.parametrize(
    ("change", "told"),
    [
        (
            {},
            "saves 42 ±7 W, 23 s of the warm-up, 0.25 ±0.04 kWh a print; £1.63 a month, pays after 2 months.",
        ),
        ({"saved_s": None}, "no time of the warm-up"),
        ({"warm_side": 190.0}, "blocked. Its warm side comes to 190 °C, it stands 200 °C ±15 K."),
        ({"spare": -0.004}, "want 4.0 mm more room"),
    ],
)
def test_an_insulation_in_words(change, told):
    assert told in bed_sizes.sized(sized(**change), "Felt", "£")


@pytest.mark.parametrize(("months", "told"), [(0.4, "within a month"), (1.2, "after a month"), (math.inf, "never")])
def test_when_it_pays(months, told):
    assert told in bed_sizes.pays(months)


def test_a_preheat_in_words():
    assert "no staging needed" in bed_sizes.staged(StagedPreheat(True, 300.0, 400.0, 500.0, 500.0, 300.0))
    told = bed_sizes.staged(StagedPreheat(False, 420.0, 350.0, 600.0, 660.0, 280.0, 55.0))
    assert "ready in 10 min 00 s ±55 s" in told
    assert "1 min 00 s longer" in told
    assert "not enough left" in bed_sizes.staged(StagedPreheat(False, 420.0, 60.0, 900.0, None, 0.0))
    assert "±" not in bed_sizes.staged(StagedPreheat(False, 420.0, 350.0, 600.0, 660.0, 280.0, None))
    assert "takes nothing from the supply" in bed_sizes.staged(
        StagedPreheat(True, 70.0, 120.0, 500.0, 500.0, 700.0, 55.0, True)
    )
    assert "more than the 60 W" in bed_sizes.staged(StagedPreheat(False, 70.0, 60.0, 500.0, 500.0, 700.0, 55.0, True))
    assert "Even the bed alone" in bed_sizes.staged(StagedPreheat(False, 420.0, 30.0, None, None, 0.0))


def test_a_bed_under_its_controller_in_words():
    times = np.arange(0.0, 2400.0)
    reads = np.minimum(75.0, 10.0 + 0.1 * times) + np.where(times > 700.0, np.sin(times / 10.0), 0.0)

    def course(law: str, reads: np.ndarray = reads) -> Controlled:
        shares = (np.sin(times / 10.0) < 0.0).astype(float)
        return Controlled(Controller(law, 6.0, 1.0), 75.0, times, reads, reads, reads - 5.0, shares)

    told = bed.controlled(course("relay"))
    assert "passes the set value by 1.0 K, is switched every 63 s" in told
    assert "swings 74.0 to 76.0 °C, the face ±1.00 K" in told
    assert "holds within 1.0 K" in bed.controlled(course("pid"))
    assert "stays at" in bed.controlled(course("proportional"))
    assert "does not come near 75 °C" in bed.controlled(course("relay", np.minimum(reads, 50.0)))


@pytest.mark.parametrize(
    ("sheet", "filament", "told"),
    [
        ("glass", "petg", "takes chips out of it: glue between, always. Soap and water"),
        ("steel_on_magnet", "pla", "holds at 55 to 60 °C, lets go cold."),
        ("bare", "paek", "no word on how it holds."),
    ],
)
def test_how_a_filament_holds_on_a_sheet(sheet, filament, told):
    setup = patched(setup_of(sheet=sheet), {"printing": {"filament": filament}})
    assert told in bed.sheet(first_bed(setup, CATALOGUE, cells=8))


def test_two_ways_to_feed_a_bed():
    assert "nothing from the printer's supply" in bed_sizes.feed(BedFeed(True, 230.0, 450.0, 1.96, 450.0, 0.0, 0.5))
    assert "18.8 A" in bed_sizes.feed(BedFeed(False, 24.0, 450.0, 18.75, 511.0, 450.0, 0.5))


def test_surprises_say_which_way_it_went():
    assert bed.rival(Rival("drop_border", "K", 9.0, 6.5)).endswith("more even")
    assert bed.rival(Rival("drop_middle", "K", 7.9, 9.0)).endswith("less even")
    assert bed.rival(Rival("drop_whole", "K", 7.9, 7.8)).endswith("the same")


def test_headlines_fit_a_line_and_say_what_is_reached():
    weak = with_course(first_bed(setup_of(heater_w=60.0), CATALOGUE, cells=10))
    told = bed.verdict(weak)
    assert told.headline == "This bed never reaches 75 °C"
    assert "its sensor comes to" in told.reason
    assert "does not come to 75 °C" in bed.outlook(weak)
    uneven = first_bed(setup_of(wanted_min=180.0), CATALOGUE, cells=10)
    assert bed.verdict(uneven).headline.startswith("Only ")
    assert bed.verdict(uneven).state is State.SHORT
    good = first_bed(setup_of("small_bed", room=24.0, target_c=60.0, aim_c=55.0, wanted_min=60.0), CATALOGUE, cells=10)
    assert len(bed.verdict(good).headline) <= 66
    assert bed.elsewhere(None) == ""
    assert "(bed)" in bed.elsewhere(uneven)
