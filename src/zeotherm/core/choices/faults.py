"""Which of the catalogue's faults a machine can show."""

from __future__ import annotations

from typing import Literal

from zeotherm.core.catalogue.fitting import described
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.patches import Patch
from zeotherm.core.parts.enclosure.judge.answer import encloses

Lacks = Literal["", "power", "case"]


def lacks(change: Patch, setup: Setup, catalogue: Catalogue) -> Lacks:
    """What a machine would need before a fault's change shows anything: a described power path, or a case. Raises
    DoesNotFitError."""
    if "power" in change and not described(setup, catalogue):
        return "power"
    if "case" in change and not encloses(setup, catalogue):
        return "case"
    return ""
