"""The machines that the facts speak of."""

from __future__ import annotations

import math
from functools import cache

from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.patches import patch_at
from zeotherm.core.parts.hotend.judge.bands import bands
from zeotherm.core.parts.hotend.judge.course import Course, plan
from zeotherm.core.parts.hotend.judge.jams import Jams
from zeotherm.core.parts.hotend.model.solved import Solved, solve_hotend

LINED = {"hotend.template": "compact_lined", "hotend.break_part": "lined_steel"}
TUBE_FED = {"hotend.drive": "plain_tube"}
USUAL = {  # PLA, in air that is stated at the fan
    "hotend.template": "standard_all_metal", "hotend.break_part": "steel", "printing.filament": "pla",
    "printing.nozzle_c": 205.0, "printing.retraction_mm": 0.8, "printing.flow_mm3_s": 4.0,
    "schedule.retractions_per_min": 6.0, "schedule.print_min": 480.0, "schedule.cool_min": 0.0,
    "surroundings.air_from": "stated", "bed.target_c": 0.0,
}  # fmt: skip


def machine(air: float = 25.0, **change: object) -> Setup:
    """The usual machine with that air at its fan [°C]; change: of paths, their dots written as __."""
    around = {"surroundings.fan_air_c": air, "surroundings.block_air_c": air + 5.0, "surroundings.mount_c": air + 3.0}
    told = {path.replace("__", "."): value for path, value in change.items()}
    setup = Setup()
    for path, value in {**USUAL, **around, **told}.items():
        setup = patched(setup, patch_at(path, value))
    return setup


def fan_dies(setup: Setup, after_min: float = 60.0) -> Setup:
    """The same, whose fan stands still from a minute on."""
    fault = {"label": "Fan stops", "at_min": after_min, "change": {"fan": {"voltage_v": 0.0}}}
    return patched(setup, {"faults": {"dead": fault}, "schedule": {"print_min": 180.0}})


@cache
def _planned(text: str) -> Course:
    return plan(Setup.model_validate_json(text), shipped())


def course(setup: Setup) -> Course:
    """Its whole job."""
    return _planned(setup.model_dump_json())


@cache
def _jams(text: str) -> Jams:
    found = _planned(text)
    answer = found.answer(found.worst_time)
    return found.jams(bands(answer.solved, answer.limits, in_full=0))


def jams(setup: Setup) -> Jams:
    """When it jams, in all its doubt."""
    return _jams(setup.model_dump_json())


def hours(setup: Setup) -> float:
    """Hours of printing until it jams, by the stated numbers; infinite where it never does."""
    found = jams(setup)
    return (found.stated - found.start) / 3600.0 if math.isfinite(found.stated) else math.inf


def settled(setup: Setup) -> Solved:
    """The hotend while it prints, at rest."""
    return solve_hotend(setup, shipped())


def air_that_jams(low: float = 20.0, high: float = 70.0, within_h: float = 4.0, **change: object) -> float:
    """Air at the fan in which it jams in so many hours [°C], within a quarter of a kelvin."""
    while high - low > 0.25:
        middle = 0.5 * (low + high)
        low, high = (low, middle) if hours(machine(middle, **change)) < within_h else (middle, high)
    return 0.5 * (low + high)
