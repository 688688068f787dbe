"""Which entries of a shelf go into a choice of a machine."""

from __future__ import annotations

from typing import Any

from zeotherm.core.catalogue.entry import Figure
from zeotherm.core.catalogue.lookup import DoesNotFitError, take
from zeotherm.core.catalogue.shelves import Catalogue, HotendShape
from zeotherm.core.machine.documents import Setup, declaration
from zeotherm.core.machine.patches import value_at
from zeotherm.core.machine.quantity import Choice
from zeotherm.core.machine.supplies import FIRST, MAINS, SUPPLIES


def fitting(item: Choice, setup: Setup, catalogue: Catalogue) -> dict[str, Any]:
    """Those that go with what is there: breaks of the hotend's bore, supplies that the machine has; all of anything
    else."""
    shelf = catalogue.shelf(item.shelf)
    if item.shelf == "power_sources":
        return {key: entry for key, entry in shelf.items() if key in _sources(item.path, setup)}
    if item.path == "power.supply":  # the board's supply runs on mains
        return {key: entry for key, entry in shelf.items() if not entry.converts}
    hotend = catalogue.hotends.get(setup.hotend.template)
    if item.shelf == "hotends" or hotend is None:
        return shelf
    return {key: entry for key, entry in shelf.items() if getattr(entry, "bore", hotend.bore) == hotend.bore}


def places_of(setup: Setup, shelf: str) -> tuple[str, ...]:
    """Where a machine has parts of a shelf: paths of its choices."""
    found = []
    for path in setup.paths():
        item = declaration(path)
        if isinstance(item, Choice) and item.shelf == shelf:
            found.append(path)
    return tuple(found)


def fitted_at(setup: Setup, shelf: str, key: str) -> tuple[str, ...]:
    """Where an entry of a shelf is fitted in a machine."""
    return tuple(path for path in places_of(setup, shelf) if value_at(setup, path) == key)


def hotend_of(setup: Setup, catalogue: Catalogue) -> HotendShape:
    """The hotend of a machine with the block and the nozzle that are in it, whether or not they go into each other.
    Raises DoesNotFitError: one of them is on no shelf."""
    shape = take(catalogue, "hotends", setup.hotend.template, "hotend.template")
    block = take(catalogue, "blocks", setup.hotend.block, "hotend.block")
    nozzle = take(catalogue, "nozzles", setup.hotend.nozzle, "hotend.nozzle")
    fitted: HotendShape = shape.model_copy(update={
        "block_material": block.material or shape.block_material,
        "nozzle_material": nozzle.material or shape.nozzle_material,
    })  # fmt: skip
    return fitted


def described(setup: Setup, catalogue: Catalogue) -> bool:
    """Whether anything is known of a machine's power path. Raises DoesNotFitError."""
    return bool(take(catalogue, "power_paths", setup.power.path, "power.path").described)


def fed_volts(setup: Setup, catalogue: Catalogue) -> float:
    """Volts that a hotend is fed with [V]: of the supply's terminals where the power path is described, else as the job
    states them at the board's input. Raises DoesNotFitError."""
    return setup.power.out_v if described(setup, catalogue) else setup.hotend.supply_v


def check_nozzle(setup: Setup, catalogue: Catalogue) -> None:
    """Whether the nozzle goes into the hotend. Raises DoesNotFitError."""
    shape, nozzle = hotend_of(setup, catalogue), catalogue.nozzles[setup.hotend.nozzle]
    if nozzle.material and shape.no_nozzle:
        raise DoesNotFitError("hotend.nozzle", shape.no_nozzle)
    if nozzle.long and not shape.long_melt:
        raise DoesNotFitError("hotend.nozzle", f"{nozzle.label.lower()} needs a block with a long melt zone.")


def block_emissivity(setup: Setup, catalogue: Catalogue) -> Figure:
    """Of the block, with its coating [-]. Raises DoesNotFitError."""
    of_coating: Figure | None = take(catalogue, "blocks", setup.hotend.block, "hotend.block").emissivity
    return of_coating or _emissivity(hotend_of(setup, catalogue).block_material, catalogue)


def nozzle_emissivity(setup: Setup, catalogue: Catalogue) -> Figure:
    """Of the nozzle, with its plating [-]. Raises DoesNotFitError."""
    of_plating: Figure | None = take(catalogue, "nozzles", setup.hotend.nozzle, "hotend.nozzle").emissivity
    return of_plating or _emissivity(hotend_of(setup, catalogue).nozzle_material, catalogue)


def _emissivity(material: str, catalogue: Catalogue) -> Figure:
    figure: Figure = take(catalogue, "materials", material, "hotend.template").emissivity
    return figure


def offering(item: Choice, setup: Setup, catalogue: Catalogue) -> dict[str, Any]:
    """Those of them that anybody would choose, with what is fitted now."""
    now, fits = str(value_at(setup, item.path)), fitting(item, setup, catalogue)
    return {key: entry for key, entry in fits.items() if getattr(entry, "offered", True) or key == now}


def _sources(path: str, setup: Setup) -> set[str]:
    """What may feed a load, or a further supply: not itself, and loads are not fed from the outlet."""
    there = {FIRST, *setup.supplies}
    head, _dot, rest = path.partition(".")
    return {MAINS, *there} - {rest.partition(".")[0]} if head == SUPPLIES else there
