"""One judgement of everything advised: nothing hotter than what is fitted stands, no wire or fuse outside its rules."""

from __future__ import annotations

import contextlib
import math
import random

import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.guard.fitted import GUARDED, assumed_of
from zeotherm.core.guard.heat import LAST_PLASTIC, bed_cap, body_caps, caps, has_liner, target, window
from zeotherm.core.guard.wires import (
    FUSE_LOAD,
    WireSite,
    carried,
    fuse_beside,
    least_mm2,
    sizes,
    thick_enough,
)
from zeotherm.core.judgement.standing import ALL_KNOWN
from zeotherm.core.machine.documents import Job, Setup, patched
from zeotherm.core.machine.doing import Doing, DoneStep
from zeotherm.core.machine.patches import value_at
from zeotherm.core.parts.hotend.judge.course import plan
from zeotherm.core.parts.power.judge.nets import WiringDemand, check, proposed
from zeotherm.core.parts.power.judge.voltage import mismatches
from zeotherm.core.work.planning import NoWayError, Order, fits, initial, order, refusal
from zeotherm.core.work.proving import most_drawn, offered, prime_line
from zeotherm.core.work.waits import warm_through
from zeotherm.wording import work
from zeotherm.wording.course import outlook

CATALOGUE = shipped()
LINED = {"hotend": {"template": "compact_lined", "break_part": "lined_steel"}}
STAMP = "2026-03-02T10:00:00"


def _breaks(template: str) -> list[str]:
    bore = CATALOGUE.hotends[template].bore
    return [key for key, one in CATALOGUE.breaks.items() if one.bore == bore]


def random_setup(chance: random.Random) -> Setup:
    """Any machine that the documents can say, as far as hotend and print go."""
    template = chance.choice(list(CATALOGUE.hotends))
    filament = chance.choice(list(CATALOGUE.filaments))
    middle = CATALOGUE.filaments[filament].nozzle_c.value
    return patched(Setup(), {
        "hotend": {
            "template": template, "break_part": chance.choice(_breaks(template)),
            "sensor": chance.choice(list(CATALOGUE.sensors)), "sleeve": chance.choice(list(CATALOGUE.sleeves)),
            "sensor_offset_k": round(chance.uniform(-30.0, 15.0), 1),
        },
        "printing": {"filament": filament, "nozzle_c": round(min(max(middle + chance.gauss(0.0, 40.0), 20.0), 500.0))},
    })  # fmt: skip


def random_doing(chance: random.Random, setup: Setup) -> Doing:
    """Any order, its steps behind it ended in any way that they may."""
    works = [key for key, one in CATALOGUE.procedures.items() if fits(one, setup, CATALOGUE)]
    choices = {key: chance.choice(list(one.options)) for key, one in CATALOGUE.choices.items() if chance.random() < 0.7}
    doing = Doing(procedures=chance.sample(works, chance.choice([1, 1, 2, 3])), choices=choices)
    for _step in range(chance.choice([0, 0, 3, 12, 30])):
        try:
            now = order(doing, setup, CATALOGUE).now
        except NoWayError:
            return doing
        if now is None:
            return doing
        left = chance.choice(now.exits)
        heat = now.target.value if now.target is not None else None
        done = DoneStep(step=now.key, begun=STAMP, ended=STAMP, exit=left.key, heat_c=heat)
        doing = doing.model_copy(update={"done": [*doing.done, done]})
    return doing


def weakest(setup: Setup, last: str, *, liner: bool) -> float:
    """What the weakest part stands, told without the guard: every figure that the catalogue has of what is fitted."""
    hotend, shape = setup.hotend, CATALOGUE.hotends[setup.hotend.template]
    made = CATALOGUE.breaks[hotend.break_part]
    figures = [CATALOGUE.sensors[hotend.sensor].service_c]
    if CATALOGUE.sleeves[hotend.sleeve].thickness_mm.value > 0.0:
        figures.append(CATALOGUE.sleeves[hotend.sleeve].service_c)
    metals = (shape.block_material, shape.nozzle_material, made.block_side, made.neck)
    figures += [CATALOGUE.materials[metal].service_c for metal in metals]
    figures += [CATALOGUE.filaments[one].hottest for one in {setup.printing.filament, last} & set(CATALOGUE.filaments)]
    found = [one.value - one.tolerance for one in figures if one is not None]
    found += [235.0] if liner and has_liner(setup, CATALOGUE) else []
    return min(found) + min(hotend.sensor_offset_k, 0.0)


def look_over(found: Order, setup: Setup, doing: Doing) -> None:
    """No step is hotter than what is fitted, none stands on what was undone, none says what is not so."""
    state = initial(setup, CATALOGUE)
    last = doing.choices.get(LAST_PLASTIC, "unknown")
    for line in found.steps:
        step = line.step
        for name, value in step.needs.items():
            assert state[name] == value, f"{line.key} needs {name} {value}"
        if step.heat and not step.source:
            assert line.target is not None
            liner = state["liner"] == "in"
            assert line.target.value <= weakest(setup, last, liner=liner) + 1e-9, (line.key, line.target)
        if step.source:
            assert state["paste"] == "clean" or step.body == "sink", line.key
            assert state["liner"] == "out", line.key
        if "sink fan running" in step.text:
            assert (state["power"], state["leads"], state["duct"]) == ("in", "on", "fitted"), line.key
        if state["break"] == "half":
            assert "still in the block" in work.text(line, CATALOGUE), line.key
        taken = next(one for one in step.exits if one.key == (line.done.exit if line.done else line.exits[0].key))
        if taken.to != "again":
            state |= {**step.gives, **taken.gives}


def orders_hold(seed: int, count: int, *, hide: bool = False) -> int:
    """Random machines, plastics and orders; returns how many lines were looked at. hide: nobody entered a random half
    of what the guard goes by, and no step may be hotter than any machine stands that it may be."""
    chance, lines = random.Random(seed), 0
    for _machine in range(count):
        setup = random_setup(chance)
        doing = random_doing(chance, setup)
        assumed = frozenset(path for path in GUARDED if hide and chance.random() < 0.5)
        try:
            found = order(doing, setup, CATALOGUE, None, assumed)
        except NoWayError:
            continue
        look_over(found, setup, doing)
        for other in may_be(setup, assumed):
            spared(found, setup, other, doing)
        lines += len(found.steps)
    return lines


def may_be(setup: Setup, assumed: frozenset[str]) -> list[Setup]:
    """Machines that it may be, told without the guard: every option of a fact, as long as no known value moves."""
    found = []
    for fact in CATALOGUE.facts.values():
        for one in fact.may_be if set(fact.paths) & assumed else ():
            with contextlib.suppress(ValueError):
                other = patched(setup, one.change)
                same = all(value_at(other, path) == value_at(setup, path) for path in set(GUARDED) - assumed)
                found += [other] if same else []
    return found


def spared(found: Order, setup: Setup, other: Setup, doing: Doing) -> None:
    """No step is hotter than a machine stands that it may be, and no flame comes near one that bears none."""
    last, state = doing.choices.get(LAST_PLASTIC, "unknown"), initial(other, CATALOGUE)
    for line in found.steps:
        step = line.step
        if step.heat and not step.source and line.target is not None:
            assert line.target.value <= weakest(other, last, liner=False) + 1e-9, (line.key, line.target)
            in_it = state["liner"] == "in" and step.needs.get("liner") != "out"
            if has_liner(other, CATALOGUE) and (in_it or not has_liner(setup, CATALOGUE)):
                assert line.target.value <= 235.0 + min(other.hotend.sensor_offset_k, 0.0) + 1e-9, line.key
        work = line.key.partition("/")[0]
        if work in CATALOGUE.procedures and CATALOGUE.procedures[work].flame:
            assert not CATALOGUE.breaks[other.hotend.break_part].no_flame, line.key
        if work in CATALOGUE.procedures and CATALOGUE.procedures[work].machine == "metal":
            assert not has_liner(other, CATALOGUE), line.key
        taken = next(one for one in step.exits if one.key == (line.done.exit if line.done else line.exits[0].key))
        if taken.to != "again":
            state |= {**step.gives, **taken.gives}


def wires_hold(seed: int, count: int) -> None:
    """Random loads and surroundings: what is proposed carries them, and the check on paper agrees with it."""
    chance = random.Random(seed)
    for _load in range(count):
        around = [
            WireSite(chance.choice(list(CATALOGUE.wire_insulations.values())),
                   chance.choice(list(CATALOGUE.wire_metals.values())),
                   chance.choice([2.0, 4.0, 6.0, 12.0]), chance.uniform(5.0, 65.0))
            for _wire in range(2)
        ]  # fmt: skip
        kind = chance.choice(["module", "mains"])
        amps = chance.uniform(0.5, 8.0 if kind == "mains" else 20.0)
        feed = WiringDemand(*around, amps, 2.0 * amps, chance.uniform(1.0, 1.5) * amps, 24.0, 230.0)
        duty, fuse = chance.choice(["mains", "bed", "feed", "heater", "tap"]), fuse_beside(amps, math.inf)
        size = thick_enough(duty, amps, fuse, around[0], CATALOGUE)
        if size is not None:
            assert size >= least_mm2(duty, CATALOGUE)
            assert carried(size, around[0], CATALOGUE) >= max(amps, fuse or 0.0)
            assert fuse is None or FUSE_LOAD * fuse >= amps
        told = {one.key for one in check(proposed(kind, CATALOGUE, feed), CATALOGUE, feed)}
        looked = {"no_leakage_protection", "selector_unknown"} if kind == "mains" else set()
        beyond = {"wire_thin", "tap_thin", "fuse_large", "inlet_fuse_large", "fuse_unrated", "inlet_fuse_unrated"}
        thickest = [carried(sizes(CATALOGUE)[-1], one, CATALOGUE) for one in around]
        if min(thickest) > 3.0 * max(amps, feed.source_a):  # some size that is sold suffices
            assert told <= looked, told
        else:
            assert told <= looked | beyond, told


def test_no_step_of_any_order_is_hotter_than_what_is_fitted_or_stands_on_what_was_undone():
    assert orders_hold(7, 400) > 3000


def test_what_is_proposed_of_wires_passes_the_check_on_paper():
    wires_hold(7, 400)


@pytest.mark.parametrize(
    ("filament", "nozzle", "change", "low", "high"),
    [
        ("abs", 245.0, {}, 220.0, 265.0),
        ("paek", 390.0, {}, 350.0, 280.0),
        ("petg", 235.0, LINED, 215.0, 235.0),
        ("pla", 205.0, {}, 180.0, 225.0),
    ],
)
def test_the_hint_beside_the_nozzle_stays_within_plastic_and_parts(filament, nozzle, change, low, high):
    setup = patched(Setup(), {**change, "printing": {"filament": filament, "nozzle_c": nozzle}})
    for melts, stiff in ((147.0, 751.0), (100.0, math.inf), (187.0, 455.0)):
        found = window(setup, CATALOGUE, melts, stiff)
        assert found.low >= low
        assert found.high <= high
        assert found.none == (filament == "paek")


def test_hotter_and_hotter_again_stops_at_the_weakest_part():
    setup = patched(Setup(), {**LINED, "printing": {"filament": "petg", "nozzle_c": 228.0}})
    doing, targets = Doing(procedures=["nozzle_change"]), []
    for _try in range(4):
        now = next(one for one in order(doing, setup, CATALOGUE).lines if one.status == "now")
        while now.key != "to/nozzle.out":
            left = now.exits[0]
            doing = doing.model_copy(update={"done": [*doing.done, DoneStep(
                step=now.key, begun=STAMP, ended=STAMP, exit=left.key)]})  # fmt: skip
            now = next(one for one in order(doing, setup, CATALOGUE).lines if one.status == "now")
        targets.append(now.target.value)
        hotter = [one for one in now.exits if one.hotter]
        assert bool(hotter) == (now.target.room >= 3.0)
        if not hotter:
            assert any(one.to == "again" for one in now.exits), "a longer wait is left"
            break
        doing = doing.model_copy(update={"done": [*doing.done, DoneStep(
            step=now.key, begun=STAMP, ended=STAMP, exit=hotter[0].key)]})  # fmt: skip
    assert targets == [228.0, 235.0]


def test_checks_and_purge_are_capped_and_know_the_plastic_before():
    setup = patched(Setup(), {**LINED, "printing": {"filament": "petg", "nozzle_c": 230.0}})
    assert target(CATALOGUE.heat_rules["reload"], setup, CATALOGUE).value == 235.0
    purge = CATALOGUE.heat_rules["purge"]
    pla = Setup()
    assert target(purge, pla, CATALOGUE).value == 215.0
    assert target(purge, pla, CATALOGUE).assumed == "PLA"
    after_abs = target(purge, pla, CATALOGUE, last="abs")
    assert after_abs.value == 245.0, "as hot as PLA stands, since ABS is still in the bore"
    assert after_abs.wish == 255.0
    assert not after_abs.assumed


def test_hot_tightening_is_done_at_the_hottest_that_is_planned():
    planned = patched(Setup(), {"printing": {"nozzle_c": 230.0}})
    found = order(Doing(procedures=["nozzle_change"]), Setup(), CATALOGUE, planned)
    line = next(one for one in found.lines if one.key == "check/hot_tighten")
    assert line.target.value == 240.0


@pytest.mark.parametrize("filament", list(CATALOGUE.filaments))
def test_a_plug_is_warmed_to_where_it_slides_and_never_beyond_what_the_part_stands(filament):
    setup = patched(Setup(), {"printing": {"filament": filament}})
    plastic = CATALOGUE.filaments[filament]
    for source in CATALOGUE.heat_sources.values():
        aim = target(CATALOGUE.heat_rules["plug"], setup, CATALOGUE, body="break", source=source)
        assert plastic.softening_c.value < aim.value <= body_caps("break", source, setup, CATALOGUE)[0].value
        assert aim.value <= max(plastic.softening_c.value + 40.0, plastic.melting_c.value)


def test_no_flame_is_offered_where_a_gun_does_it():
    line = order(Doing(procedures=["flame"], choices={"break_kind": "plain"}), Setup(), CATALOGUE).lines[0]
    assert line.status == "barred"
    assert "no flame is needed" in line.bar_text


def test_a_bare_break_under_gun_or_flame_takes_seconds():
    gun, flame = (CATALOGUE.heat_sources[one] for one in ("heat_gun", "flame"))
    for source, most in ((gun, 30.0), (flame, 12.0)):
        early, likely, late = warm_through("break", source, Setup(), CATALOGUE, 95.0)
        assert early < likely < late < most


def test_a_plug_of_the_hottest_plastic_on_an_aluminium_block_has_a_cold_way_out():
    setup = patched(Setup(), {"printing": {"filament": "paek", "nozzle_c": 390.0}})
    for key in ("jam_clearing", "cold_pull", "plug_in_break", "heat_gun"):
        found = order(Doing(procedures=[key]), setup, CATALOGUE)
        assert not found.stuck, key
        assert any(one.key == "cold_way/ream" for one in found.steps), key
        assert not any(one.step.heat and one.status != "barred" and one.key.startswith(key) for one in found.lines)


def test_a_withdrawn_strand_is_primed_again_by_volume():
    assert prime_line(19.0, 1.75) == pytest.approx(457.0, abs=1.0)
    most = most_drawn(CATALOGUE.hotends["standard_all_metal"], "direct")
    assert "would leave the drive gear" in work.prime(most + 1.0, 2000.0, most)
    assert "460 mm" in work.prime(19.0, prime_line(19.0, 1.75), math.inf)


def test_a_bed_is_set_no_hotter_than_its_weakest_layer():
    cap = bed_cap(Setup(), CATALOGUE)
    layers = [*CATALOGUE.beds[Setup().bed.part].layers, *CATALOGUE.sheets[Setup().bed.sheet].layers]
    stands = [CATALOGUE.materials[one.material].service_c for one in layers]
    assert cap.value == min(one.value - one.tolerance for one in stands if one is not None)
    unsure = bed_cap(patched(Setup(), {"bed": {"sheet": "bare"}}), CATALOGUE, frozenset({"bed.sheet"}))
    assert unsure.value == cap.value < bed_cap(patched(Setup(), {"bed": {"sheet": "bare"}}), CATALOGUE).value
    assert unsure.part.endswith("(not ruled out: build surface is not entered)")


def test_every_part_with_rated_volts_is_looked_at_described_path_or_not():
    fan = patched(Setup(), {"fan": {"part": "axial_30_12v", "voltage_v": 24.0}})
    assert [(one.part, one.burns) for one in mismatches(fan, CATALOGUE)] == [("fan", True)]
    bed = patched(Setup(), {"bed": {"volts_pct": 125.0}})
    assert [one.part for one in mismatches(bed, CATALOGUE)] == ["bed"]
    selector = patched(Setup(), {"power": {"selector_v": 115.0}})
    assert [(one.part, one.burns) for one in mismatches(selector, CATALOGUE)] == [("supply", True)]
    assert not mismatches(Setup(), CATALOGUE)


@pytest.mark.parametrize(
    "change",
    [
        {"hotend": {"heater_power_w": 10.0}, "printing": {"filament": "pc", "nozzle_c": 275.0}},
        {"printing": {"filament": "pc", "nozzle_c": 300.0}},
        {**LINED, "printing": {"filament": "petg", "nozzle_c": 254.0}},
        {"fan": {"part": "axial_30_12v", "voltage_v": 24.0}},
    ],
)
def test_what_is_said_of_the_hours_never_contradicts_a_margin(change):
    setup = patched(Setup(), {**change, "schedule": {"print_min": 20.0, "cool_min": 5.0}})
    course = plan(setup, CATALOGUE)
    told = outlook(course, course.answer(course.worst_time), ALL_KNOWN)
    assert "every limit holds" not in told.lower(), told


def test_caps_come_weakest_first_and_know_both_machines():
    hot = patched(Setup(), {"hotend": {"sensor": "platinum"}})
    assert caps(hot, CATALOGUE)[0].value <= caps(hot, CATALOGUE)[-1].value
    both = caps(hot, CATALOGUE, planned=patched(hot, {"hotend": {"sensor": "bead_thermistor"}}))
    assert any(one.part == "Bead thermistor" for one in both)


def test_what_nobody_entered_counts_as_the_weakest_that_it_may_be():
    metal = patched(Setup(), {"printing": {"filament": "petg", "nozzle_c": 245.0}})
    known = caps(metal, CATALOGUE)[0]
    unsure = caps(metal, CATALOGUE, assumed=frozenset({"hotend.template", "hotend.break_part"}))[0]
    assert unsure.value == 235.0 < known.value
    assert unsure.part == "PTFE liner (not ruled out: kind of hotend is not entered)"
    entered = caps(metal, CATALOGUE, assumed=frozenset({"hotend.template"}))[0]
    assert entered.value == known.value  # a steel break that was entered goes into no lined hotend
    assert caps(metal, CATALOGUE, assumed=frozenset({"hotend.sensor_offset_k"}))[0].value == known.value - 8.0


def test_work_that_a_machine_may_not_stand_is_withheld_and_names_the_fact():
    kind = frozenset({"hotend.template", "hotend.break_part"})
    works = [key for key, work in CATALOGUE.procedures.items() if work.machine == "metal" or work.flame]
    assert works
    for key in works:
        told = refusal(CATALOGUE.procedures[key], Doing(choices={"break_kind": "plain"}), Setup(), CATALOGUE,
                       assumed=kind)  # fmt: skip
        assert told.startswith(("Find out first: kind of hotend (", "Find out first: heat break (")), key
    job = Job()
    assert assumed_of(job) == frozenset(GUARDED)
    assert all(offered(job, CATALOGUE)[key] for key in works if key in offered(job, CATALOGUE))


def test_what_is_tried_counts_as_given():
    job = Job(trial={"hotend": {"sensor": "platinum"}})
    assert "hotend.sensor" not in assumed_of(job)


def test_no_step_is_hotter_than_any_machine_stands_that_it_may_be():
    assert orders_hold(31, 150, hide=True) > 1000


def caps_hold(seed: int, count: int) -> int:
    """Random machines of which a random half is hidden: no cap is above that of any machine that it may be; returns
    how many of those were looked at."""
    chance, looked = random.Random(seed), 0
    for _machine in range(count):
        setup = random_setup(chance)
        assumed = frozenset(path for path in GUARDED if chance.random() < 0.5)
        last, liner = chance.choice(["unknown", *CATALOGUE.filaments]), chance.random() < 0.5
        cap = caps(setup, CATALOGUE, liner=liner, last=last, assumed=assumed)[0].value
        assert cap <= weakest(setup, last, liner=liner) + 1e-9
        bed = bed_cap(setup, CATALOGUE, assumed).value
        for other in may_be(setup, assumed):
            in_it = liner or not has_liner(setup, CATALOGUE)
            assert cap <= weakest(other, last, liner=in_it) + 1e-9, (setup.hotend, other.hotend, assumed)
            assert bed <= bed_cap(other, CATALOGUE).value + 1e-9, (setup.bed, other.bed, assumed)
            looked += 1
    return looked


def test_no_cap_is_above_that_of_a_machine_that_it_may_be():
    assert caps_hold(32, 200) > 500


@pytest.mark.verify
@pytest.mark.parametrize("seed", range(10))
def test_a_hundred_thousand_machines_with_facts_hidden(seed):
    assert caps_hold(300 + seed, 10_000) > 20_000


@pytest.mark.verify
@pytest.mark.parametrize("seed", range(4))
def test_six_thousand_orders_with_facts_hidden(seed):
    assert orders_hold(400 + seed, 1_500, hide=True) > 10_000


@pytest.mark.verify
@pytest.mark.parametrize("seed", range(10))
def test_a_hundred_thousand_machines_plastics_and_orders(seed):
    assert orders_hold(100 + seed, 10_000) > 100_000


@pytest.mark.verify
@pytest.mark.parametrize("seed", range(4))
def test_a_hundred_thousand_loads_and_surroundings(seed):
    wires_hold(200 + seed, 25_000)
