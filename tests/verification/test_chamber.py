"""The enclosure against composite walls, closed forms, exact radiation in a box, other integrators and libraries."""

from __future__ import annotations

import math
from dataclasses import replace

import ht
import numpy as np
import pytest
from scipy.integrate import solve_ivp

from tests.core.test_chamber import CATALOGUE, CLOSED, PRINTING, setup_of
from zeotherm.core.machine.documents import patched
from zeotherm.core.parts.enclosure.judge.answer import around_of, first_case, time_constant
from zeotherm.core.parts.enclosure.judge.fit import MeasuredCase, fit_case
from zeotherm.core.parts.enclosure.model.inputs import resolve_chamber
from zeotherm.core.parts.enclosure.model.model import (
    ABOVE,
    BELOW,
    FACES,
    FRAME_HIGH,
    FRAME_LOW,
    HIGH,
    LOW,
    ChamberModel,
    EnclosureAround,
    Heated,
    Laws,
    Moved,
)
from zeotherm.core.parts.enclosure.model.solved import run_chamber, solve_chamber
from zeotherm.core.parts.whole.run import simulate
from zeotherm.core.physics.air import air
from zeotherm.core.physics.convection import rayleigh
from zeotherm.core.physics.radiation import STEFAN_BOLTZMANN, film_between, to_mean
from zeotherm.core.physics.ventilation import exchange_of_unstable_air, plume_flow


def model_of(kind: str = "bench_locker", **case: float | str) -> ChamberModel:
    return ChamberModel(resolve_chamber(setup_of(kind, **case), CATALOGUE).inputs)


class Straight(ChamberModel):
    """The same nodes with laws that do not change: what a closed form can follow."""

    INNER, OUTER, LEAK = 5.0, 9.0, 0.6

    def laws(self, values, around, heated):
        matrix, given, to_room = (np.zeros((self.count, self.count)), np.zeros(self.count), np.zeros(self.count))
        for n, wall in enumerate(self.inputs.walls):
            inner, outer = FACES + 2 * n, FACES + 2 * n + 1
            film = 0.5 * wall.area * self.INNER
            links = ((inner, LOW, film), (inner, HIGH, film), (inner, outer, wall.area / wall.resistance))
            for one, other, g in (*links, (inner, BELOW, 1.0), (inner, ABOVE, 1.0)):
                matrix[one, other] += g
                matrix[other, one] += g
                matrix[one, one] -= g
                matrix[other, other] -= g
            to_room[outer] = wall.area * self.OUTER
        for one, other in ((LOW, FRAME_LOW), (HIGH, FRAME_HIGH)):  # as warm as the air
            matrix[one, other] = matrix[other, one] = 1e5
            matrix[one, one] -= 1e5
            matrix[other, other] -= 1e5
        to_room[LOW] = to_room[HIGH] = 0.5 * self.LEAK
        matrix -= np.diag(to_room)
        given += to_room * around.room
        given[LOW] += around.low
        given[HIGH] += around.high
        return Laws(matrix, given, to_room, Moved(0.0, 0.0, 0.0, 0.0, 0.0, 1.0))


def test_walls_are_their_layers_in_a_row(record):
    """Air to room through six composite walls: exactly the sum over 1/(1/h + Σ t/k + 1/h) and the leak."""
    model = Straight(resolve_chamber(setup_of(lining="foam"), CATALOGUE).inputs)
    found = solve_chamber(model, EnclosureAround(20.0, low=40.0, high=40.0))
    whole = sum(wall.area / (1 / model.INNER + wall.resistance + 1 / model.OUTER) for wall in model.inputs.walls)
    by_hand = 20.0 + 80.0 / (whole + model.LEAK)
    off = abs(found.low - by_hand)
    record("Composite walls of a case", "resistances in a row", f"{off:.0e} K", "1e-6 K")
    assert off < 1e-6


def test_equilibrium_and_time_constant_of_the_straight_case(record):
    """Walls that hold no heat: one capacity and one loss, T = T∞ + (T₀ - T∞) exp(-t/τ)."""
    inputs = resolve_chamber(setup_of(), CATALOGUE).inputs
    light = replace(inputs, walls=tuple(replace(wall, capacity=1e-6) for wall in inputs.walls))
    model = Straight(light)
    around = EnclosureAround(20.0, low=30.0, high=30.0)
    loss = sum(wall.area / (1 / 5.0 + wall.resistance + 1 / 9.0) for wall in light.walls) + model.LEAK
    tau = float(model.heat[[LOW, HIGH, FRAME_LOW, FRAME_HIGH]].sum()) / loss
    off = time_constant(model, around) / tau - 1.0
    run = run_chamber(model, lambda _time: around, 3.0 * tau)
    at = run.moment(tau).low
    by_hand = 20.0 + 60.0 / loss * (1.0 - math.exp(-1.0))
    record(
        "Time constant of a case",
        "one capacity over one loss",
        f"{abs(off):.0e}; {abs(at - by_hand):.3f} K",
        "1e-3; 0.05 K",
    )
    assert abs(off) < 1e-3
    assert at == pytest.approx(by_hand, abs=0.05)


def test_two_airs_exchange_as_two_capacities_do(record):
    """Two halves linked by a flow, no walls to speak of: their difference dies with C/(2 G + loss)."""
    inputs = resolve_chamber(setup_of(), CATALOGUE).inputs

    class Two(ChamberModel):
        def laws(self, values, around, heated):
            matrix = np.zeros((self.count, self.count))
            matrix[LOW, HIGH] = matrix[HIGH, LOW] = 3.0
            matrix[LOW, LOW] = matrix[HIGH, HIGH] = -3.5
            matrix += np.diag([0.0, 0.0] + [-1.0] * (self.count - 2))
            to_room = np.array([0.5, 0.5] + [1.0] * (self.count - 2))
            return Laws(matrix, to_room * around.room + np.eye(self.count)[HIGH] * around.high, to_room,
                        Moved(0.0, 0.0, 0.0, 0.0, 0.0, 1.0))  # fmt: skip

    model = Two(replace(inputs, walls=()))
    heat, around = float(model.heat[0]), EnclosureAround(20.0, high=50.0)
    tau, tau_mean = heat / 6.5, heat / 0.5
    run = run_chamber(model, lambda _time: around, 3.0 * tau)
    worst = 0.0
    for share in (0.3, 1.0, 2.5):
        time = share * tau
        apart = 50.0 / 6.5 * (1.0 - math.exp(-time / tau))
        mean = 20.0 + 50.0 / 2.0 / 0.5 * (1.0 - math.exp(-time / tau_mean))
        now = run.moment(time)
        worst = max(worst, abs(now.high - now.low - apart), abs(0.5 * (now.high + now.low) - mean))
    record("Two airs that exchange", "two capacities, analytic", f"{worst:.3f} K", "0.05 K")
    assert worst < 0.05


@pytest.mark.parametrize("kind", CLOSED)
def test_energy_closes(record, kind):
    model = model_of(kind)
    still = solve_chamber(model, PRINTING)
    off = abs(sum(still.lost.values()) - still.given) / still.given
    run = run_chamber(
        model, lambda time: PRINTING if time < 14400.0 else EnclosureAround(20.0), 21600.0, switched=(14400.0,)
    )
    record(f"Case's energy, {kind}", "enters less leaves", f"{off:.0e} at rest, {run.closure:.0e} over 6 h", "1e-6")
    assert off < 1e-6
    assert run.closure < 1e-6


def test_the_same_end_from_any_start(record):
    model = model_of(heater_w=300.0, target_c=60.0, heater_at="roof", sensor_pct=90.0)
    ends = [run_chamber(model, lambda _time: PRINTING, 12.0 * 3600.0, start=start).moment(43200.0)
            for start in (5.0, 20.0, 60.0, 95.0)]  # fmt: skip
    starts = [solve_chamber(model, PRINTING, np.full(model.count, start)) for start in (5.0, 20.0, 60.0, 95.0)]
    lows = [one.low for one in (*ends, *starts)]
    record("Case from four starts", "each other", f"{max(lows) - min(lows):.0e} K", "0.01 K")
    assert max(lows) - min(lows) < 0.01


def test_against_a_general_integrator(record):
    """The same right-hand side by BDF."""
    model = model_of()
    holds = model.heat > 0.0

    def whole(values: np.ndarray) -> np.ndarray:
        full = np.full(model.count, 20.0)
        full[holds] = values
        for _turn in range(30):  # the radiant means hold nothing: they stand where their flows cancel
            laws = model.laws(full, PRINTING, Heated())
            rest = laws.given[~holds] + laws.matrix[np.ix_(~holds, holds)] @ values
            full[~holds] = np.linalg.solve(-laws.matrix[np.ix_(~holds, ~holds)], rest)
        return full

    def rate(_time: float, values: np.ndarray) -> np.ndarray:
        full = whole(values)
        laws = model.laws(full, PRINTING, Heated())
        return (laws.matrix @ full + laws.given)[holds] / model.heat[holds]

    times = np.linspace(300.0, 7200.0, 12)
    other = solve_ivp(
        rate, (0.0, 7200.0), np.full(int(holds.sum()), 20.0), method="BDF", t_eval=times, rtol=1e-7, atol=1e-6
    )
    run = run_chamber(model, lambda _time: PRINTING, 7200.0)
    worst = max(abs(run.moment(float(time)).low - other.y[LOW, n]) for n, time in enumerate(times))
    record("Case warming up", "solve_ivp BDF, the same rates", f"{worst:.3f} K", "0.1 K")
    assert worst < 0.1


def _view_factor_parallel(x: float, y: float) -> float:
    """Aligned equal rectangles, sides over their distance; Incropera & DeWitt, 6th ed., table 13.2."""
    a, b = 1 + x * x, 1 + y * y
    return 2 / (math.pi * x * y) * (
        math.log(math.sqrt(a * b / (a + b - 1))) + x * math.sqrt(b) * math.atan(x / math.sqrt(b))
        + y * math.sqrt(a) * math.atan(y / math.sqrt(a)) - x * math.atan(x) - y * math.atan(y)
    )  # fmt: skip


def _view_factors(width: float, depth: float, height: float) -> tuple[np.ndarray, np.ndarray]:
    """Of the six faces of a box among each other: floor, roof, left, right, front, back; by reciprocity and closure."""
    opposite = {0: _view_factor_parallel(width / height, depth / height),
                2: _view_factor_parallel(depth / width, height / width),
                4: _view_factor_parallel(width / depth, height / depth)}  # fmt: skip
    areas = np.array([width * depth] * 2 + [depth * height] * 2 + [width * height] * 2)
    f = np.zeros((6, 6))
    for n, value in opposite.items():
        f[n, n + 1] = f[n + 1, n] = value
    # each face sees both of a pair alike: x, y, z are the exchanges A F of the three kinds of edge
    rest = [areas[n] * (1 - opposite[n]) / 2 for n in (0, 2, 4)]
    x, y, z = np.linalg.solve([[1, 1, 0], [1, 0, 1], [0, 1, 1]], rest)  # floor-side, floor-front, side-front
    for pair, value in (((0, 2), x), ((0, 4), y), ((2, 4), z)):
        for one in (pair[0], pair[0] + 1):
            for other in (pair[1], pair[1] + 1):
                f[one, other], f[other, one] = value / areas[one], value / areas[other]
    return areas, f


@pytest.mark.parametrize("emissivity", [0.9, 0.5, 0.12])
def test_radiation_in_a_box_against_exact_exchange(record, emissivity):
    """A warm floor among cooler walls: net heat of each face by radiosities with exact view factors."""
    areas, f = _view_factors(0.56, 0.52, 0.5)
    assert f.sum(axis=1) == pytest.approx(1.0)
    e = np.array([0.9, *([emissivity] * 5)])
    kelvin = 273.15 + np.array([70.0, 30.0, 35.0, 33.0, 34.0, 36.0])
    black = STEFAN_BOLTZMANN * kelvin**4
    radiosity = np.linalg.solve(np.eye(6) - (1 - e)[:, None] * f, e * black)
    exact = areas * e / (1 - e) * (black - radiosity)
    factors = to_mean(areas, e)
    mean = float((factors * black).sum() / factors.sum())
    net = factors * (black - mean)
    off = float(np.abs(net - exact).max()) / exact[0]
    record(f"Radiation in a box, walls ε {emissivity}", "radiosities, exact view factors", f"{100 * off:.1f} %", "6 %")
    assert off < 0.06


def test_films_are_those_of_ht(record):
    model = model_of()
    left = next(n for n, one in enumerate(model.inputs.walls) if one.name == "left")
    nu = ht.Nu_vertical_plate_Churchill
    ours = model.inner_films(np.full(len(model.inputs.walls), 30.0), 45.0, 45.0, 0.0)[0][left]
    ra, pr = rayleigh(30.0, 45.0, model.inputs.height, model.inputs.pressure)
    theirs = nu(float(pr), float(ra / pr)) * float(air(37.5).conductivity) / model.inputs.height
    off = ours / theirs - 1.0
    record("Film on a case's wall", "ht, Churchill's law for all Ra", f"{100 * off:+.0f} %", "20 %")
    assert abs(off) < 0.2
    assert film_between(30.0, 30.0) == pytest.approx(4 * STEFAN_BOLTZMANN * 303.15**3)


def test_a_plume_grows_as_a_point_source_far_away():
    """Far above a small source the flow goes with the 5/3 power of height and the cube root of the watts."""
    far = [plume_flow(30.0, 1e-4, z, 20.0, 101300.0) for z in (1.0, 2.0)]
    assert far[1] / far[0] == pytest.approx(2.0 ** (5 / 3), rel=1e-2)
    assert plume_flow(240.0, 1e-4, 1.0, 20.0, 101300.0) / far[0] == pytest.approx(2.0, rel=1e-2)
    assert plume_flow(0.0, 0.2, 1.0, 20.0, 101300.0) == plume_flow(30.0, 0.2, 0.0, 20.0, 101300.0) == 0.0
    assert exchange_of_unstable_air(-1.0, 0.3, 20.0) == 0.0
    two, eight = (exchange_of_unstable_air(by, 0.3, 20.0) for by in (2.0, 8.0))
    assert eight / two == pytest.approx(2.0)


def test_leaving_radiation_out_is_visible(record):
    there = solve_chamber(model_of(), PRINTING)
    dark = solve_chamber(model_of(), replace(PRINTING, bed_rad_up=0.0, bed_rad_down=0.0))
    record(
        "Case without its bed's radiation",
        "with it",
        f"{there.low - dark.low:.1f} K, {there.bed_watts - dark.bed_watts:.0f} W",
        "shown",
    )
    assert there.low - dark.low > 1.5
    assert dark.bed_watts < 0.75 * there.bed_watts


@pytest.mark.parametrize(
    ("machine", "case"),
    [("Curlew", {}), ("Gannet", {}), ("Gannet", {"heater_w": 300.0, "heater_at": "roof", "target_c": 60.0}),
     ("Gannet", {"heater_w": 300.0, "heater_at": "roof", "target_c": 60.0, "recirculation_m3h": 40.0})],
)  # fmt: skip
def test_the_machines_hours_end_where_the_enclosure_rests(record, demo, machine, case):
    """Two halves and one wall among the machine's bodies, against all walls and radiation at rest."""
    setup = patched(demo(machine).setup(), {"case": case, "room": {"swing_k": 0.0}})
    run = simulate(setup, CATALOGUE)
    rest = first_case(setup, CATALOGUE, arounds=around_of(setup, CATALOGUE, run)).solved
    series, late = run.series, int(np.flatnonzero(run.times < run.off - 60.0)[-1])
    apart = [float(series[key][late]) - value for key, value in (("case_air", rest.low), ("case_roof", rest.high))]
    heater = run.marks[late].case.watts - rest.power
    told = "heated, mixed" if len(case) > 3 else "heated" if case else "passive"
    record(
        f"{machine}'s case late in its hours, {told}", "all walls at rest",
        f"air {apart[0]:+.1f} K, roof {apart[1]:+.1f} K, heater {heater:+.0f} W", "3 K, 6 %",
    )  # fmt: skip
    assert max(abs(one) for one in apart) < 3.0
    assert abs(heater) <= 0.06 * max(rest.power, 1.0)
    assert run.closure < 1e-6


def test_a_self_regulating_elements_fixed_point(record):
    """Straight walls and an element that fades: its watts by hand."""
    model = Straight(resolve_chamber(setup_of(heater_w=300.0, heater_fades_c=90.0, target_c=150.0), CATALOGUE).inputs)
    found = solve_chamber(model, EnclosureAround(20.0))
    slope = 300.0 / 70.0
    low_alone = solve_chamber(
        replace(model, inputs=replace(model.inputs, heater=1.0, heater_fades=0.0)), EnclosureAround(20.0)
    )
    by_watt = low_alone.low - 20.0
    by_hand = slope * 70.0 / (1.0 + slope * by_watt)
    off = abs(found.power / by_hand - 1.0)
    record("Self-regulating element in a case", "its fixed point by hand", f"{off:.0e}", "1e-6")
    assert off < 1e-6


def test_a_cases_own_curve_tells_what_it_was_made_with(record):
    """Walls, leaks and contents moved by a known share, read with noise: the fit follows them within its bands."""
    setup = setup_of("panelled_frame")
    resolved = resolve_chamber(setup, CATALOGUE)
    given = resolved.inputs
    inside, misfits = 0, []
    random = np.random.default_rng(4)
    for film, gap, content in ((1.2, 1.0, 1.0), (0.85, 1.4, 1.0), (1.0, 0.6, 1.25), (1.1, 1.3, 0.8)):
        true = replace(given, film=film, gap=gap * given.gap, content=content * given.content)
        run = run_chamber(ChamberModel(true), lambda _time: PRINTING, 10_000.0)
        times = np.linspace(0.0, 10_000.0, 200)
        air = np.array([run.moment(float(time)).low for time in times]) + random.normal(0.0, 0.2, 200)
        fit = fit_case(resolved, lambda _time: PRINTING, MeasuredCase(times, air, None))
        truth = {"film": true.film, "gap": true.gap, "content": true.content}
        inside += sum(abs(one.after - truth[one.name]) <= one.band.up for one in fit.found)
        misfits.append(fit.misfit)
    record("A case fitted to its own curve", "what it was made with", f"{inside} of 12 inside their 95 % bands, "
           f"misfit {max(misfits):.2f} K", "11 of 12")  # fmt: skip
    assert inside >= 11
    assert max(misfits) < 0.4
