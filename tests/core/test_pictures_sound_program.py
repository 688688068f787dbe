"""Thermal pictures, a fan's sound, part programs."""

from __future__ import annotations

import numpy as np
import pytest

from zeotherm.core.runs.fan_sound import NoToneError, blade_pass
from zeotherm.core.runs.part_program import as_job, lines_of, read_program
from zeotherm.core.runs.thermal_picture import (
    ThermalPicture,
    apart,
    corrected,
    region,
    spread,
    spread_changes,
)
from zeotherm.shop.practice.virtual_printer import fan_sound, thermal_picture


def seen(true_c: float, emissivity: float, reflected_c: float) -> float:
    """What a camera set to 1 shows, by the law itself."""
    return ((emissivity * (true_c + 273.15) ** 4 + (1 - emissivity) * (reflected_c + 273.15) ** 4) ** 0.25) - 273.15


@pytest.mark.parametrize("emissivity", [0.35, 0.6, 0.95, 1.0])
def test_a_patch_of_known_temperature_comes_out_right(emissivity):
    picture = ThermalPicture(np.array([[seen(85.0, emissivity, 22.0)]]), 0, 0)
    assert corrected(picture, emissivity, 22.0)[0, 0] == pytest.approx(85.0, abs=1e-6)


def test_what_the_camera_was_set_to_is_undone_first():
    shown = corrected(ThermalPicture(np.array([[seen(85.0, 0.6, 22.0)]]), 0, 0), 0.95, 22.0)
    again = ThermalPicture(shown, 0, 0, read_emissivity=0.95, read_reflected_c=22.0)
    assert corrected(again, 0.6, 22.0)[0, 0] == pytest.approx(85.0, abs=1e-6)


def test_bare_metal_is_refused_not_corrected():
    with pytest.raises(ValueError, match="Tape or paint"):
        corrected(ThermalPicture(np.array([[30.0]]), 0, 0), 0.1, 20.0)


def test_edge_and_centre_of_a_known_fall():
    y, x = np.mgrid[-1:1:120j, -1:1:160j]
    field = 60.0 - 6.0 * (np.maximum(np.abs(x), np.abs(y)) > 0.8)
    found = spread(field, 2.0)
    assert found.below_centre.value == pytest.approx(6.0, abs=1.0)
    assert found.mean.half >= 2.0


def test_two_equal_beds_are_too_close_to_call_and_a_draught_is_not():
    calm, again, draught = (
        spread(region(thermal_picture(60.0, 20.0, by, seed), (13, 9, 147, 108)), 2.0)
        for by, seed in ((0.0, 1), (0.0, 2), (3.0, 3))
    )
    assert not any(one.real for one in spread_changes(calm, again))
    assert spread_changes(calm, draught)[1].real


def test_differences_fit_pictures_of_unequal_size():
    assert apart(np.full((60, 80), 40.0), np.full((120, 160), 43.0)) == pytest.approx(3.0)


def test_a_region_outside_is_named():
    with pytest.raises(ValueError, match="outside"):
        region(np.zeros((10, 10)), (20, 0, 30, 5))


@pytest.mark.parametrize(("speed", "blades"), [(2400.0, 9), (4100.0, 7), (7800.0, 7), (11000.0, 5)])
def test_a_fan_is_heard(speed, blades):
    for seed in range(4):
        tone = blade_pass(fan_sound(speed, blades, seed=seed), 16000.0, blades)
        assert tone.speed == pytest.approx(speed, abs=max(tone.speed_doubt, 0.004 * speed))
        assert tone.sure in ("sure", "likely")


def test_noise_alone_is_no_fan():
    noise = np.random.default_rng(1).normal(0, 0.1, 48000)
    assert blade_pass(noise, 16000.0, 7).sure != "sure"


@pytest.mark.parametrize(
    ("samples", "rate", "told"),
    [
        (np.zeros(16000), 16000.0, "silent"),
        (np.ones(100), 16000.0, "at least 0.5 s"),
        (np.full(16000, np.nan), 16000.0, "no numbers"),
    ],
)
def test_recordings_that_tell_nothing_say_why(samples, rate, told):
    with pytest.raises(NoToneError, match=told):
        blade_pass(samples, rate, 7)


PROGRAM = """
; made by hand
M140 S65
M104 S210
M190 S65
M109 S210
G21
G90
M83
G28
G1 Z0.2 F600
{layers}
M104 S0
"""
LAYER = """G1 Z{z:.2f} F600
{temperature}G1 E0.8 F1800
G1 X100 Y0 E5 F1800
G1 X100 Y100 E5
G1 X0 Y100 E5
G1 X0 Y0 E5
G1 E-0.8 F1800
"""


def program(layers: int = 10):
    body = "".join(
        LAYER.format(z=0.2 * (n + 1), temperature="M104 S200\nM106 S127\n" if n == 2 else "") for n in range(layers)
    )
    return read_program(lines_of(PROGRAM.format(layers=body)), "d" * 64)


def test_a_part_program_tells_temperatures_time_flow_and_retractions():
    found = program()
    area = np.pi * 0.875**2
    assert found.nozzle_c == (210.0, 200.0)
    assert found.bed_c == (65.0, 65.0)
    assert found.layers == 10
    assert found.fan_from_layer == 2
    assert found.retractions.count == 10
    assert found.retractions.length_mm == pytest.approx(0.8)
    # 4 x 100 mm at 30 mm/s a layer: 13.3 s, a little more for speeding up
    assert 133.0 < found.seconds < 150.0
    assert found.volume_mm3 == pytest.approx((200.0 + 0.8) * area, rel=0.01)
    assert found.most_flow == pytest.approx(5.0 / (100.0 / 30.0) * area, rel=0.05)


def test_a_part_program_becomes_the_job():
    patch = as_job(program(400))
    assert patch["printing"]["nozzle_c"] == 200.0
    assert patch["bed"]["target_c"] == 65.0
    assert patch["schedule"]["print_min"] == pytest.approx(program(400).seconds / 60.0, abs=0.1)


def test_absolute_extrusion_inches_and_arcs():
    absolute = read_program(lines_of("G90\nM82\nG92 E0\nG1 X30 E3 F1800\nG1 X60 E6\nG1 X60 E5.2\nG1 X90 E8.2\n"), "")
    assert absolute.retractions.count == 1
    assert absolute.volume_mm3 == pytest.approx((6.0 + 2.2) * np.pi * 0.875**2, rel=1e-6)
    arc = read_program(lines_of("G1 F600\nG2 X20 Y0 I10 J0 E2\n"), "")
    assert arc.seconds == pytest.approx(np.pi * 10.0 / 10.0, rel=0.05)
    inches = read_program(lines_of("G20\nG1 X1 E0.1 F24\n"), "")
    assert inches.seconds == pytest.approx(2.5, rel=0.1)


def test_a_text_without_moves_is_no_program():
    with pytest.raises(ValueError, match="no moves"):
        read_program(lines_of("M104 S200\n"), "")
