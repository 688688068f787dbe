"""What does not go together among the parts of a hotend: rules of the catalogue, each held against what is fitted.

A rule that holds is sure once everything it stands on is known; else it is told as what may be, with what to find out.
A rule that does not hold says nothing of what nobody entered.
"""

from __future__ import annotations

import operator
from collections.abc import Callable, Collection, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from zeotherm.core.catalogue.entry import Figure
from zeotherm.core.catalogue.fitting import fed_volts, hotend_of
from zeotherm.core.catalogue.seats import in_one_block
from zeotherm.core.catalogue.shelves import Catalogue, Clash, Filament, Nozzle
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.patches import value_at
from zeotherm.core.machine.toolheads import others_in_front
from zeotherm.core.physics.electric import heater_power

SOFT_ROOM_K = 10.0  # below its softening, up to which a printed mount keeps its shape under load
COMPARE: dict[str, Callable[[Any, Any], bool]] = {
    "<": operator.lt, "<=": operator.le, ">": operator.gt, ">=": operator.ge, "is": operator.eq,
    "is not": operator.ne,
}  # fmt: skip
SHOWN = {  # figures that a sentence may name, with their unit; none: a word
    "bore": ("setup:hotend.nozzle_mm", "mm"), "least_bore": ("filament.bore_mm", "mm"),
    "smallest_bore": ("nozzle.smallest_mm", "mm"), "largest_bore": ("nozzle.largest_mm", "mm"),
    "tip_stands": ("nozzle.service_c", "°C"), "set": ("setup:printing.nozzle_c", "°C"),
    "sensor_stands": ("sensor.service_c", "°C"), "sleeve_stands": ("sleeve.service_c", "°C"),
    "liner_stands": ("limit:liner_end", "°C"), "breaks_down": ("filament.hottest_c", "°C"),
    "from": ("filament.print_from", "°C"), "open_path": ("setup:hotend.open_path_mm", "mm"),
    "wanted_air": ("filament.air_low_c", "°C"), "mount_softens": ("mount.softening_c", "°C"),
    "other_breaks_down": ("other.hottest_c", "°C"), "filament": ("filament.label", ""), "mount": ("mount.label", ""),
    "sensor": ("sensor.label", ""), "amplifier": ("sensor.amplifier", ""), "nozzle_metal": ("nozzle.metal", ""),
    "other_filament": ("other.label", ""), "other": ("other.number", ""), "other_from": ("other.print_from", "°C"),
    "push": ("drive.push_n", "N"), "slack": ("drive.slack_mm", "mm"),
    "amps": ("heater.amps", "A"), "output": ("setup:power.heater_output_a", "A"), "fan_starts": ("fan.start_v", "V"),
    "fan_volts": ("setup:fan.voltage_v", "V"), "fan_stands": ("fan.service_c", "°C"),
    "retraction": ("setup:printing.retraction_mm", "mm"), "block_stands": ("block_metal.service_c", "°C"),
    "nozzle_stands": ("nozzle_metal.service_c", "°C"), "break_stands": ("break_metal.service_c", "°C"),
    "neck": ("setup:hotend.neck_wall_factor", "x"), "part_fan": ("setup:printing.part_fan_pct", "%"),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class ClashFound:
    """A rule that holds, with the figures of its sentence, each with its unit."""

    key: str
    rule: Clash
    figures: Mapping[str, tuple[Any, str]]
    unknown: tuple[str, ...]  # what it stands on that nobody entered
    toolhead: str = ""  # number of the further one that it is of


def clashes(setup: Setup, catalogue: Catalogue, known: Collection[str] | None = None) -> tuple[ClashFound, ...]:
    """What does not go together in every hotend of a machine, worst first.

    known: paths that somebody told; none: all are.
    """
    found = list(_of_one(setup, catalogue, known, "", setup.toolhead))
    for number, other in others_in_front(setup):
        found += _of_one(other, catalogue, known, number, number)
    worst = ("over", "close", "unknown")
    return tuple(sorted(found, key=lambda one: (bool(one.unknown), worst.index(one.rule.state))))


def _of_one(
    setup: Setup, catalogue: Catalogue, known: Collection[str] | None, number: str, own: str
) -> Iterator[ClashFound]:
    base = _figures(setup, catalogue)
    beside = [
        base
        | _prefixed(
            "other",
            _of_filament(catalogue.filaments[other.printing.filament])
            | {
                "number": key,
                "nozzle_long": catalogue.nozzles[other.hotend.nozzle].long,
            },
        )
        for key, other in others_in_front(setup)
        if in_one_block(setup, key, catalogue)
    ]
    for key, rule in catalogue.clashes.items():
        pairs = any(left.startswith("other.") for left, _how, _right in rule.when)
        for figures in beside if pairs else [base]:
            if all(_holds(one, figures, setup, catalogue) for one in rule.when):
                told = {name: (_figure(at, figures, setup, catalogue), unit) for name, (at, unit) in SHOWN.items()}
                paths = (f"toolheads.{own}.{path}" if number else path for path in rule.stands_on)
                unknown = tuple(path for path in paths if known is not None and path not in known)
                yield ClashFound(key, rule, told, unknown, number)


def _holds(one: tuple[str, str, Any], figures: Mapping[str, Any], setup: Setup, catalogue: Catalogue) -> bool:
    left, how, right = one
    value = _figure(left, figures, setup, catalogue)
    other = _figure(right, figures, setup, catalogue) if isinstance(right, str) and _is_figure(right) else right
    return value is not None and other is not None and COMPARE[how](value, other)


def _is_figure(text: str) -> bool:
    return text.startswith(("setup:", "limit:")) or "." in text


def _figure(at: str, figures: Mapping[str, Any], setup: Setup, catalogue: Catalogue) -> Any:
    if at.startswith("setup:"):
        return value_at(setup, at.removeprefix("setup:"))
    if at.startswith("limit:"):
        return catalogue.limits[at.removeprefix("limit:")].value
    return figures.get(at)


def _figures(setup: Setup, catalogue: Catalogue) -> dict[str, Any]:
    """Figures of what is fitted, by the name that a rule has for them; what is not stated is none."""
    hotend, shape = setup.hotend, hotend_of(setup, catalogue)
    nozzle = _nozzle(catalogue.nozzles[hotend.nozzle], shape.nozzle_material, catalogue)
    mount = catalogue.filaments[setup.surroundings.mount_plastic]
    fitted = catalogue.breaks[hotend.break_part]
    volts = fed_volts(setup, catalogue)
    parts: dict[str, dict[str, Any]] = {
        "filament": _of_filament(catalogue.filaments[setup.printing.filament]),
        "nozzle": _plain(nozzle) | {
            "smallest_mm": nozzle.bores_mm[0], "largest_mm": nozzle.bores_mm[1],
            "metal": catalogue.materials[shape.nozzle_material].label,
        },
        "hotend": _plain(shape),
        "sensor": _plain(catalogue.sensors[hotend.sensor]),
        "sleeve": _plain(catalogue.sleeves[hotend.sleeve]),
        "drive": _plain(catalogue.drives[hotend.drive]),
        "mount": _plain(mount) | {"soft_from_c": mount.softening_c.value - SOFT_ROOM_K},
        "air": _plain(catalogue.air_sources[setup.surroundings.air_from]),
        "fan": _plain(catalogue.fans[setup.fan.part]),
        "heater": {"amps": heater_power(hotend.heater_power_w, hotend.heater_rated_v, volts) / volts},
        "block": {"bare": catalogue.blocks[hotend.block].emissivity is None},
        "block_metal": _plain(catalogue.materials[shape.block_material]),
        "nozzle_metal": _plain(catalogue.materials[shape.nozzle_material]),
        "break": _plain(fitted),
        "break_metal": _plain(catalogue.materials[fitted.block_side]),
    }  # fmt: skip
    found: dict[str, Any] = {}
    for name, its in parts.items():
        found |= _prefixed(name, its)
    return found


def _nozzle(fitted: Nozzle, metal: str, catalogue: Catalogue) -> Nozzle:
    """The nozzle's kind; of one that came with its hotend, the plain one of its metal."""
    if fitted.material:
        return fitted
    like = (one for one in catalogue.nozzles.values() if one.material == metal and one.tip == "plain" and not one.long)
    return next(like, fitted)


def _of_filament(one: Filament) -> dict[str, Any]:
    return _plain(one) | {
        "hottest_c": one.hottest.value, "print_from": one.usual_range[0], "stiff_mpa": one.stiffness.value,
    }  # fmt: skip


def _plain(entry: Any) -> dict[str, Any]:
    """Fields of an entry, a figure by its value."""
    return {name: value.value if isinstance(value, Figure) else value for name, value in entry}


def _prefixed(name: str, figures: Mapping[str, Any]) -> dict[str, Any]:
    return {f"{name}.{key}": value for key, value in figures.items()}
