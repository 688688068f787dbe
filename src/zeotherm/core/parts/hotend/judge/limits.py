"""Which limits hold for a hotend, and how much room each leaves."""

from __future__ import annotations

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.judgement.limits import Held
from zeotherm.core.judgement.margins import Margin, margin_at, worst_first
from zeotherm.core.parts.hotend.judge.bands import Bands
from zeotherm.core.parts.hotend.model.inputs import Resolved
from zeotherm.core.parts.hotend.model.solved import Solved


def held(resolved: Resolved, catalogue: Catalogue) -> list[Held]:
    """The limits that apply to a hotend, in catalogue order."""
    bore = resolved.inputs.shape.bore
    found = []
    for key, limit in catalogue.limits.items():
        missing = limit.needs and getattr(resolved.inputs, limit.needs) <= 0.0
        if limit.part != "hotend" or limit.bore not in ("any", bore) or missing:
            continue
        if limit.figure:
            name, figure = resolved.figures[limit.figure]
            source = limit.source or (figure.source if figure else "from rating and supply")
            found.append(Held(key, limit, source, name))
        else:
            found.append(Held(key, limit, limit.source, ""))
    return found


def margins(solved: Solved, limits: list[Held], bands: Bands | None) -> list[Margin]:
    """Every limit's margin, worst first: by the probability that it holds, then by room over what counts as clear."""
    given, values = solved.resolved.inputs, solved.readout.values
    return worst_first([margin_at(given, limit, values.get(limit.limit.station), bands) for limit in limits])
