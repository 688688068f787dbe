"""Wires and joints against closed forms, a published table, hand-solved ladders, an independent library and itself."""

from __future__ import annotations

import itertools
import math
import random
from dataclasses import replace

import ht
import numpy as np
import pytest
from scipy.integrate import solve_ivp

from tests.core.test_power import BENCH, CATALOGUE, answer_of, setup_of
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.supplies import FIRST, FURTHER, LOADS, MAINS
from zeotherm.core.parts.power.judge.answer import (
    asked_of,
    behind_fuse,
    carries,
    duties,
    first_power,
    with_power_course,
)
from zeotherm.core.parts.power.model import model as power_model
from zeotherm.core.parts.power.model import supply
from zeotherm.core.parts.power.model.in_time import PathMoment, run_path
from zeotherm.core.parts.power.model.inputs import BOARD_OWN_W, CONTACTS, WIRES, WireIn, resolve_path
from zeotherm.core.parts.power.model.model import (
    FULL,
    Amps,
    Duty,
    PathAir,
    PathModel,
    WireCells,
    amps_of,
    solve_path,
)
from zeotherm.core.parts.power.model.supply import at_wall
from zeotherm.core.parts.whole.run import simulate
from zeotherm.core.physics.convection import rayleigh
from zeotherm.core.physics.wiring import (
    carried_current,
    fin_conductance,
    nusselt_horizontal_cylinder,
    runaway_contact,
    runaway_current,
)

AIR = PathAir(25.0, 25.0, 25.0, 25.0, 25.0, 25.0, 25.0)
AWAY = 0.12  # W/mK, held constant where a closed form wants it


def flowing(amps: float) -> Amps:
    """A current that is told, not found, through feed and bed."""
    return Amps(amps, amps, 0.0, amps, amps, 0.0)


def bare(**power: object) -> PathModel:
    """A path whose contacts give nothing to air and bodies, its wires as much at every temperature."""
    inputs = resolve_path(setup_of(**power), CATALOGUE).inputs
    quiet = {name: replace(getattr(inputs, name), to_air=0.0, to_body=0.0) for name in CONTACTS}
    return PathModel(replace(inputs, **quiet), per_metre=AWAY)


def rest(model: PathModel, amps: float) -> np.ndarray:
    """Temperatures with a current that is told, not found."""
    flows, values = flowing(amps), np.full(model.count, 25.0)
    for _turn in range(60):
        flow, slopes = model.balance(values, AIR, flows)
        values = values + np.linalg.solve(slopes, flow)
    return values


def test_the_film_of_a_wire_is_the_librarys(record):
    worst = 0.0
    for surface, diameter in itertools.product((30.0, 45.0, 80.0), (1.5e-3, 3e-3, 6e-3)):
        ra, pr = rayleigh(surface, 25.0, diameter, 101325.0)
        own = float(nusselt_horizontal_cylinder(ra, pr))
        theirs = ht.Nu_horizontal_cylinder_Churchill_Chu(float(pr), float(ra / pr))
        worst = max(worst, abs(own / theirs - 1.0))
    record("Film about a wire", "`ht`, Churchill & Chu", f"{worst:.0e}", "1e-6")
    assert worst < 1e-6


def test_a_long_wire_carries_what_the_published_table_says(record):
    """Two PVC wires in free air at 30 °C, conductor at 70 °C: IEC 60364-5-52, table B.52.10, column 2, copper."""
    table = {1.5: 22.0, 2.5: 30.0, 4.0: 40.0, 6.0: 51.0}
    thick = {1.5: 0.75, 2.5: 0.75, 4.0: 0.8, 6.0: 0.9}
    worst = 0.0
    for mm2, amps in table.items():
        wire = WireIn(1e-6 * mm2, 1.0, 1.7241e-8, 0.00393, 395.0, 3.45e6, 1e-3 * thick[mm2], 0.17, 2.0, 70.0)
        away = float(WireCells(wire, 1.0, 101325.0).per_metre(np.array([70.0]), 30.0)[0])
        own = carried_current(away, wire.resistivity / wire.area, 40.0, wire.per_k, 30.0)
        worst = max(worst, abs(own / amps - 1.0))
    record("Current that a wire carries", "published table, four sizes", f"{100 * worst:.1f} %", "8 %")
    assert worst < 0.08


def test_a_long_wires_middle_is_the_ampacity_formulas(record):
    model = bare(lead={"mm2": 1.5, "metres": 3.0})
    amps, wire = 14.0, model.lines["lead"].wire
    middle = rest(model, amps)[model.rows["lead"]][len(model.lines["lead"].lengths) // 2]
    told = carried_current(AWAY, wire.resistivity / wire.area, middle - 25.0, wire.per_k, 25.0)
    record("Middle of a long wire", "I² r(T) = G' ΔT", f"{abs(told - amps):.1e} A", "2e-3 A")
    assert abs(told - amps) < 2e-3


def joint(coarser: float) -> tuple[float, float]:
    """A joint's rise over its wire's own, and the closed form's: q / √(k A (G' - I² r α)) of one fin."""
    first, growth, most = power_model.FIRST_CELL, power_model.CELL_GROWTH, power_model.MOST_CELLS
    try:
        power_model.FIRST_CELL, power_model.CELL_GROWTH = coarser * first, growth**coarser
        power_model.MOST_CELLS = 200
        model = bare(lead={"mm2": 1.5, "metres": 6.0}, plug={"milliohm": 8.0}, tabs={"milliohm": 0.0001})
    finally:
        power_model.FIRST_CELL, power_model.CELL_GROWTH, power_model.MOST_CELLS = first, growth, most
    amps, wire = 9.0, model.lines["lead"].wire
    values = rest(model, amps)
    plug, told = values[model.at["plug"]], model.inputs.plug
    middle = values[model.rows["lead"]][len(model.lines["lead"].lengths) // 2]
    heat = amps**2 * told.ohms * (1.0 + told.per_k * (plug - 20.0))
    left = AWAY - amps**2 * wire.resistivity / wire.area * wire.per_k
    return plug - middle, heat / fin_conductance(wire.metal_k, wire.area, left)


def test_a_joint_on_a_long_wire_is_the_analytic_fins(record):
    errors = [abs(own / exact - 1.0) for own, exact in (joint(coarser) for coarser in (2.0, 1.0, 0.5))]
    order = math.log2(errors[1] / errors[2])
    record("Joint on a long wire", "infinite fin, √(k A G')", f"{100 * errors[1]:.2f} %, order {order:.1f}", "1 %")
    assert errors[1] < 0.01
    assert order > 1.5


def test_runaway_begins_where_the_closed_forms_say(record):
    """The slopes' least eigenvalue changes sign at the current, and at the milliohms, of the closed form."""

    def holds(model: PathModel, amps: float) -> bool:
        slopes = model.balance(np.full(model.count, 25.0), AIR, flowing(amps))[1]
        return float(np.linalg.eigvalsh(slopes).min()) > 0.0

    def boundary(low: float, high: float, stands) -> float:
        for _turn in range(40):
            middle = 0.5 * (low + high)
            low, high = (middle, high) if stands(middle) else (low, middle)
        return low

    model = bare(lead={"mm2": 1.0, "metres": 30.0}, feed={"mm2": 10.0, "metres": 0.1}, plug={"milliohm": 0.001},
                 tabs={"milliohm": 0.001})  # fmt: skip
    wire = model.lines["lead"].wire
    found = boundary(1.0, 200.0, lambda amps: holds(model, amps))
    told = runaway_current(AWAY, wire.resistivity / wire.area, wire.per_k)
    by_current = abs(found / told - 1.0)

    amps = 15.0
    feed = {"mm2": 1.5, "metres": 8.0}
    one = bare(lead={"mm2": 1.5, "metres": 8.0}, feed=feed, tabs={"milliohm": 0.001})
    given, wire = one.inputs, one.lines["lead"].wire

    def contact(ohms: float) -> bool:
        return holds(PathModel(replace(given, plug=replace(given.plug, ohms=ohms)), per_metre=AWAY), amps)

    found = boundary(1e-4, 5.0, contact)
    told = 0.5 * runaway_contact(amps, wire.metal_k, wire.area, AWAY, wire.resistivity / wire.area, wire.per_k,
                                 given.plug.per_k)  # fmt: skip
    by_contact = abs(found / told - 1.0)  # of one wire: the plug's other side is a board
    worst = max(by_current, by_contact)
    closed = "I² r α = G'; I² R β = √(k A (G' - I² r α))"
    record("Where a wire and a joint run away", closed, f"{100 * worst:.2f} %", "1 %")
    assert worst < 0.01


def test_volts_are_the_hand_solved_ladders(record):
    """Cold, without growth of any resistance: a divider and a tap, by Ohm's law on paper."""
    inputs = resolve_path(setup_of(plug={"milliohm": 5.0}), CATALOGUE).inputs
    parts = {name: replace(getattr(inputs, name), per_k=0.0) for name in (*CONTACTS, *WIRES, "switch")}
    model = PathModel(replace(inputs, **parts, bed_per_k=0.0))
    solved = solve_path(model, AIR, duty=Duty(0.8, 0.3))
    ohms = {name: 2.0 * getattr(inputs, name).resistivity * getattr(inputs, name).length / getattr(inputs, name).area
            for name in WIRES}  # fmt: skip
    ohms |= {name: getattr(inputs, name).ohms + getattr(inputs, name).good for name in CONTACTS}
    before = ohms["supply_terminal"] + ohms["feed"] + ohms["feed_terminal"]
    behind = inputs.switch.ohms + ohms["plug"] + ohms["lead"] + ohms["tabs"] + inputs.bed_ohms
    tap = inputs.others / inputs.volts
    heater = ohms["heater_terminal"] + ohms["heater_lead"] + ohms["heater_plug"] + inputs.heater_ohms
    loops = np.array([[before + behind, 0.3 * before], [0.8 * before, before + heater]])
    bed, hot = np.linalg.solve(loops, np.full(2, inputs.volts - tap * before))
    off = max(abs(solved.amps.bed - bed), abs(solved.bed_volts - bed * inputs.bed_ohms), abs(solved.amps.heater - hot))
    square = sum(share * other * (on * bed + both * hot + tap) ** 2
                 for on, share in ((1.0, 0.8), (0.0, 0.2)) for both, other in ((1.0, 0.3), (0.0, 0.7)))  # fmt: skip
    off = max(off, abs(solved.amps.feed_mean - math.sqrt(square)))
    record("Volts and amps of a path", "ladder solved by hand", f"{off:.0e}", "1e-9")
    assert off < 1e-9


def test_electrical_in_is_thermal_out_and_what_the_loads_take(record):
    worst = 0.0
    for power in ({}, {"plug": {"milliohm": 18.0}}, {"lead": {"mm2": 0.5, "metres": 2.0}, "feed": {"bundle": 12.0}},
                  {"path": "bed_by_module", "switch": "relay"}):  # fmt: skip
        solved = answer_of(**power).full
        given, amps = solved.model.inputs, solved.amps
        shares = given.kind.shared_feed
        put_in = given.volts * amps.feed + (0.0 if shares else given.heater_volts * amps.heater)
        on_feed = sum(solved.lost(name) for name in power_model.FEED)
        hotend = solved.heater_watts + amps.heater * sum(solved.lost(name) for name in power_model.HOTEND)
        others = given.others / given.volts * (given.volts - on_feed) if shares else 0.0
        taken = solved.bed_watts + solved.path_watts - given.switch.own + hotend + others
        made, shed = solved.shed
        worst = max(worst, abs(put_in / taken - 1.0), abs(made / shed - 1.0))
    record("Energy of a path at rest", "electrical in = heat out + work", f"{worst:.0e}", "1e-6")
    assert worst < 1e-6


def test_a_path_in_time_follows_another_integrator_and_keeps_its_heat(record):
    model = PathModel(resolve_path(setup_of(plug={"milliohm": 12.0}), CATALOGUE).inputs)

    def at(time: float) -> PathMoment:
        return PathMoment(
            replace(BENCH, bed=25.0 + 50.0 * min(time / 600.0, 1.0)), Duty(1.0 if time < 900.0 else 0.4, 0.5)
        )

    run = run_path(model, at, 3600.0, switched=(600.0, 900.0))
    from zeotherm.core.parts.power.model.in_time import amps_at

    def rates(time: float, values: np.ndarray) -> np.ndarray:
        now = at(time)
        return model.balance(values, now.air, amps_at(model, now, values))[0] / model.heat

    values, off = run.values[0], 0.0
    for start, stop in ((0.0, 600.0), (600.0, 900.0), (900.0, 3600.0)):
        times = np.linspace(start, stop, 7)[1:] - 1e-6
        exact = solve_ivp(rates, (start, stop), values, "BDF", times, rtol=1e-8, atol=1e-6)
        for time, column in zip(times, exact.y.T, strict=True):
            off = max(off, abs(run.moment(float(time)).contact("plug") - column[model.at["plug"]]))
        values = exact.y[:, -1]
    still = solve_path(model, at(3600.0).air, duty=Duty(0.4, 0.5)).contact("plug")
    record("A path in time", "`solve_ivp` BDF on the same rates", f"{off:.2f} K", "0.3 K")
    record("Energy of a path, 1 h", "made - given = held", f"{run.closure:.0e}", "1e-6")
    assert off < 0.3
    assert run.closure < 1e-6
    assert abs(run.moment(3600.0).contact("plug") - still) < 0.3


def test_a_whole_machines_six_hours_close(record):
    setup = patched(setup_of(), {"case": {"part": "bench_locker", "supply_at": "inside_low"},
                                 "surroundings": {"air_from": "case"},
                                 "schedule": {"print_min": 300.0, "soak_min": 5.0, "cool_min": 30.0}})  # fmt: skip
    run = simulate(setup, CATALOGUE)
    answer = with_power_course(answer_of(), run)
    record("Energy of a path over a job", "made - given = held", f"{answer.run.closure:.0e}", "1e-6")
    assert answer.run.closure < 1e-6
    beds, hotends = duties(run)
    assert beds.max() == pytest.approx(1.0, abs=0.02)
    assert 0.9 < hotends.max() <= 1.0
    assert answer.run.times[-1] == pytest.approx(run.times[-1])


def test_derating_and_coincidence_by_enumeration(record):
    """Every subset of loads that may be on together: none asks for more than all, and the inlet's limit is where the
    enumerated curve meets what is asked."""
    answer = answer_of(motors_w=20.0, fans_w=9.0, lights_w=5.0)
    given = answer.resolved.inputs
    hotend = given.heater_volts * answer.full.amps.heater
    loads = {"motors": 20.0, "fans": 9.0, "lights": 5.0, "board": 8.0, "hotend": hotend,
             "bed": answer.asked - given.others - hotend}  # fmt: skip
    sums = [sum(loads[name] for name in chosen) for n in range(len(loads) + 1)
            for chosen in itertools.combinations(loads, n)]  # fmt: skip
    off = abs(max(sums) - answer.asked)
    share = answer.asked / given.rating
    inlets = np.linspace(20.0, 74.9, 200_000)
    gives = np.array([supply.derated(given.supply, float(one)) for one in inlets[::100]])
    meets = float(inlets[::100][gives >= min(share, 1.0)].max()) if share <= 1.0 else given.supply.full_to_c.value
    off = max(off, 0.1 * max(abs(meets - supply.inlet_limit(given.supply, share)) - 0.03, 0.0))
    record("Coincidence and derating", "all 64 subsets; the curve, point by point", f"{off:.0e}", "1e-6")
    assert off < 1e-6
    assert asked_of(answer.full, 20.0) == pytest.approx(answer.asked)
    assert carries(answer, behind_fuse(answer.resolved.inputs)) > 20.0


def test_the_wall_gives_what_all_loads_and_supplies_take(record):
    """Energy over supplies and rails in chains: every load, and what each supply loses by its own efficiency."""
    rng, worst = random.Random(3), 0.0
    for _n in range(300):
        answer = first_power(supplied(rng), CATALOGUE)
        given, power, full = answer.resolved.inputs, answer.setup.power, answer.full
        amps = amps_of(full.model, full, FULL, answer.setup.room.mean_c)
        loads = power.motors_w + power.fans_w + power.lights_w + BOARD_OWN_W
        loads += given.heater_volts * amps.heater + given.volts * amps.bed
        lost = sum(at_wall(one.kind, one.asked, one.rating) - one.asked for one in answer.supplies)
        worst = max(worst, abs(answer.values["power_wall"] / (loads + lost) - 1.0))
    record("At the wall, 300 machines of one to four supplies", "all loads and losses", f"{worst:.0e}", "1e-9")
    assert worst < 1e-9


def supplied(rng: random.Random) -> Setup:
    """A machine with up to three further supplies, mains ones and rails in chains, its loads on any of them."""
    numbers = rng.sample(FURTHER, rng.randint(0, 3))
    made: dict[str, dict] = {}
    for number in numbers:
        before = {FIRST: 24.0} | {key: one["out_v"] for key, one in made.items()}
        source = rng.choice([MAINS, *before])
        volts = rng.choice((5.0, 12.0, 24.0, 36.0, 48.0))
        rail = source != MAINS
        volts = volts if not rail or volts != before[source] else volts - 1.0
        up = rail and volts > before[source]
        kind = ("step_up" if up else "step_down") if rail else rng.choice(("boxed_fan", "boxed_fanless", "brick"))
        made[number] = {"supply": kind, "fed_by": source, "out_v": volts, "supply_w": rng.uniform(20.0, 600.0),
                        "supply_at": rng.choice(list(CATALOGUE.places)), "years": rng.uniform(0.0, 9.0)}  # fmt: skip
    loads = {f"{load}_from": rng.choice([FIRST, *made]) for load in LOADS}
    figures = {"lights_w": rng.uniform(0.0, 30.0), "motors_w": rng.uniform(5.0, 80.0), "path": "bed_by_module"}
    return patched(Setup(), {"supplies": made, "power": {**loads, **figures}})
