"""A power path at rest and over six hours, against a general integrator of the same rates; a lever's answer."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from functools import partial

import numpy as np
from scipy.integrate import solve_ivp
from tests.core.test_power import BENCH, CATALOGUE, setup_of

from benchmarks.dragging import dragged
from benchmarks.timing import interleaved
from zeotherm.core.machine.documents import patched
from zeotherm.core.parts.power.judge.answer import first_power, late_air, worst_duty
from zeotherm.core.parts.power.judge.sure import full_power
from zeotherm.core.parts.power.model.in_time import PathMoment, amps_at, run_path
from zeotherm.core.parts.power.model.inputs import resolve_path
from zeotherm.core.parts.power.model.model import Duty, PathModel, solve_path
from zeotherm.core.parts.whole.run import simulate

SIX_HOURS, WARM = 21600.0, 1200.0


def run() -> Iterator[str]:
    setup = setup_of(plug={"milliohm": 12.0})
    model = PathModel(resolve_path(setup, CATALOGUE).inputs)

    def at(time: float) -> PathMoment:
        return PathMoment(
            replace(BENCH, bed=25.0 + 50.0 * min(time / WARM, 1.0)), Duty(1.0 if time < WARM else 0.4, 0.5)
        )

    def rates(time: float, values: np.ndarray) -> np.ndarray:
        now = at(time)
        return model.balance(values, now.air, amps_at(model, now, values))[0] / model.heat

    start = solve_path(model, at(0.0).air, on=False).values
    general = partial(solve_ivp, rates, (0.0, SIX_HOURS), start, method="BDF", rtol=1e-4, atol=1e-2)
    own, other = interleaved(5, partial(run_path, model, at, SIX_HOURS, switched=(WARM,)), general)
    end = run_path(model, at, SIX_HOURS, switched=(WARM,))
    apart = abs(end.moment(SIX_HOURS).contact("plug") - float(general().y[model.at["plug"], -1]))
    yield (
        f"six hours of a path: {own * 1e3:.0f} ms; solve_ivp BDF {other * 1e3:.0f} ms; {other / own:.1f} times faster; "
        f"{apart:.0e} K apart; closure {end.closure:.0e}"
    )
    machine = patched(setup, {"case": {"part": "bench_locker", "supply_at": "inside_low"},
                              "surroundings": {"air_from": "case"}})  # fmt: skip
    whole = simulate(machine, CATALOGUE)

    def lever() -> None:
        first_power(machine, CATALOGUE, air=late_air(machine, CATALOGUE, whole),
                    duty=worst_duty(whole))  # fmt: skip

    (rest,) = interleaved(15, lever)
    answer = first_power(machine, CATALOGUE, air=BENCH)
    (full,) = interleaved(3, partial(full_power, answer))
    yield f"a path at rest in its machine's air: {rest * 1e3:.0f} ms; its bands and strengths: {full:.2f} s"
    yield dragged("power", "Dunlin", "power.lead.mm2", 1.0, 0.02)
