"""The window of temperature against flow, what widens it, and the settings that follow."""

from __future__ import annotations

import random
from dataclasses import replace

import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.choices.build.wanted import wanted_of
from zeotherm.core.choices.settings import settings_of
from zeotherm.core.choices.window import room_in, window
from zeotherm.core.guard.fitted import ALL_ENTERED
from zeotherm.core.guard.heat import Cap, nozzle_cap
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.build import Build
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.parts.enclosure.judge.warmth import air_late
from zeotherm.core.parts.hotend.judge.ask import first_answer
from zeotherm.core.parts.hotend.judge.capacity import melt_ceiling
from zeotherm.core.parts.whole.run import simulate
from zeotherm.wording import window as words
from zeotherm.wording.settings import as_text, compared, lines_of

CATALOGUE = shipped()
SHORT = {"schedule": {"print_min": 30.0, "cool_min": 0.0, "soak_min": 0.0}}
LINED = {"template": "compact_lined", "break_part": "lined_steel"}


def solved(change: dict, *, wider: bool = False, **asked):
    """The window of a machine, and its settings; wider: with what widens it."""
    setup = patched(Setup(), {**SHORT, **change})
    run = simulate(setup, CATALOGUE)
    wanted = wanted_of(Build(**asked), setup, air_late(run), CATALOGUE)
    for found in window(setup, {}, wanted, run, ALL_ENTERED):
        if found.room is not None and not wider:
            break
    answer = first_answer(found.setup, CATALOGUE)
    return found, settings_of(found, answer.solved, CATALOGUE, ALL_ENTERED)


@pytest.fixture(scope="module")
def petg():
    return solved({"printing": {"filament": "petg", "nozzle_c": 235.0, "flow_mm3_s": 8.0}})


@pytest.fixture(scope="module")
def lined():
    return solved({"hotend": LINED, "printing": {"filament": "petg", "nozzle_c": 245.0, "flow_mm3_s": 4.0}}, wider=True)


def test_hotter_melts_more_and_the_guard_ends_it_at_the_top(petg):
    found, _settings = petg
    most = [one.most for one in found.edges]
    assert most == sorted(most)
    assert found.ceiling.value == nozzle_cap(found.setup, CATALOGUE).value
    assert found.room.fits
    assert words.verdict(found, CATALOGUE).state in (State.CLEAR, State.CLOSE)


def test_its_edge_is_where_the_core_falls_to_the_floor(petg):
    found, _settings = petg
    edge = found.edges[4]
    trial = patched(found.setup, {"printing": {"nozzle_c": edge.nozzle}})
    ceiling = melt_ceiling(first_answer(trial, CATALOGUE, fineness=0.5).solved)
    assert edge.most == pytest.approx(1e9 * ceiling, rel=0.02)


def test_room_is_told_on_straight_lines_between_what_was_solved(petg):
    found, _settings = petg
    assert found.room.up == pytest.approx(found.ceiling.value - 235.0)
    assert found.room.down == pytest.approx(235.0 - CATALOGUE.filaments["petg"].usual_range[0], abs=40.0)
    assert found.room.down > 0.0
    inside = [one for one in found.edges if abs(one.nozzle - 235.0) < 15.0]
    assert min(one.most for one in inside) - 8.0 <= found.room.right <= max(one.most for one in inside) - 8.0


def test_above_a_liner_it_is_over_and_an_all_metal_bore_widens_it(lined):
    found, settings = lined
    told = words.verdict(found, CATALOGUE)
    assert told.state is State.OVER
    assert "PTFE liner" in told.headline
    assert found.room.tightest == "up"
    best = next(one for one in found.widenings if one.slot == "hotend")
    assert CATALOGUE.hotends[patched(found.setup, best.change).hotend.template].tube_end == "break"
    assert best.gain == pytest.approx(best.room.up - found.room.up)
    assert max(settings.first, settings.then, settings.unload) <= found.ceiling.value


def test_no_setting_is_hotter_than_the_weakest_part_nor_outside_what_is_usual(petg):
    found, settings = petg
    low, high = found.usual
    assert low <= settings.then <= high
    assert settings.then <= settings.first <= min(found.ceiling.value, high)
    assert settings.flow < found.room.right + 8.0
    assert settings.fan[-1] <= settings.fan_wanted
    assert list(settings.fan) == sorted(settings.fan)


def test_wherever_the_guard_ends_it_no_line_is_hotter(petg):
    found, _settings = petg
    answer = first_answer(found.setup, CATALOGUE, fineness=0.5)
    rng = random.Random(5)
    for _draw in range(25):
        cap = Cap("some part", rng.uniform(180.0, 300.0), "a draw")
        other = replace(found, ceilings=(cap, *found.ceilings), middle=rng.uniform(180.0, 290.0))
        other = replace(other, room=room_in(other, other.nozzle))
        told = settings_of(other, answer.solved, CATALOGUE, ALL_ENTERED)
        assert max(told.first, told.then) <= cap.value
        assert told.first >= told.then


def test_nothing_is_drawn_back_into_a_cold_end_that_is_warm():
    jams = {"surroundings": {"fan_air_c": 52.0}, "printing": {"filament": "pla", "nozzle_c": 215.0, "flow_mm3_s": 2.0}}
    found, settings = solved(jams)
    assert settings.draw_back == 0.0
    assert settings.retraction <= 0.8
    assert settings.then <= 215.0  # hotter creeps the sooner
    assert found.room.left < found.flows[0]


def test_every_line_for_a_controller_says_what_it_is(petg):
    _found, settings = petg
    lines = as_text(settings).splitlines()
    assert len(lines) >= 9
    assert all("; " in line for line in lines)
    temperatures = [float(line.split("S")[1].split()[0]) for line in lines if line.startswith(("M104", "M109"))]
    assert max(temperatures) <= petg[0].ceiling.value
    assert {one.key for one in lines_of(settings)} >= {
        "first",
        "retraction",
        "part_fan",
        "end",
        "start",
        "unload",
        "purge",
    }


def test_two_profiles_stand_line_by_line(petg):
    found, settings = petg
    told = compared(found.setup.printing, settings)
    assert told[0][1].startswith("235 °C")
    assert all(len(row) == 3 and all(row) for row in told)


def test_an_empty_window_says_what_it_means(petg):
    found = replace(petg[0], flows=(15.0, 30.0))
    found = replace(found, room=room_in(found, found.nozzle))
    assert found.empty
    assert not found.room.fits
    told = words.verdict(found, CATALOGUE)
    assert told.headline.startswith("No temperature prints PETG")
    assert "mm³/s at most" in told.reason
