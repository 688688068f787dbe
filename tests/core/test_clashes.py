"""What does not go together: every rule flips exactly at its limit, and unknown is never a pass or a fact."""

from __future__ import annotations

import random

import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.guard.clashes import clashes
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.patches import together
from zeotherm.core.machine.toolheads import setup_with
from zeotherm.wording.clashes import HEAD, MAY, head, sentence

CATALOGUE = shipped()
F, N, S = CATALOGUE.filaments, CATALOGUE.nozzles, CATALOGUE.sensors
METALS = CATALOGUE.materials
LINER = CATALOGUE.limits["liner_end"].value
LINED = {"hotend": {"template": "compact_lined", "break_part": "lined_steel"}}
STEP = 0.05


def made(filament: str, nozzle_c: float, **hotend) -> dict:
    return {"printing": {"filament": filament, "nozzle_c": nozzle_c}, "hotend": hotend}


def keys(change: dict) -> set[str]:
    return {one.key for one in clashes(patched(Setup(), change), CATALOGUE)}


HOT = {"sensor": "thermocouple"}  # stands whatever is asked here
# rule: a machine that just goes together, and one that just does not
FLIPS = {
    "abrasive_soft": (
        made("petg_carbon", 250.0, nozzle="stainless"),
        made("petg_carbon", 250.0, nozzle="brass"),
    ),
    "filled_bore": (
        made("pla_wood", 200.0, nozzle_mm=F["pla_wood"].bore_mm),
        made("pla_wood", 200.0, nozzle_mm=F["pla_wood"].bore_mm - STEP),
    ),
    "bore_too_small": (
        made("pla", 205.0, nozzle="hardened_wide", nozzle_mm=N["hardened_wide"].bores_mm[0]),
        made("pla", 205.0, nozzle="hardened_wide", nozzle_mm=N["hardened_wide"].bores_mm[0] - STEP),
    ),
    "bore_too_large": (
        made("pla", 205.0, nozzle="brass_fine", nozzle_mm=N["brass_fine"].bores_mm[1]),
        made("pla", 205.0, nozzle="brass_fine", nozzle_mm=N["brass_fine"].bores_mm[1] + STEP),
    ),
    "tip_too_hot": (
        made("pc", N["brass_ruby"].service_c.value, nozzle="brass_ruby", **HOT),
        made("pc", N["brass_ruby"].service_c.value + STEP, nozzle="brass_ruby", **HOT),
    ),
    "sensor_too_hot": (
        made("pc", S["bead_thermistor"].service_c.value, sensor="bead_thermistor"),
        made("pc", S["bead_thermistor"].service_c.value + STEP, sensor="bead_thermistor"),
    ),
    "sensor_for_plastic": (
        made("peek", 280.0, sensor="platinum"),
        made("peek", 280.0, sensor="bead_thermistor"),
    ),
    "sleeve_too_hot": (
        made("pc", 280.0, sleeve="silicone", **HOT),
        made("pc", 280.0 + STEP, sleeve="silicone", **HOT),
    ),
    "liner_too_hot": (together(LINED, made("petg", LINER)), together(LINED, made("petg", LINER + STEP))),
    "liner_for_plastic": (together(LINED, made("petg", 230.0)), together(LINED, made("pc", 230.0))),
    "plastic_too_hot": (made("pla", F["pla"].hottest.value), made("pla", F["pla"].hottest.value + STEP)),
    "plastic_too_cold": (made("pla", F["pla"].usual_range[0]), made("pla", F["pla"].usual_range[0] - STEP)),
    "amplifier": (made("pla", 205.0, sensor="platinum"), made("pla", 205.0, sensor="platinum_100")),
    "soft_through_tube": (made("tpu_95a", 225.0, drive="plain"), made("tpu_95a", 225.0, drive="plain_tube")),
    "soft_open_path": (
        made("tpu_95a", 225.0, open_path_mm=3.0),
        made("tpu_95a", 225.0, open_path_mm=3.0 + STEP),
    ),
    "mount_for_plastic": (
        {"surroundings": {"mount_plastic": "abs"}, **made("pc", 275.0)},
        {"surroundings": {"mount_plastic": "pla"}, **made("pc", 275.0)},
    ),
    "short_in_long": (
        made("pla", 205.0, template="long_melt_all_metal", nozzle="brass_long"),
        made("pla", 205.0, template="long_melt_all_metal", nozzle="brass"),
    ),
    "insert_filled": (made("pla", 205.0, nozzle="brass_insert"), made("pla_wood", 200.0, nozzle="brass_insert")),
    "insert_soft": (made("pla", 205.0, nozzle="brass_insert"), made("tpu_95a", 225.0, nozzle="brass_insert")),
    "insert_push": (
        made("pla", 205.0, nozzle="brass_insert", drive="geared"),
        made("pla", 205.0, nozzle="brass_insert", drive="plain"),
    ),
    "heater_amps": (
        {"power": {"heater_output_a": 2.5}, **made("pla", 205.0, heater_power_w=60.0)},
        {"power": {"heater_output_a": 2.5}, **made("pla", 205.0, heater_power_w=60.0 + STEP)},
    ),
    "heater_amps_unknown": (
        made("pla", 205.0, heater_power_w=120.0),
        made("pla", 205.0, heater_power_w=120.0 + STEP),
    ),
    "fan_start": (
        {"fan": {"voltage_v": CATALOGUE.fans["axial_30_24v"].start_v}},
        {"fan": {"voltage_v": CATALOGUE.fans["axial_30_24v"].start_v - STEP}},
    ),
    "blower_pull": (
        {"fan": {"part": "blower_40_24v", "direction": "push"}},
        {"fan": {"part": "blower_40_24v", "direction": "pull"}},
    ),
    "fan_in_wanted_air": (
        {"surroundings": {"air_from": "duct"}, **made("peek", 380.0, **HOT)},
        {"surroundings": {"air_from": "case"}, **made("peek", 380.0, **HOT)},
    ),
    "motor_in_wanted_air": (
        made("peek", 380.0, drive="geared_tube", **HOT),
        made("peek", 380.0, drive="geared", **HOT),
    ),
    "retraction_swallowed": (
        together(made("pla", 205.0, drive="plain_tube"), {"printing": {"retraction_mm": 1.75}}),
        together(made("pla", 205.0, drive="plain_tube"), {"printing": {"retraction_mm": 1.75 - STEP}}),
    ),
    "retraction_long": ({"printing": {"retraction_mm": 3.0}}, {"printing": {"retraction_mm": 3.0 + STEP}}),
    "abrasive_medium": (
        made("petg_carbon", 250.0, nozzle="hardened"),
        made("petg_carbon", 250.0, nozzle="stainless"),
    ),
    "copper_bare_hot": (
        made("pei", 320.0, block="copper", **HOT),
        made("pei", 320.0 + STEP, block="copper", **HOT),
    ),
    "block_too_hot": (
        made("pc", METALS["aluminium_alloy"].service_c.value, **HOT),
        made("pc", METALS["aluminium_alloy"].service_c.value + STEP, **HOT),
    ),
    "nozzle_metal_too_hot": (
        made("pei", METALS["brass"].service_c.value, nozzle="brass", **HOT),
        made("pei", METALS["brass"].service_c.value + STEP, nozzle="brass", **HOT),
    ),
    "break_too_hot": (
        made("pekk", METALS["titanium_alloy"].service_c.value, break_part="titanium", **HOT),
        made("pekk", METALS["titanium_alloy"].service_c.value + STEP, break_part="titanium", **HOT),
    ),
    "titanium_dry": (
        made("pla", 205.0, break_part="titanium", sink_joint="pasted"),
        made("pla", 205.0, break_part="titanium", sink_joint="dry"),
    ),
    "neck_thin": (made("pla", 205.0, neck_wall_factor=0.6), made("pla", 205.0, neck_wall_factor=0.6 - STEP)),
    "fibre_frays": (
        {"hotend": {"sleeve": "fibre"}, "printing": {"part_fan_pct": 50.0}},
        {"hotend": {"sleeve": "fibre"}, "printing": {"part_fan_pct": 50.0 + STEP}},
    ),
    "part_fan_bare": (
        {"printing": {"part_fan_pct": 80.0, "nozzle_c": 240.0}},
        {"printing": {"part_fan_pct": 80.0, "nozzle_c": 240.0 + STEP}},
    ),
    "high_ohms": (made("pla", 205.0, sensor="hot_thermistor"), made("pla", 205.0, sensor="hottest_thermistor")),
    "no_loop": (
        {"surroundings": {"air_from": "liquid"}, **made("pla", 205.0, template="liquid_cooled")},
        made("pla", 205.0, template="liquid_cooled"),
    ),
}


@pytest.mark.parametrize("key", FLIPS)
def test_a_rule_flips_exactly_at_its_limit(key):
    goes, clash = FLIPS[key]
    assert key not in keys(goes)
    assert key in keys(clash)


def test_every_rule_is_tried_here():
    assert set(CATALOGUE.clashes) == set(FLIPS) | {"one_block", "one_block_back", "unequal_nozzles"}
    assert len(CATALOGUE.clashes) >= 40


def test_two_plastics_in_one_block_share_a_temperature_or_clash():
    def twin(first: str, second: str) -> set[str]:
        setup = setup_with(patched(Setup(), {"hotend": {"beside": "shared_block"}}), "T1")
        change = {
            "printing": {"filament": first, "nozzle_c": F[first].nozzle_c.value},
            "toolheads": {"T1": {"printing": {"filament": second, "nozzle_c": F[second].nozzle_c.value}}},
        }
        return {one.key for one in clashes(patched(setup, change), CATALOGUE)}

    assert "one_block" in twin("pc", "pva")
    assert "one_block_back" in twin("pva", "pc")
    assert not twin("pla", "pva") & {"one_block", "one_block_back", "unequal_nozzles"}


def test_nozzles_of_unequal_length_in_one_block_clash():
    setup = setup_with(patched(Setup(), {"hotend": {"beside": "shared_block", "nozzle": "brass"}}), "T1")
    long = {"toolheads": {"T1": {"hotend": {"nozzle": "brass_long"}}}}
    same = {"toolheads": {"T1": {"hotend": {"nozzle": "hardened"}}}}
    assert "unequal_nozzles" in {one.key for one in clashes(patched(setup, long), CATALOGUE)}
    assert "unequal_nozzles" not in {one.key for one in clashes(patched(setup, same), CATALOGUE)}


def test_what_nobody_entered_is_told_as_what_may_be():
    setup = patched(Setup(), FLIPS["abrasive_soft"][1])
    sure = next(one for one in clashes(setup, CATALOGUE, {"printing.filament", "hotend.nozzle"})
                if one.key == "abrasive_soft")  # fmt: skip
    unsure = next(one for one in clashes(setup, CATALOGUE, {"printing.filament"}) if one.key == "abrasive_soft")
    assert (head(sure), head(unsure)) == (HEAD, MAY)
    assert unsure.unknown == ("hotend.nozzle",)
    assert sentence(unsure).endswith("Not certain: nozzle kind not entered.")
    assert not sentence(sure).count("Not certain")


def test_one_of_a_further_toolhead_names_it():
    setup = setup_with(Setup(), "T1")
    setup = patched(setup, {"toolheads": {"T1": made("peek", 400.0)}})
    told = [one for one in clashes(setup, CATALOGUE, set()) if one.toolhead]
    assert {one.toolhead for one in told} == {"T1"}
    assert all(sentence(one).startswith("T1: ") for one in told)
    assert all(path.startswith("toolheads.T1.") for one in told for path in one.unknown)


def test_every_sentence_reads_on_two_hundred_random_builds():
    rng = random.Random(5)
    for _n in range(200):
        template = rng.choice(["standard_all_metal", "compact_lined", "liquid_cooled", "long_melt_all_metal"])
        shape = CATALOGUE.hotends[template]
        breaks = [key for key, one in CATALOGUE.breaks.items() if one.bore == shape.bore]
        nozzles = [key for key, one in N.items() if shape.long_melt or not one.long]
        change = made(rng.choice(list(F)), round(rng.uniform(180.0, 420.0), 1), template=template,
                          break_part=rng.choice(breaks), nozzle=rng.choice(nozzles), sensor=rng.choice(list(S)),
                          sleeve=rng.choice(list(CATALOGUE.sleeves)), drive=rng.choice(list(CATALOGUE.drives)),
                          nozzle_mm=rng.choice([0.15, 0.25, 0.4, 0.6, 1.0]))  # fmt: skip
        setup = patched(Setup(), change)
        found = clashes(setup, CATALOGUE)
        assert len({one.key for one in found}) == len(found)
        for one in found:
            text = sentence(one).replace("kind not known", "")
            assert "{" not in text
            assert "not known" not in text
        by_hand = set()  # an oracle of its own for those that compare temperatures
        hotend, nozzle_c, plastic = setup.hotend, setup.printing.nozzle_c, F[setup.printing.filament]
        if S[hotend.sensor].service_c.value < nozzle_c:
            by_hand.add("sensor_too_hot")
        if shape.tube_end != "break" and nozzle_c > LINER:
            by_hand.add("liner_too_hot")
        if nozzle_c > plastic.hottest.value:
            by_hand.add("plastic_too_hot")
        if nozzle_c < plastic.usual_range[0]:
            by_hand.add("plastic_too_cold")
        told = {one.key for one in found}
        assert told & {"sensor_too_hot", "liner_too_hot", "plastic_too_hot", "plastic_too_cold"} == by_hand
