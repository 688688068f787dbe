"""What goes with a change of the power path: a new joint is sound and not yet measured, a new path has its switch."""

from __future__ import annotations

from collections.abc import Mapping

from zeotherm.core.catalogue.fitting import described
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.patches import Patch, merged, patch_at, value_at
from zeotherm.core.machine.supplies import FIRST, MAINS, FurtherSupply
from zeotherm.core.parts.power.model.inputs import volts_path

RENEWED: dict[str, float | str] = {"milliohm": 0.0, "state": "sound"}
PATH, SWITCH, BED = "power.path", "power.switch", "bed.part"


SUPERSEDED = {"hotend.supply_v": "power.out_v", "bed.volts_pct": "power.out_v"}  # by what a described path computes


def superseded(path: str, setup: Setup, catalogue: Catalogue) -> str:
    """What is to be set instead of a number that a described power path computes; nothing where it counts itself.

    Raises DoesNotFitError."""
    return SUPERSEDED.get(path, "") if described(setup, catalogue) else ""


def goes_with(path: str) -> tuple[str, ...]:
    """Paths that a change of one brings along."""
    if path == PATH:
        return (SWITCH,)
    if path.startswith("power.") and path.endswith(".kind"):
        return tuple(f"{path.removesuffix('.kind')}.{name}" for name in RENEWED)
    return ()


def with_company(path: str, value: float | str, catalogue: Catalogue) -> Patch:
    """The patch of one change with what it brings along."""
    patch = patch_at(path, value)
    for other in goes_with(path):
        if other == SWITCH:
            kind = catalogue.power_paths.get(str(value))
            if kind is not None and kind.switch:
                patch = merged(patch, patch_at(SWITCH, kind.switch))
        else:
            patch = merged(patch, patch_at(other, RENEWED[other.rpartition(".")[2]]))
    return patch


def supply_fed(
    setup: Setup, number: str, told: Mapping[str, float | str], catalogue: Catalogue
) -> dict[str, float | str]:
    """What is told of a further supply, by its fields, with what goes with it: a converter runs on another supply, all
    else on the mains, and a converter makes fewer or more volts as its kind says."""
    there: FurtherSupply = setup.supplies.get(number, FurtherSupply())
    found = dict(told)
    kind = catalogue.supplies.get(str(told.get("supply", there.supply)))
    source = str(told.get("fed_by", there.fed_by))
    if kind is None or source not in (MAINS, FIRST, *setup.supplies):
        return found  # refused where they are looked up
    if "supply" in told and "fed_by" not in told and bool(kind.converts) == (source == MAINS):
        found["fed_by"] = source = FIRST if kind.converts else MAINS
    elif "fed_by" in told and "supply" not in told and bool(kind.converts) == (source == MAINS):
        up = source != MAINS and float(told.get("out_v", there.out_v)) > float(value_at(setup, volts_path(source)))
        way = "" if source == MAINS else "up" if up else "down"
        found["supply"] = next(key for key, one in catalogue.supplies.items() if one.converts == way)
    return found


def path_of_bed(setup: Setup, part: str, catalogue: Catalogue) -> Patch:
    """What a bed of another kind changes of the path: mains or low voltage; nothing where none is described."""
    now, bed = catalogue.power_paths.get(setup.power.path), catalogue.beds.get(part)
    if now is None or bed is None or not now.described or now.mains == (bed.supply == "mains"):
        return {}
    fits = next((key for key, kind in catalogue.power_paths.items()
                 if kind.described and kind.mains == (bed.supply == "mains")), setup.power.path)  # fmt: skip
    return with_company(PATH, fits, catalogue)
