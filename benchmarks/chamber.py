"""A case's six hours against a general integrator of the same rates; its faults; a lever's answer."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np
from scipy.integrate import solve_ivp
from tests.core.test_chamber import CATALOGUE, PRINTING, setup_of

from benchmarks.dragging import dragged
from benchmarks.timing import interleaved
from zeotherm.core.parts.enclosure.judge.answer import first_case
from zeotherm.core.parts.enclosure.judge.sizing import gone_wrong
from zeotherm.core.parts.enclosure.model.inputs import resolve_chamber
from zeotherm.core.parts.enclosure.model.model import LOW, ChamberModel, Heated
from zeotherm.core.parts.enclosure.model.solved import run_chamber, solve_chamber

SIX_HOURS = 21600.0


def run() -> Iterator[str]:
    model = ChamberModel(resolve_chamber(setup_of(), CATALOGUE).inputs)
    holds = model.heat > 0.0

    def rate(_time: float, values: np.ndarray) -> np.ndarray:
        full = np.full(model.count, 30.0)
        full[holds] = values
        for _turn in range(3):  # the radiant means stand where their flows cancel
            laws = model.laws(full, PRINTING, Heated())
            rest = laws.given[~holds] + laws.matrix[np.ix_(~holds, holds)] @ values
            full[~holds] = np.linalg.solve(-laws.matrix[np.ix_(~holds, ~holds)], rest)
        laws = model.laws(full, PRINTING, Heated())
        return (laws.matrix @ full + laws.given)[holds] / model.heat[holds]

    start = np.full(int(holds.sum()), PRINTING.room)
    general = partial(solve_ivp, rate, (0.0, SIX_HOURS), start, method="BDF", rtol=1e-4, atol=1e-2)
    own, other = interleaved(5, partial(run_chamber, model, lambda _time: PRINTING, SIX_HOURS), general)
    end = run_chamber(model, lambda _time: PRINTING, SIX_HOURS)
    apart = abs(end.moment(SIX_HOURS).low - float(general().y[LOW, -1]))
    yield (
        f"six hours of a case: {own * 1e3:.0f} ms; solve_ivp BDF {other * 1e3:.0f} ms; {other / own:.1f} times faster; "
        f"{apart:.0e} K apart; closure {end.closure:.0e}"
    )
    (rest,) = interleaved(9, partial(solve_chamber, model, PRINTING))
    heated = first_case(setup_of(heater_w=400.0, target_c=50.0, recirculation_m3h=30.0), CATALOGUE)
    (faults,) = interleaved(3, partial(gone_wrong, heated))
    yield f"at rest after a lever: {rest * 1e3:.0f} ms; table of {len(gone_wrong(heated))} faults: {faults:.2f} s"
    yield dragged("case", "Gannet", "case.vents_open_pct", 5.0, 0.5)
