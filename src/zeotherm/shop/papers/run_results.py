"""A comparison of runs as plain data, for the command line and other programs."""

from __future__ import annotations

from typing import Any

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.machine.measured import Measured
from zeotherm.core.runs.assembly import Assembled
from zeotherm.core.runs.comparison import ComparedFigure
from zeotherm.wording import runs as words

CURRENCY = "£"


def comparison_as_data(found: Assembled, measured: Measured, catalogue: Catalogue) -> dict[str, Any]:
    """Runs and their comparison as plain data: numbers in their units, and the words the window shows."""
    comparison = found.comparison
    told = words.verdict(comparison, catalogue, CURRENCY)
    labels = {key: measured.runs[key].label for key in found.origins}
    return {
        "verdict": told.headline, "reason": told.reason, "labels": [group.label for group in comparison.groups],
        "lined_up": words.lined_up(found.origins, labels, catalogue),
        "nought_s": {key: line.zero for key, line in found.origins.items()},
        "nought_doubt_s": {key: line.doubt for key, line in found.origins.items()},
        "common_end_s": comparison.end,
        "figures": [_figure(row, catalogue) for row in comparison.rows],
        "conditions": [
            {"key": one.key, "label": catalogue.conditions[one.key].label, "values": list(one.values),
             "match": one.match.value, "told": words.condition(one, catalogue)}
            for one in comparison.conditions
        ],
        "notes": {key: [words.note(code) for code in measured.runs[key].notes] for key in found.origins},
    }  # fmt: skip


def _figure(row: ComparedFigure, catalogue: Catalogue) -> dict[str, Any]:
    change = row.change
    return {
        "kind": row.kind, "channel": row.channel, "other": row.other or None, "unit": row.unit,
        "target": row.target, "at_s": row.at, "normalised": row.normalised,
        "values": [None if mean is None else mean.estimate.value for mean in row.means],
        "half_widths_95": [None if mean is None else mean.half for mean in row.means],
        "runs": [None if mean is None else mean.runs for mean in row.means],
        "change": None if change is None else change.value,
        "change_half_width_95": None if change is None else change.half,
        "real": None if change is None else change.real,
        "label": words.label(row, catalogue), "told": [words.value(mean, row, CURRENCY) for mean in row.means],
        "saving": words.saving(row) or None, "told_change": words.change(change, row, CURRENCY),
        "told_real": words.real(change),
    }  # fmt: skip
