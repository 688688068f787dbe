"""What the bench's smaller reckonings say, kept figure by figure: of runs, of tables of text, of work orders and waits,
of wirings. A sign that changes anywhere in them is noticed here.

`python -m tests.golden.bench` writes them anew: only where they are meant to change, and the commit says why.
"""

from __future__ import annotations

import itertools
import json
import re
from collections.abc import Callable, Iterator
from dataclasses import asdict, is_dataclass, replace
from enum import Enum
from pathlib import Path
from typing import Any

import numpy as np

from tests.golden.answers import demo
from zeotherm.core.catalogue import shipped
from zeotherm.core.guard.wires import WireSite
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.doing import Doing, DoneStep, HoldReading
from zeotherm.core.machine.wiring import Link, Wiring
from zeotherm.core.parts.power.judge.nets import RIGHT, Nets, WiringDemand, check, proposed, usual_feed
from zeotherm.core.runs import figures
from zeotherm.core.runs.figures import AlignedRun, Doubt
from zeotherm.core.runs.series import Series
from zeotherm.core.work.holding import forecast, held, weigh
from zeotherm.core.work.planning import NoWayError, choices_of, fits, order, refusal, settled, tools
from zeotherm.core.work.proving import (
    height,
    in_order,
    liner_gap,
    most_drawn,
    needed_preload,
    offered,
    prime_line,
    proof,
    suggested,
    temperature_window,
)
from zeotherm.core.work.waits import (
    CoolingCurve,
    body,
    falling,
    loose_body,
    loose_nozzle,
    on_the_bench,
    rough,
    settled_after,
    touch_limit,
    warm_through,
)
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files.job_files import read_job
from zeotherm.shop.files.number_style import Style
from zeotherm.shop.files.tables import columns_of, is_value, number, table_of, with_style
from zeotherm.shop.places import demo_jobs

FILE = Path(__file__).with_name("bench.json")
CATALOGUE = shipped()
FIGURES = re.compile(r"\d[\d.,]*")
STAMP = "2026-03-02T10:00:00"


def plain(one: Any) -> Any:
    """Anything as it is kept: numbers to twelve digits."""
    if isinstance(one, np.ndarray):
        return plain(one.tolist())
    if isinstance(one, bool | str) or one is None:
        return one
    if isinstance(one, int | float | np.floating | np.integer):
        return float(f"{float(one):.12g}") if np.isfinite(float(one)) else str(float(one))
    if isinstance(one, Enum):
        return one.value
    if is_dataclass(one) and not isinstance(one, type):
        return plain(asdict(one))
    if isinstance(one, dict):
        return {str(key): plain(value) for key, value in one.items()}
    if isinstance(one, set | frozenset):
        return sorted(str(each) for each in one)
    if isinstance(one, list | tuple):
        return [plain(each) for each in one]
    return plain(one.model_dump(mode="json")) if hasattr(one, "model_dump") else str(one)


def tried(work: Callable[[], Any]) -> Any:
    """What it gives, or what it raises."""
    try:
        return plain(work())
    except (ValueError, ShopError, KeyError, NoWayError) as wrong:
        return f"{type(wrong).__name__}: {' '.join(FIGURES.findall(str(wrong)))}"  # its words may change


# runs


def logged() -> Iterator[tuple[str, AlignedRun]]:
    """Runs on their clocks: long, short, noisy, drifting, with a counter, with volts and amps."""
    for name, (rise, end, step, noise) in {
        "long": (110.0, 2400.0, 5.0, 0.0),
        "noisy": (110.0, 1800.0, 4.0, 0.4),
        "weak": (30.0, 1200.0, 10.0, 0.1),
        "coarse": (150.0, 900.0, 60.0, 0.0),
        "short": (110.0, 150.0, 5.0, 0.2),
        "few": (110.0, 140.0, 12.0, 0.0),
    }.items():
        chance = np.random.default_rng(7)
        time = np.arange(0.0, end, step)
        climb = 20.0 + rise * (1.0 - np.exp(-np.maximum(time - 120.0, 0.0) / 500.0))
        over = 1.5 * np.exp(-(((time - 420.0) / 40.0) ** 2))
        bed = (
            np.minimum(climb, 60.0) + over + chance.normal(0.0, noise, len(time))
            if noise
            else (np.minimum(climb, 60.0) + over)
        )
        watts = np.where(time < 120.0, 6.0, np.where(climb < 60.0, 206.0, 86.0 + 20.0 * np.sin(time / 30.0)))
        energy = np.round(np.cumsum(watts * step) / 3.6e6, 3)
        values = {
            "bed": bed,
            "room": 20.0 + 0.0005 * time,
            "power": watts,
            "energy": energy,
            "electronics": 24.0 + 0.003 * time,
        }
        doubts = {"power": Doubt(0.5, 0.02, 0.2)} if name == "long" else {}
        yield name, AlignedRun(Series(time, values, None), 120.0, end - 200.0, 6.0, doubts, CATALOGUE)


def of_runs() -> Iterator[tuple[str, Any]]:
    for name, run in logged():
        half = 0.5 * (run.on + float(run.series.time[-1]))
        for target in (40.0, 60.0, 61.2, 22.0):
            for figure in (figures.to_target, figures.rate):
                yield f"{name} {figure.__name__} {target}", figure(run, "bed", target)
            for end in (run.off, float(run.series.time[-1]), half):
                yield f"{name} overshoot {target} {end}", figures.overshoot(run, "bed", target, end)
        for begin, end in ((run.on, run.off), (half, run.off), (0.0, half), (run.off, run.off + 1.0), (5e4, 6e4)):
            where = f"{begin} {end}"
            for channel in ("bed", "electronics", "power", "absent"):
                for figure in (figures.level, figures.ripple, figures.peak, figures.end_value):
                    yield f"{name} {figure.__name__} {channel} {where}", figure(run, channel, begin, end)
            for figure in (figures.rise, figures.kelvin_hours):
                yield f"{name} {figure.__name__} {where}", figure(run, "bed", "room", begin, end)
            for idle in (None, (6.0, 0.2)):
                yield f"{name} energy {where} {idle}", figures.energy(run, begin, end, idle)
            yield f"{name} counted {where}", figures.counted(run, begin, end)
        one, other = figures.level(run, "bed", 0.0, half), figures.level(run, "power", 0.0, half)
        if one is not None and other is not None:
            yield f"{name} ratio", figures.ratio(one, other, 1.3)
            yield f"{name} no ratio", figures.ratio(one, replace(other, value=0.0))
            yield f"{name} cost", figures.cost(other, 0.31)
    time = np.arange(0.0, 3600.0, 10.0)
    counter = np.round(np.cumsum(np.where(time < 1800.0, 200.0, 80.0) * 10.0) / 3.6e6, 3)
    electric = {
        "voltage": np.full(360, 230.0),
        "current": np.linspace(0.5, 1.0, 360),
        "power_factor": np.full(360, 0.9),
    }
    for name, values in {
        "product": electric,
        "apparent": {key: electric[key] for key in ("voltage", "current")},
        "counter": {"energy": counter},
        "both": {**electric, "power": np.linspace(100.0, 210.0, 360)},
        "off": {**electric, "power": np.linspace(50.0, 120.0, 360)},
        "none": {"bed": time},
        "idle": {**electric, "power": np.full(360, 3.0)},
    }.items():
        series, said = figures.with_power(Series(time, values, None))
        yield f"power by {name}", [said, series.values["power"][::40] if "power" in series.values else None]


# tables

TEXTS = {
    "plain": "time,bed\n0,21.5\n10,22.5\n20,\n",
    "semicolons": "Zeit;Bett\n0;21,5\n10;22,5\n20;23,5\n",
    "tabs": "time\tbed\troom\n0\t21.5\t20\n10\t22.5\t20\n",
    "spaces": "time   bed  room\n0      21.5  20\n10     22.5  20\n",
    "comments": "# made by hand\n// again\ntime,bed\n0,21.5\n10,22.5\n",
    "no header": "0,21.5\n10,22.5\n20,23.5\n",
    "units below": "time,bed\ns,°C\n0,21.5\n10,22.5\n",
    "twice": "time,bed\n0,21.5\ntime,bed\n10,22.5\n20,23.5\n",
    "doubles": "time,bed,bed\n0,21.5,20\n10,22.5,21\n",
    "quoted": '"time","the ""bed"", °C"\n"0","1,021.5"\n"10","22.5"\n',
    "quoted over lines": '"time","bed\nleft"\n0,21.5\n10,22.5\n',
    "words after": "time,bed\n0,21.5\n10,22.5\nend of log\n",
    "ragged": "time,bed,room\n0,21.5\n10,22.5,20\n20,23.5,20\n",
    "too long": "time,bed\n0,21.5,3\n10,22.5\n",
    "one a row": "time,name,value\n0,bed,21.5\n0,room,20\n10,bed,22.5\n10,room,20.5\n20,bed,23.5\n",
    "json rows": '[{"time": 0, "bed": {"left": 21.5}}, {"time": 10, "bed": {"left": 22.5}, "room": 20}]',
    "json columns": '{"time": [0, 10], "bed": [21.5, 22.5]}',
    "json wrapped": '{"log": [{"time": 0, "bed": 21.5}]}',
    "json nothing": "{}",
    "json broken": '[{"time": 0',
    "json words": '{"note": "nothing"}',
    "empty": "",
    "one line": "time,bed\n",
    "no table": "some words\nand others\n",
    "many": ",".join(f"c{n}" for n in range(600)) + "\n" + ",".join("1" * 600) + "\n",
    "grouped": "time;watts\n0;1.234,5\n10;2.345,5\n20;3.456,5\n",
    "even": "time,bed\n" + "".join(f"{n},2{n}\n" for n in range(9)),
    "blank cells": "time, bed ,room\n0, 21.5 ,\n10,,20\n",
    "dropouts": "time,bed\n0,nan\n10,--\n20,23.5\n30,n/a\n",
}


def of_tables() -> Iterator[tuple[str, Any]]:
    for name, text in TEXTS.items():

        def told(text: str = text, name: str = name) -> Any:
            table = with_style(table_of(text, name), {})
            rows = range(len(table.lines))
            return [
                table.titles,
                table.separator,
                table.lines,
                [table.number(row) for row in rows],
                table.even,
                table.skipped,
                table.notes,
                table.shown(2),
                [table.column(n) for n in range(len(table.titles))],
                columns_of(table, list(range(len(table.titles))), lambda: False, lambda _share: None),
            ]

        yield name, tried(told)
    for text in ("1", "1.5", " -2e3 ", "1,5", "x", "", "nan", "inf", "1 000", "+4", "12:30", "0x10"):
        yield f"number {text!r}", [number(text), is_value(text)]
    yield "style", Style()


# work


def machines() -> dict[str, Setup]:
    lined = patched(Setup(), {"hotend": {"template": "compact_lined", "break_part": "lined_steel"}})
    return {**dict(demo()), "plain": Setup(), "lined": lined}


def of_orders() -> Iterator[tuple[str, Any]]:
    for machine, setup in machines().items():
        works = [key for key, one in CATALOGUE.procedures.items() if fits(one, setup, CATALOGUE)]
        yield f"{machine} fits", works
        for key in CATALOGUE.procedures:
            doing = Doing(procedures=[key])
            yield f"{machine} {key}", tried(lambda doing=doing, setup=setup: told_order(doing, setup))
            one = CATALOGUE.procedures[key]
            yield f"{machine} refused {key}", bool(refusal(one, doing, setup, CATALOGUE))
        both = Doing(procedures=in_order(works[:4][::-1], CATALOGUE))
        yield f"{machine} together", tried(lambda both=both, setup=setup: told_order(both, setup))
        yield f"{machine} begun", tried(lambda both=both, setup=setup: begun(both, setup))
    for path in demo_jobs():
        job = read_job(path)
        yield f"{path.stem} proof", [proof(job), proof(job, 30.0), suggested(job, CATALOGUE), offered(job, CATALOGUE)]
    given = itertools.product((-0.1, 0.2), (0.0, 0.3), (0.0, 0.5), (0.0, 0.4))
    yield "preload", [needed_preload(*one) for one in given]
    yield (
        "window",
        [temperature_window(215.0, core, 190.0, 70.0, room, 28.0) for core in (180.0, 201.0) for room in (-4.0, 9.0)],
    )
    yield "prime", [prime_line(drawn, strand) for drawn in (0.0, 30.0, 90.0) for strand in (1.75, 2.85)]
    yield "liner gap", [liner_gap(4.0, angle) for angle in (0.0, 5.0, 30.0)]
    for name, template in CATALOGUE.hotends.items():
        yield f"shape {name}", [height(template), most_drawn(template, "direct"), most_drawn(template, "tube")]


def told_order(doing: Doing, setup: Setup) -> Any:
    found = order(doing, setup, CATALOGUE)
    lines = [
        [line.key, line.status, line.work, line.target, line.bar, [one.key for one in line.exits], line.stands]
        for line in found.lines
    ]
    asked = choices_of(doing, CATALOGUE)
    return [
        lines,
        found.state,
        found.touched,
        found.stuck,
        found.minutes_left,
        found.number,
        list(tools(found.lines)),
        {one: settled(one, doing, CATALOGUE) for one in asked},
    ]


def begun(doing: Doing, setup: Setup) -> Any:
    """The order with its first steps done, each by its first way out."""
    for _step in range(5):
        line = order(doing, setup, CATALOGUE).now
        if line is None:
            break
        done = DoneStep(step=line.key, exit=line.exits[0].key, begun=STAMP, ended=STAMP)
        doing = doing.model_copy(update={"done": [*doing.done, done]})
    return told_order(doing, setup)


def of_waits() -> Iterator[tuple[str, Any]]:
    times = np.linspace(0.0, 3000.0, 301)
    cools = CoolingCurve(times, 20.0 + 180.0 * np.exp(-times / 300.0), 0.25)
    warms = CoolingCurve(times, 200.0 - 180.0 * np.exp(-times / 300.0), 0.25, 4.0)
    known = cools.known(1.2, 0.1)
    reads = [
        HoldReading(after_s=after, value=value, way=way, tolerance=doubt)
        for after, value, way, doubt in (
            (120.0, 150.0, "probe", 2.0),
            (400.0, 66.0, "probe", 2.0),
            (700.0, 38.0, "camera", 5.0),
            (900.0, 12.0, "probe", 2.0),
            (900.0, 240.0, "probe", 2.0),
            (1500.0, 700.0, "console", 2.0),
            (2800.0, 20.0, "probe", 1.0),
        )
    ]
    for name, curve in {"cools": cools, "warms": warms, "known": known}.items():
        yield (
            f"{name} itself",
            [
                curve.rises,
                [(curve.at(one), curve.slope(one)) for one in (-5.0, 0.0, 77.0, 299.0, 4000.0)],
                [curve.when(one) for one in (10.0, 20.0, 48.0, 199.9, 250.0)],
                curve.rate,
                curve.rate_doubt,
            ],
        )
        for count in range(len(reads) + 1):
            line = forecast(curve, reads[:count])
            yield (
                f"{name} {count}",
                [
                    line.lag,
                    line.rate,
                    line.doubt,
                    [line.at(one) for one in (0.0, 60.0, 600.0)],
                    [line.when(one) for one in (48.0, 25.0, 199.0, 5.0)],
                ],
            )
            for now in (100.0, 520.0, 820.0, 1019.0, 1021.0, 2900.0):
                state = held(curve, reads[:count], now, 48.0)
                yield f"{name} held {count} {now}", [state.open, state.said, state.stale, state.met, state.counted]
        yield f"{name} weighed", [weigh(one, forecast(curve)) for one in reads]
    low = forecast(cools).at(300.0)[0]
    edge = [HoldReading(after_s=300.0, value=low - 2.0 + by, way="probe", tolerance=2.0) for by in (-1e-9, 1e-9)]
    yield "weighed at its edge", [weigh(one, forecast(cools)) for one in edge]
    values = np.array([30.0, 26.0, 25.0, 24.2, 24.4, 24.0, 24.0])
    clock = np.array([0.0, 10.0, 20.0, 30.0, 40.0, 60.0, 90.0])
    yield "settled", [settled_after(clock, values, within) for within in (0.1, 0.3, 0.5, 1.5, 10.0)]
    yield "falling", falling(np.array([30.0, 28.0, 29.0, 27.0, 27.5]))
    yield "rough", [[one.at(60.0), one.when(45.0), one.rate_doubt] for one in (rough(240.0, 25.0), rough(90.0, 25.0))]
    yield (
        "touch",
        [touch_limit(CATALOGUE, one, seconds) for one in CATALOGUE.touch for seconds in (1.0, 10.0, 60.0, 1e6)],
    )
    for machine, setup in machines().items():
        for bed, fan in itertools.product((False, True), (False, True)):
            for start in (15.0, 220.0, 800.0):
                yield (
                    f"{machine} bench {bed} {fan} {start}",
                    on_the_bench(setup, start, fan=fan, bed=bed).model_dump(
                        mode="json",
                        include={"printing", "schedule", "heats", "bed", "faults"},
                        exclude={"printing": {"idle_c"}},  # came later
                    ),
                )
        for name in ("break", "sink"):
            yield f"{machine} body {name}", tried(lambda name=name, setup=setup: body(name, setup, CATALOGUE))
            yield (
                f"{machine} loose {name}",
                tried(lambda name=name, setup=setup: points(loose_body(name, setup, CATALOGUE, 240.0))),
            )
            for source, goal in itertools.product(CATALOGUE.heat_sources, (120.0, 320.0)):
                heat = CATALOGUE.heat_sources[source]
                yield f"{machine} {source} {name} {goal}", warm_through(name, heat, setup, CATALOGUE, goal)
        yield f"{machine} nozzle", tried(lambda setup=setup: points(loose_nozzle(setup, CATALOGUE, 240.0)))


def points(curve: CoolingCurve) -> Any:
    return [curve.at(0.0), curve.at(45.0), curve.at(400.0), curve.when(45.0), curve.rate_doubt, curve.start_doubt]


# wirings


def of_wirings() -> Iterator[tuple[str, Any]]:
    around = WireSite(CATALOGUE.wire_insulations["silicone"], CATALOGUE.wire_metals["copper"], 2.0, 35.0)
    demands = {
        "module": WiringDemand(around, around, 12.0, 25.0, 15.0, 24.0, 230.0),
        "mains": WiringDemand(around, around, 3.0, 25.0, 15.0, 24.0, 230.0),
    }
    bare = WiringDemand(around, around)
    yield "demand", [bare.amps, bare.rated, bare.source_a, bare.volts, bare.mains_v]
    yield (
        "usual",
        [
            [made.amps, made.rated, made.source_a, made.volts, made.mains_v, made.lead.air_c, made.feed.air_c]
            for made in (usual_feed(setup, CATALOGUE, 9.0, 25.0) for setup in machines().values())
        ],
    )
    hot = replace(around, bundle=8.0, air_c=70.0)
    for volts in (84.0, 85.0, 134.0, 135.5, 179.0, 181.0, 264.0, 265.5):
        for selector in ("115", "230"):
            chosen = proposed("mains", CATALOGUE, demands["mains"]).model_copy(update={"selector": selector})
            yield f"selector {selector} {volts}", check(chosen, CATALOGUE, replace(demands["mains"], mains_v=volts))
    for kind, demand in demands.items():
        for name, one in {"lead": replace(demand, lead=hot), "feed": replace(demand, feed=hot)}.items():
            for amps in (2.0, 8.0, 16.0, 30.0):
                much = replace(one, amps=amps)
                yield (
                    f"{kind} hot {name} {amps}",
                    [proposed(kind, CATALOGUE, much), check(proposed(kind, CATALOGUE, demand), CATALOGUE, much)],
                )
    for kind, demand in demands.items():
        base = proposed(kind, CATALOGUE, demand)
        yield f"{kind} proposed", base
        for amps in (0.0, 1.0, 7.0, 22.0, 60.0):
            made = tried(
                lambda amps=amps, kind=kind, demand=demand: proposed(kind, CATALOGUE, replace(demand, amps=amps))
            )
            yield f"{kind} proposed {amps}", made
        yield f"{kind} unknown", tried(lambda kind=kind: proposed(kind, CATALOGUE, WiringDemand(around, around)))
        for changed, wiring in wirings(base):
            for name, one in {
                "": demand,
                " weak": replace(demand, amps=20.0, rated=10.0, source_a=5.0, mains_v=120.0),
            }.items():
                yield f"{kind} {changed}{name}", tried(lambda wiring=wiring, one=one: check(wiring, CATALOGUE, one))
        nets = Nets(base)
        ends = sorted({end for link in base.links for end in link.ends})
        yield f"{kind} nets", [[nets.meet(one, other) for other in ends] for one in ends[:6]]
        yield f"{kind} between", [nets.between(one, other) for one, other in itertools.combinations(ends[:8], 2)]
    assert set(RIGHT) == set(demands)


def wirings(base: Wiring) -> Iterator[tuple[str, Wiring]]:
    """A wiring with one thing changed."""
    yield "as it is", base
    for n, link in enumerate(base.links):
        others = [*base.links[:n], *base.links[n + 1 :]]
        yield f"without {n}", base.model_copy(update={"links": others})
        for mm2 in (0.25, 1.0, 10.0):
            yield f"{n} of {mm2}", base.model_copy(update={"links": [*others, Link(ends=list(link.ends), mm2=mm2)]})
        swapped = Link(ends=[link.ends[0], base.links[(n + 3) % len(base.links)].ends[1]], mm2=link.mm2)
        if len(set(swapped.ends)) == 2:
            yield f"{n} elsewhere", base.model_copy(update={"links": [*others, swapped]})
    for change in (
        {"fuse_a": 0.0},
        {"fuse_a": 30.0},
        {"inlet_fuse_a": 0.0},
        {"inlet_fuse_a": 16.0},
        {"fuse_kind": "unknown"},
        {"inlet_fuse_kind": "unknown"},
        {"selector": "115"},
        {"selector": "230"},
        {"leakage_protected": True},
    ):
        yield str(change), base.model_copy(update=change)


KINDS: dict[str, Callable[[], Iterator[tuple[str, Any]]]] = {
    "runs": of_runs,
    "tables": of_tables,
    "orders": of_orders,
    "waits": of_waits,
    "wirings": of_wirings,
}


def found(kind: str) -> dict[str, Any]:
    """Everything of one kind, by name."""
    told = {name: plain(one) for name, one in KINDS[kind]()}
    return json.loads(json.dumps(told))


def written() -> str:
    """All of it, a line for each."""
    kinds = []
    for kind in KINDS:
        lines = [f"{json.dumps(name)}: {json.dumps(one, separators=(',', ':'))}" for name, one in found(kind).items()]
        kinds.append(f"{json.dumps(kind)}: {{\n" + ",\n".join(lines) + "\n}")
    return "{\n" + ",\n".join(kinds) + "\n}\n"


if __name__ == "__main__":
    FILE.write_text(written(), encoding="utf-8")
