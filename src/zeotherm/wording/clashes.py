"""What does not go together, in words."""

from __future__ import annotations

from typing import Any

from zeotherm.core.guard.clashes import ClashFound
from zeotherm.core.machine.documents import declaration
from zeotherm.wording.language import _, begun
from zeotherm.wording.numbers import with_unit

HEAD = _("Does not go together")
MAY = _("May not go together")
NONE = _("Everything entered for the hotend goes together.")


def sentence(one: ClashFound) -> str:
    """'PLA, carbon-fibre wears out a brass nozzle within spools. Take a hardened or carbide nozzle.'"""
    text = f"{one.rule.says} {one.rule.do}".format(**{name: _shown(*told) for name, told in one.figures.items()})
    if one.unknown:
        facts = ", ".join(begun(declaration(path).label) for path in one.unknown)
        text += " " + _("Not certain: {facts} not entered.").format(facts=facts)
    return f"{one.toolhead}: {text}" if one.toolhead else text


def head(one: ClashFound) -> str:
    """Whether it is sure."""
    return MAY if one.unknown or one.rule.state == "unknown" else HEAD


def _shown(value: Any, unit: str) -> str:
    if value is None:
        return _("not known")
    return with_unit(float(value), unit, 0 if unit == "°C" else None) if unit else str(value)


def as_data(one: ClashFound) -> dict[str, Any]:
    """One of them as plain data."""
    return {"key": one.key, "toolhead": one.toolhead, "state": one.rule.state, "sure": not one.unknown,
            "text": sentence(one), "unknown": list(one.unknown)}  # fmt: skip
