"""How far a setup is from a sound machine, at one path."""

from __future__ import annotations

from zeotherm.core.catalogue.knowledge import Reference
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup

RATED = "rated"  # stands for what the fitted fan is made for [V]


def good_of(reference: Reference, setup: Setup, catalogue: Catalogue) -> float | str:
    """What a sound machine of these parts has, in the unit of the path."""
    return catalogue.fans[setup.fan.part].rated_v if reference.good == RATED else reference.good


def departs(value: float | str, good: float | str, reference: Reference) -> bool:
    """Whether a value is worse than good by so much that it is worth a word."""
    if isinstance(value, str) or isinstance(good, str):
        return value != good
    by = {"above": value - good, "below": good - value, "other": abs(value - good)}[reference.worse]
    return by >= max(reference.at_least, 1e-9)
