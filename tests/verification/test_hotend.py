"""The whole hotend: an independent solution, conservation, limits, directions, bands."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.verification.finite_elements import FiniteElements
from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.patches import patch_at
from zeotherm.core.parts.hotend.judge.bands import bands, moved
from zeotherm.core.parts.hotend.judge.limits import held
from zeotherm.core.parts.hotend.model.model import PARTS, build, solve, with_input
from zeotherm.core.parts.hotend.model.readout import read
from zeotherm.core.parts.hotend.model.solved import Solved, solve_hotend


def setup_with(**values: object) -> Setup:
    """A default setup with values at paths, dots written as two underscores."""
    setup = Setup()
    for path, value in values.items():
        setup = patched(setup, patch_at(path.replace("__", "."), value))
    return setup


def solved_with(**values: object) -> Solved:
    return solve_hotend(setup_with(**values), shipped())


WARM = {"surroundings__fan_air_c": 42.0, "printing__flow_mm3_s": 1.5, "hotend__sink_joint": "dry"}
TEMPLATES = [(key, shape.default_break) for key, shape in shipped().hotends.items()]


@pytest.mark.verify
@pytest.mark.parametrize(("machine", "kind"), [("Curlew", "all-metal, near failure"), ("Gannet", "lined")])
def test_finite_elements_agree(record, demo, machine, kind):
    """Bounds: margin 0.1 mm, bore 0.5 K, heater 1 %, sink base 0.3 K, volume RMS 0.3 K."""
    job = demo(machine)
    ours = solve_hotend(job.setup(), shipped())
    theirs = FiniteElements(ours.model, size=0.25e-3, strand_cells=9).solve()
    values, layout = ours.readout.values, ours.model.layout
    base = theirs.sample(
        "sink",
        np.array([layout.grid.radius[layout.part[0] == PARTS.index("sink")][-1]]),
        np.array([layout.at.neck_top + 0.05e-3]),
    )[0]
    rms = _volume_rms(ours, theirs)
    found = (
        abs(values["creep_margin"] - theirs.margin()),
        abs(values["bore"] - theirs.bore()),
        abs(ours.field.power / theirs.power - 1),
        abs(values["sink_base"] - base),
        rms,
    )
    record(
        f"Whole hotend, {kind}",
        "scikit-fem, quadratic elements",
        f"margin {found[0]:.3f} mm, bore {found[1]:.2f} K, heater {found[2]:.2%}, sink base {found[3]:.2f} K, "
        f"volume RMS {found[4]:.2f} K",
        "0.1 mm, 0.5 K, 1 %, 0.3 K, 0.3 K",
    )
    assert found[0] < 0.1
    assert found[1] < 0.5
    assert found[2] < 0.01
    assert found[3] < 0.3
    assert found[4] < 0.3


def _volume_rms(ours: Solved, theirs: FiniteElements) -> float:
    layout, grid = ours.model.layout, ours.model.layout.grid
    volume = grid.thickness[:, None] * (grid.outer**2 - grid.inner**2)
    square = total = 0.0
    for part in ("nozzle", "block", "break", "sink", "tube"):
        rows, columns = np.nonzero(layout.part == PARTS.index(part))
        there = theirs.sample(part, grid.radius[columns], grid.height[rows])
        square += float((volume[rows, columns] * (ours.field.temperature[rows, columns] - there) ** 2).sum())
        total += float(volume[rows, columns].sum())
    return math.sqrt(square / total)


@pytest.mark.parametrize(("template", "fitted"), TEMPLATES)
def test_energy_closes_and_nothing_overshoots(record, template, fitted):
    found = solved_with(hotend__template=template, hotend__break_part=fitted, **dict(WARM.items()))
    record(
        f"Energy closure, {template}",
        "first law, each flow from its own law",
        f"{found.readout.watts.closure:.0e}, overshoot {found.readout.overshoot:.3f} K",
        "1e-6, 0.1 K",
    )
    assert found.readout.watts.closure < 1e-6
    assert found.readout.overshoot < 0.1


def test_melt_behind_an_insert_is_between_that_of_a_plain_bore_and_of_a_plastic_that_conducts_so_well():
    plain = solved_with(printing__flow_mm3_s=12.0, printing__nozzle_c=205.0)
    insert = solved_with(printing__flow_mm3_s=12.0, printing__nozzle_c=205.0, hotend__nozzle="brass_insert")
    gain = insert.resolved.inputs.insert
    better = with_input(plain.resolved.inputs, "strand_conductivity", gain * plain.resolved.inputs.strand_conductivity)
    model = plain.model.like(better)
    most = float(solve(model, plain.field).temperature[-1, 0])
    cold, warm = (float(one.field.temperature[-1, 0]) for one in (plain, insert))
    assert cold + 5.0 < warm < most < 205.0
    assert insert.readout.watts.closure < 1e-6
    assert insert.readout.watts.into_filament > plain.readout.watts.into_filament


def test_finer_grid_changes_little(record, demo):
    job = demo("Curlew")
    coarse = solve_hotend(job.setup(), shipped())
    model = build(coarse.resolved.inputs, 2.0)
    fine = read(model, solve(model)).values
    apart = {
        key: abs(coarse.readout.values[key] - fine[key])
        for key in ("creep_margin", "bore", "sink_base", "heater_watts")
    }
    record(
        "Grid twice as fine",
        "the same model",
        f"margin {apart['creep_margin']:.3f} mm, bore {apart['bore']:.2f} K, sink base {apart['sink_base']:.2f} K",
        "0.05 mm, 0.3 K, 0.2 K",
    )
    assert apart["creep_margin"] < 0.05
    assert apart["bore"] < 0.3
    assert apart["sink_base"] < 0.2


SETUPS = st.fixed_dictionaries(
    {
        "template": st.sampled_from(TEMPLATES),
        "air": st.floats(10, 50),
        "volts": st.floats(10, 24),
        "nozzle": st.floats(195, 230),
        "flow": st.floats(1.0, 8.0),
        "blocked": st.floats(0, 70),
        "joint": st.sampled_from(["dry", "pasted"]),
        "retraction": st.floats(0, 3),
    }
)


def _random(draw: dict) -> Setup:
    return setup_with(
        hotend__template=draw["template"][0],
        hotend__break_part=draw["template"][1],
        hotend__sink_joint=draw["joint"],
        surroundings__fan_air_c=draw["air"],
        fan__voltage_v=draw["volts"],
        fan__guard_blocked_pct=draw["blocked"],
        printing__nozzle_c=draw["nozzle"],
        printing__flow_mm3_s=draw["flow"],
        printing__retraction_mm=draw["retraction"],
    )


DEEP_MM = -3.0  # of a front that has left the neck for the sink


@pytest.mark.verify
@settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.too_slow], derandomize=True)
@given(SETUPS)
def test_no_hardship_ever_gains_margin(draw):
    """Warmer air, weaker fan, a blocked guard, longer retraction, a drier sink joint.

    The last only while the front stands near the neck: a joint that keeps heat out of the sink cools what is far above.
    """
    setup = _random(draw)
    before = solve_hotend(setup, shipped()).readout.values
    hardships = {
        "surroundings.fan_air_c": draw["air"] + 4,
        "fan.voltage_v": draw["volts"] - 3,
        "fan.guard_blocked_pct": draw["blocked"] + 15,
        "printing.retraction_mm": draw["retraction"] + 0.5,
        "hotend.sink_joint": "dry",
    }
    for path, value in hardships.items():
        after = solve_hotend(patched(setup, patch_at(path, value)), shipped()).readout.values
        if path == "hotend.sink_joint" and before["creep_margin"] < DEEP_MM:
            continue
        for key, slack in (("creep_margin", 1e-4), ("creep_after_retraction", 1e-4), ("jam_room", 0.1)):
            assert after[key] <= before[key] + slack, (path, key)


@settings(max_examples=8, deadline=None, suppress_health_check=[HealthCheck.too_slow], derandomize=True)
@given(SETUPS)
def test_temperatures_stay_between_surroundings_and_heater(draw):
    found = solve_hotend(_random(draw), shipped())
    active = found.field.temperature[found.model.layout.active]
    coolest = min(draw["air"], 30.0, 35.0)
    assert active.min() > coolest - 0.1
    assert found.readout.watts.closure < 1e-6


def test_remedies_move_what_they_should(record):
    """Nothing of this is written into the model."""
    plain = solved_with(**WARM).readout
    pasted = solved_with(**{**WARM, "hotend__sink_joint": "pasted"}).readout
    bimetal = solved_with(**WARM, hotend__break_part="bimetal").readout
    titanium = solved_with(**WARM, hotend__break_part="titanium").readout
    wrapped = solved_with(**WARM, hotend__sleeve="fibre").readout
    change = {
        name: (after.values["bore"] - plain.values["bore"], after.values["sink_base"] - plain.values["sink_base"])
        for name, after in {"paste": pasted, "bimetal": bimetal, "titanium": titanium}.items()
    }
    duty = wrapped.watts.heater / plain.watts.heater - 1
    front = wrapped.values["creep_margin"] - plain.values["creep_margin"]
    told = ", ".join(f"{name} bore {bore:+.1f} K, sink {sink:+.2f} K" for name, (bore, sink) in change.items())
    record(
        "Remedies, from the physics",
        "known directions",
        f"{told}; wrap: front {front:+.3f} mm, heater {duty:+.0%}",
        "signs",
    )
    assert change["paste"][0] < -1
    assert change["paste"][1] > 0
    assert change["bimetal"][0] < -15
    assert change["titanium"][0] < -1
    assert change["titanium"][1] < -1
    assert abs(front) < 0.05
    assert duty < -0.08


@pytest.mark.verify
def test_bands_against_monte_carlo(record, demo):
    """500 solves with every doubtful input drawn at once; the stated 95 % band must match the drawn one."""
    job = demo("Curlew")
    solved = solve_hotend(job.setup(), shipped(), job.tolerances)
    limits = held(solved.resolved, shipped())
    stated = bands(solved, limits)
    random = np.random.default_rng(20)
    drawn: dict[str, list[float]] = {"sink_base": [], "feed": []}
    by_key = {limit.key: limit for limit in limits}
    for _ in range(500):
        inputs = solved.resolved.inputs
        for name, width in solved.resolved.doubts.items():
            inputs = moved(inputs, name, float(random.normal(0, width / 1.96)))
        model = build(inputs)
        values = read(model, solve(model, solved.field)).values
        for key, rooms in drawn.items():
            rooms.append(by_key[key].room(inputs, values[by_key[key].limit.station]))
    for key, rooms in drawn.items():
        low, high = np.percentile(rooms, [2.5, 97.5])
        middle = by_key[key].room(solved.resolved.inputs, solved.readout.values[by_key[key].limit.station])
        band = stated.rooms[key]
        inside = float(np.mean([(middle - band.down <= room <= middle + band.up) for room in rooms]))
        record(
            f"Band of the room at {key}",
            "Monte Carlo, 500 solves",
            f"stated -{band.down:.2f}/+{band.up:.2f} K, drawn -{middle - low:.2f}/+{high - middle:.2f} K; "
            f"holds {inside:.1%} of them",
            "90 to 99 %",
        )
        assert 0.90 <= inside <= 0.99
