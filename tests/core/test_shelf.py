"""Every part on the shelf: in plausible ranges, solved in a machine, and doing to it what its metal or shape does."""

from __future__ import annotations

import math
from pathlib import Path

import pytest
import tomli

from zeotherm.core.catalogue import shipped
from zeotherm.core.catalogue.alike import with_likes
from zeotherm.core.catalogue.entry import Figure
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.guard.fitted import ALL_ENTERED, assumed_of
from zeotherm.core.guard.heat import caps
from zeotherm.core.machine.documents import Job, Setup, patched
from zeotherm.core.machine.doing import Doing
from zeotherm.core.machine.known import Known
from zeotherm.core.parts.bed.judge.answer import first_bed
from zeotherm.core.parts.hotend.judge.ask import first_answer
from zeotherm.core.parts.hotend.model.inputs import resolve
from zeotherm.core.parts.power.judge.answer import first_power
from zeotherm.core.work.planning import refusal

CATALOGUE = shipped()
RANGES = tomli.loads((Path(__file__).parent / "plausible.toml").read_text(encoding="utf-8"))
HOT = {"hotend": {"sensor": "thermocouple", "heater_power_w": 80.0}, "fan": {"part": "axial_40_24v"}}
FITTED = {  # where an entry of each shelf goes, in the machine that it is solved in
    "breaks": "hotend.break_part", "sleeves": "hotend.sleeve", "sensors": "hotend.sensor", "drives": "hotend.drive",
    "blocks": "hotend.block", "fans": "fan.part",
}  # fmt: skip


def at(entry: object, figure: str) -> float | None:
    """A figure of an entry by its dotted name; none where it does not state it."""
    found = entry
    for step in figure.split("."):
        found = found[int(step)] if isinstance(found, tuple) else getattr(found, step)
    value = found.value if isinstance(found, Figure) else found
    return None if value is None else float(value)


@pytest.mark.parametrize("shelf", RANGES)
def test_every_figure_is_one_that_may_be(shelf):
    for figure, (low, high) in RANGES[shelf].items():
        for key, entry in CATALOGUE.shelf(shelf).items():
            if key == "none":
                continue
            value = at(entry, figure)
            assert value is None or low <= value <= high, f"{shelf}.{key}.{figure} is {value}, not {low} to {high}"


def test_a_plastic_melts_prints_and_breaks_down_in_that_order():
    for key, one in CATALOGUE.filaments.items():
        low, high = one.usual_range
        rising = (
            one.softening_c.value, one.pull_low_c.value, one.pull_high_c.value, one.nozzle_c.value, one.hottest.value
        )  # fmt: skip
        assert list(rising) == sorted(rising), f"{key}: {rising}"
        assert low < one.nozzle_c.value < high < one.hottest.value + 1e-9, key
        assert one.air_low_c.value < one.air_high_c.value < one.softening_c.value, key
        crystals = one.latent_j_kg.value > 2.0 * one.latent_j_kg.tolerance
        assert not crystals or one.melt_floor_c.value > one.melting_c.value, key
        assert one.melt_floor_c.value < low + 25.0, key


@pytest.mark.parametrize("shelf", FITTED)
def test_every_part_of_a_hotend_is_solved(shelf):
    for key, entry in CATALOGUE.shelf(shelf).items():
        bore = getattr(entry, "bore", "metal")
        template = {"liner": "compact_lined", "metal": "standard_all_metal"}[bore]
        setup = patched(Setup(), HOT | {"hotend": {**HOT["hotend"], "template": template}})
        if bore == "liner":
            setup = patched(setup, {"hotend": {"break_part": "lined_steel"}})
        part, _dot, name = FITTED[shelf].partition(".")
        sound(first_answer(patched(setup, {part: {name: key}}), CATALOGUE), key)


def sound(answer, key: str) -> None:
    """Nothing of an answer is out of this world."""
    values = answer.solved.readout.values
    assert all(math.isfinite(value) for value in values.values() if value is not None), key
    assert values["sink_top"] <= values["sink_base"] + 0.01 < values["bore"] < values["block"], key
    assert abs(values["block"] - answer.setup.printing.nozzle_c) < 30.0, key


def test_every_hotend_is_solved_and_its_own_break_fits():
    for key, shape in CATALOGUE.hotends.items():
        setup = patched(Setup(), {"hotend": {"template": key, "break_part": shape.default_break}})
        sound(first_answer(setup, CATALOGUE), key)


def test_every_filament_is_solved_at_its_usual_heat():
    for key, one in CATALOGUE.filaments.items():
        change = {"printing": {"filament": key, "nozzle_c": one.nozzle_c.value}}
        answer = first_answer(patched(Setup(), {**HOT, **change}), CATALOGUE)
        sound(answer, key)
        assert answer.solved.readout.values["exit_core"] > one.melt_floor_c.value - 2.0 * one.melt_floor_c.tolerance, (
            key
        )


def test_every_nozzle_is_solved_in_a_hotend_that_takes_it():
    for key, one in CATALOGUE.nozzles.items():
        template = "long_melt_all_metal" if one.long else "standard_all_metal"
        setup = patched(Setup(), HOT | {"hotend": {**HOT["hotend"], "template": template, "nozzle": key}})
        sound(first_answer(setup, CATALOGUE), key)


def test_every_bed_and_supply_is_solved():
    for key, bed in CATALOGUE.beds.items():
        if key == "none":
            continue
        setup = patched(Setup(), {"bed": {"part": key, "target_c": 60.0, "heater_w": bed.heater.power_w}})
        answer = first_bed(setup, CATALOGUE)
        assert 35.0 < answer.values["bed_corner"] <= answer.values["bed_centre"] + 0.5, key
    for key, kind in CATALOGUE.supplies.items():
        if not kind.converts:
            setup = patched(Setup(), {"power": {"path": "bed_by_module", "supply": key}})
            assert first_power(setup, CATALOGUE).values["power_wall"] > 60.0, key


def test_a_metal_that_conducts_better_is_more_even_and_a_bright_one_loses_less():
    def of(**hotend):
        return first_answer(patched(Setup(), {"hotend": hotend}), CATALOGUE).solved.readout.values

    spread = {key: of(block=key)["block"] - of(block=key)["nozzle"] for key in ("copper", "aluminium", "steel")}
    assert max(spread["copper"], spread["aluminium"]) < spread["steel"]
    assert of(block="copper_plated")["heater_watts"] < of(block="copper_tarnished")["heater_watts"]
    cores = [of(nozzle=key)["exit_core"] for key in ("stainless", "hardened", "brass", "copper")]
    assert cores == sorted(cores)


def test_what_a_nozzle_does_not_stand_holds_advice_down():
    printing = {"printing": {"filament": "pc", "nozzle_c": 275.0}}
    gem = patched(Setup(), HOT | printing | {"hotend": {**HOT["hotend"], "nozzle": "brass_ruby"}})
    assert min(caps(gem, CATALOGUE), key=lambda cap: cap.value).part == "nozzle, brass, ruby tip"
    assert resolve(gem, CATALOGUE).inputs.service == CATALOGUE.nozzles["brass_ruby"].service_c.value
    pull = CATALOGUE.procedures["cold_pull"]
    for nozzle, said in (("brass_ruby", "gem"), ("brass_insert", "insert"), ("brass", "")):
        told = refusal(pull, Doing(), patched(Setup(), {"hotend": {"nozzle": nozzle}}), CATALOGUE)
        assert (said in told) if said else not told


@pytest.mark.parametrize(
    ("template", "nozzle", "said"),
    [
        ("standard_all_metal", "brass_long", "needs a block with a long melt zone"),
        ("one_piece", "brass", "Nozzle and break are one part"),
        ("standard_all_metal", "chalk", "chalk"),
    ],
)
def test_a_nozzle_that_does_not_go_in_is_refused(template, nozzle, said):
    setup = patched(Setup(), {"hotend": {"template": template, "nozzle": nozzle}})
    with pytest.raises(DoesNotFitError, match=said) as refused:
        resolve(setup, CATALOGUE)
    assert refused.value.path == "hotend.nozzle"


@pytest.mark.parametrize("nozzle", ["brass_long", "stainless_long", "own"])
def test_the_guard_answers_for_a_nozzle_that_goes_into_few_hotends(nozzle):
    """The hotend is not entered, so it may be any: the nozzle that is must not stop the guard."""
    found = patched(Setup(), {"hotend": {"template": "long_melt_all_metal", "nozzle": nozzle}})
    job = Job(found=found, known={"hotend.nozzle": Known(how="entered")})
    unsure, sure = (caps(found, CATALOGUE, assumed=one)[0].value for one in (assumed_of(job), ALL_ENTERED))
    assert unsure < sure  # there may be a liner


def test_an_entry_is_filled_up_by_what_it_is_like():
    base = {"a": {"label": "A", "x": 1, "deep": {"y": 2}, "compared": True}}
    made = with_likes({"shelf": {**base, "b": {"label": "B", "like": "a", "deep": {"z": 3}}, "c": {"like": "b"}}})
    assert made["shelf"]["c"] == {"label": "B", "x": 1, "deep": {"y": 2, "z": 3}, "like": "b"}
    assert made["shelf"]["a"] == base["a"]
    with pytest.raises(ValueError, match=r"shelf\.b\.like: there is no 'q'"):
        with_likes({"shelf": {**base, "b": {"like": "q"}}})
    with pytest.raises(ValueError, match="like itself"):
        with_likes({"shelf": {"a": {"like": "b"}, "b": {"like": "a"}}})


def test_a_shops_own_part_may_be_like_one_of_the_shelf():
    own = CATALOGUE.with_own({"filaments": {"own_glow": {"like": "pla_glow", "label": "Our glow"}}})
    made, glow = own.filaments["own_glow"], CATALOGUE.filaments["pla_glow"]
    assert (made.density_kg_m3, made.softening_c, made.abrasive) == (glow.density_kg_m3, glow.softening_c, True)
