"""Whether a bed may be put on a switch of its own: only with a fuse that protects its wires and a switch that carries
it, and never with a heater of the wrong voltage."""

from __future__ import annotations

from zeotherm.core.catalogue.fitting import described
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.machine.documents import Setup
from zeotherm.core.parts.power.judge.answer import first_power
from zeotherm.core.parts.power.judge.voltage import mismatches
from zeotherm.core.parts.power.model.inputs import shares_feed

Finding = tuple[str, dict[str, str]]
PASSED = {"power_fuse_wire": "fuse_large", "power_fuse": "fuse_small", "power_switch_amps": "switch_small"}


def switch_guard(setup: Setup, catalogue: Catalogue) -> Finding:
    """What forbids this machine's own switch of the bed, with the figures of it; nothing where nothing does.

    Findings: none, voltage, no_fuse, fuse_large, fuse_small, switch_small.
    """
    if not described(setup, catalogue) or shares_feed(setup, catalogue):
        return "none", {}
    wrong = [one for one in mismatches(setup, catalogue) if one.part == "bed"]
    if wrong:
        return "voltage", {"rated": f"{wrong[0].rated_v:g}", "gets": f"{wrong[0].gets_v:g}"}
    try:
        answer = first_power(setup, catalogue)
    except DoesNotFitError:
        return "none", {}
    if answer.unfused:
        return "no_fuse", {"amps": f"{answer.full.amps.bed:.1f}"}
    for key, finding in PASSED.items():
        margin = answer.margin(key)
        if margin is not None and margin.value is not None and margin.state.bad:
            return finding, {"has": f"{margin.value:.1f}", "limit": f"{margin.limit:.1f}"}
    return "", {}
