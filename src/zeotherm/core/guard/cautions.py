"""What a step can hurt by on this machine: its own cautions, and what the machine adds to them."""

from __future__ import annotations

from zeotherm.core.catalogue.procedures import Step
from zeotherm.core.catalogue.shelves import Catalogue, Caution
from zeotherm.core.machine.documents import Setup

FURTHER = "further_hotends"  # a fact of a machine: another hotend is hot beside the one that is worked on


def machine_facts(setup: Setup) -> set[str]:
    """Facts of a machine that call for cautions wherever something of their sign is done."""
    return {FURTHER} if setup.toolheads else set()


def cautions_of(step: Step, setup: Setup, catalogue: Catalogue) -> list[Caution]:
    """Cautions of a step in the order they are named, with those that the machine adds for the same sign."""
    own = [catalogue.cautions[key] for key in step.cautions]
    signs, facts = {one.sign for one in own}, machine_facts(setup)
    return own + [one for one in catalogue.cautions.values() if one.when in facts and one.sign in signs]
