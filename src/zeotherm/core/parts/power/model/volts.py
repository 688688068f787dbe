"""What the rest of the machine needs of its power path: the volts that reach bed and hotend, and where it warms."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache

from zeotherm.core.catalogue.fitting import described
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.numbers import doubt_of
from zeotherm.core.parts.power.model.inputs import PathInputs, resolve_path
from zeotherm.core.parts.power.model.model import BRANCH, Duty, PathAir, PathModel, SolvedPath, amps_of, solve_path

LOST_DOUBT = 0.3  # of what a hotend's way takes, at 95 %: its contacts are as their kinds usually are
LOST_AT = dict.fromkeys(BRANCH, "board") | {  # where each part of a path gives off what it loses
    "supply_terminal": "supply", "lead": "machine", "tabs": "machine", "heater_lead": "machine",
    "heater_plug": "machine",
}  # fmt: skip


@lru_cache(maxsize=64)
def in_room(inputs: PathInputs, room: float, bed: float) -> SolvedPath:
    """A path at rest with its bed on, everything about it as warm as its room [°C], its tabs on a warm bed [°C]."""
    return solve_path(PathModel(inputs), PathAir(room, room, room, room, room, bed, room))


def lost_late(inputs: PathInputs, room: float, bed: float, held: float) -> dict[str, float]:
    """What a path gives off late in a print, at supply, board and machine [W]; held: watts of the bed then. Its ohms
    are those with the bed always on: a few per cent too many."""
    solved = in_room(inputs, room, bed)
    duty = Duty(min(held / solved.bed_watts, 1.0) if inputs.heated else 0.0, inputs.heater_work)
    solved = replace(solved, amps=amps_of(solved.model, solved, duty, bed), duty=duty)
    found = dict.fromkeys(("supply", "board", "machine"), 0.0)
    for name, where in LOST_AT.items():
        found[where] += solved.lost_mean(name)
    return found


def volts_share(setup: Setup, catalogue: Catalogue, *, solved: bool = True) -> float:
    """Volts at a bed while it is on, over its rated ones [-]: by its power path where that is described, else as the
    job states them; solved: else the path is only looked up, and the stated ones are told. Raises DoesNotFitError."""
    stated = 0.01 * setup.bed.volts_pct
    if not described(setup, catalogue):
        return stated
    inputs = resolve_path(setup, catalogue).inputs
    if not inputs.heated or not solved:
        return stated
    return _with_its_bed(inputs, setup).bed_volts / inputs.bed_rated_v


def _with_its_bed(inputs: PathInputs, setup: Setup) -> SolvedPath:
    """A path in its room with its bed at the set value and on."""
    room = setup.room.mean_c
    return in_room(inputs, room, max(setup.bed.target_c, room))


def heater_volts(
    setup: Setup, catalogue: Catalogue, known: dict[str, float], *, solved: bool = True
) -> tuple[float, float]:
    """Volts at a hotend's heater while it and the bed are on, and their doubt (95 %) [V]: what it is fed with, less
    what its way takes where that is described.

    known: better known half-widths by path; solved: else the way is only looked up, and takes nothing. Raises
    DoesNotFitError.
    """
    if not described(setup, catalogue):
        return setup.hotend.supply_v, doubt_of(setup, "hotend.supply_v", known)
    fed, doubt = setup.power.out_v, doubt_of(setup, "power.out_v", known)
    inputs = resolve_path(setup, catalogue).inputs
    if not solved:
        return fed, doubt
    left = _with_its_bed(inputs, setup).heater_volts
    return left, doubt + LOST_DOUBT * max(fed - left, 0.0)
