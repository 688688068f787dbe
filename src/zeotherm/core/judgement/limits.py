"""Which limits hold for a hotend, and how much room each leaves."""

from __future__ import annotations

from dataclasses import dataclass

from zeotherm.core.catalogue.shelves import Catalogue, Limit
from zeotherm.core.twin.hotend.inputs import Inputs, Resolved


@dataclass(frozen=True, slots=True)
class Held:
    """A limit that applies here."""

    key: str
    limit: Limit
    source: str
    input_name: str  # of the inputs, where the limit is one of them; else empty

    def at(self, given: Inputs) -> float:
        """The limit's value."""
        if self.input_name:
            return float(getattr(given, self.input_name))
        assert self.limit.value is not None
        return self.limit.value

    def room(self, given: Inputs, value: float) -> float:
        """Room to the limit, positive while it holds, in the limit's unit."""
        return self.at(given) - value if self.limit.kind == "ceiling" else value - self.at(given)

    def clear_from(self, given: Inputs) -> float:
        """Room from which the place counts as clear."""
        return max(self.limit.clear, self.limit.clear_share * abs(self.at(given)))


def held(resolved: Resolved, catalogue: Catalogue) -> list[Held]:
    """The limits that apply to a hotend, in catalogue order."""
    bore = resolved.inputs.shape.bore
    found = []
    for key, limit in catalogue.limits.items():
        if limit.bore not in ("any", bore):
            continue
        if limit.figure:
            name, figure = resolved.figures[limit.figure]
            found.append(Held(key, limit, figure.source if figure else "from rating and supply", name))
        else:
            found.append(Held(key, limit, limit.source, ""))
    return found
