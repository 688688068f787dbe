"""Procedures: whole in every step, in an order that cannot hurt, never hotter than the weakest part."""

from __future__ import annotations

import itertools
import random
import re

import pytest
from pydantic import ValidationError

from zeotherm.core.catalogue import shipped
from zeotherm.core.catalogue.procedures import END, Procedure, Step
from zeotherm.core.choices.build.slots import candidates, filled
from zeotherm.core.guard.heat import caps, target
from zeotherm.core.machine.documents import Job, Setup, Variant, patched
from zeotherm.core.machine.doing import Doing, DoneStep
from zeotherm.core.machine.hotend import Hotend, Printing
from zeotherm.core.machine.measured import Measured, Run
from zeotherm.core.work.planning import (
    NoWayError,
    Order,
    choices_of,
    fits,
    initial,
    order,
    refusal,
    settled,
)
from zeotherm.core.work.proving import in_order, liner_gap, needed_preload, proof, suggested

STAMP = "2026-03-02T10:00:00"
CATALOGUE = shipped()
METAL = Setup()
LINED = patched(Setup(), {"hotend": {"template": "compact_lined", "break_part": "lined_steel"}})
HIGH = patched(Setup(), {"hotend": {"template": "long_melt_all_metal", "sensor": "platinum"},
                         "printing": {"filament": "paek", "nozzle_c": 390.0}})  # fmt: skip
WEAK_GUN = CATALOGUE.with_own({"heat_sources": {"heat_gun": {"air_c": 250.0}}})
STEPS = [
    *((f"{key}/{step.key}", step) for key, work in CATALOGUE.procedures.items() for step in work.steps),
    *((f"to/{key}", step) for key, step in CATALOGUE.transitions.items()),
    *((f"check/{key}", step) for key, step in CATALOGUE.rechecks.items()),
]
HURTS = {  # words that say what can hurt, and the sign that must then stand beside the step
    r"\bhot\b(?! (end|side|thread))|nylon melts|soldering iron": "burn",
    r"flame|heat gun|torch's|\bsolvent\b|alcohol": "flame",
    r"\bsmok|\bfume|anti-seize|solvent|heat gun|\bflame\b": "fumes",
    r"mains|pull the plug\b.*wall|put the plug in": "mains",
}
COLD = {  # speak of the hot end, or of what must not happen, and are done cold
    "to/liner.out", "to/nozzle.in", "break_change/new", "liner_service/cut", "liner_service/shape",
    "to/paste.fitted", "check/sensor_reads",
}  # fmt: skip


@pytest.mark.parametrize(("key", "step"), STEPS, ids=[key for key, _step in STEPS])
def test_every_step_is_whole_and_says_what_hurts(key: str, step: Step):
    assert step.tools
    assert step.gates
    assert step.exits
    assert step.failing
    assert step.text
    assert step.record
    signs = {CATALOGUE.cautions[one].sign for one in step.cautions}
    assert set(step.signs) <= signs, "every hazard has its caution in the step"
    if step.heat and not step.source:
        assert "burn" in step.signs
        assert step.needs.get("power") == "in"
    if step.source:
        assert {"burn", "flame", "fumes"} <= set(step.signs)
    if step.uncouples:
        assert any(one.kind == "photo" and one.required for one in step.record)
    if key not in COLD:
        told = " ".join((step.label, step.text, *step.tools)).lower()
        for words, sign in HURTS.items():
            if sign in ("flame", "fumes") and re.search(words, told):
                assert sign in step.signs, f"{words} without {sign}"
    if step.gives.get("block") == "hot" and "cool" not in step.label.lower():
        assert "burn" in step.signs


def test_what_touches_mains_and_flame_defers_to_code_and_licence():
    for key, step in STEPS:
        texts = " ".join(CATALOGUE.cautions[one].text for one in step.cautions)
        if step.source == "flame":
            assert "local rules" in texts.lower()
            assert "maker" in texts
        if key in ("to/power.out", "to/power.in"):
            assert "licensed" in texts
    assert not re.search(
        r"\b(disable|bypass|bridge|override)\b", " ".join(step.text + step.failing for _key, step in STEPS).lower()
    )


# forced orders


def walked(found: Order, setup: Setup) -> None:
    """Go through an order with nothing but what its steps say they give: every need holds where it stands."""
    state = initial(setup, CATALOGUE)
    for line in found.steps:
        for name, value in line.step.needs.items():
            assert state[name] == value, f"{line.key} needs {name} {value}"
        exit_key = line.done.exit if line.done is not None else line.exits[0].key
        taken = next(one for one in line.step.exits if one.key == exit_key)
        if taken.to != "again":
            state |= {**line.step.gives, **taken.gives}
    for name, kind in CATALOGUE.states.items():
        if kind.rest and (name != "liner" or initial(setup, CATALOGUE)["liner"] == "in"):
            assert state[name] == kind.rest, f"left with {name} {state[name]}"


def before(found: Order, first: str, then: str) -> bool:
    keys = [line.key for line in found.steps]
    return keys.index(first) < keys.index(then)


@pytest.mark.parametrize("setup", [METAL, LINED], ids=["metal", "lined"])
def test_every_order_meets_its_needs_and_leaves_the_machine_whole(setup: Setup):
    for key, work in CATALOGUE.procedures.items():
        if fits(work, setup, CATALOGUE):
            walked(order(Doing(procedures=[key], choices={"break_kind": "plain"}), setup, CATALOGUE), setup)


def test_orders_that_hurt_cannot_be_written():
    found = order(Doing(procedures=["flame"], choices={"break_kind": "plain"}), HIGH, WEAK_GUN)
    assert before(found, "to/power.out", "to/leads.off")
    assert before(found, "to/block.cool", "to/power.out")
    assert before(found, "to/power.out", "to/break.out")
    assert before(found, "to/paste.clean", "flame/flame")
    held = CATALOGUE.transitions["nozzle.out"]
    assert [gate.kind for gate in held.gates] == ["reach", "hold", "tick"]
    assert "held" in held.gates[2].text
    assert before(found, "check/sensor_reads", "check/first_heat")
    assert found.steps[-1].key == "check/proof"


def played(doing: Doing, setup: Setup, chance: random.Random) -> tuple[Doing, Order]:
    """Go through an order, ending each step as chance has it."""
    for _step in range(400):
        found = order(doing, setup, CATALOGUE)
        if found.now is None:
            return doing, found
        taken = chance.choice(found.now.exits)
        done = DoneStep(step=found.now.key, begun=STAMP, ended=STAMP, exit=taken.key)
        doing = doing.model_copy(update={"done": [*doing.done, done]})
    raise AssertionError("an order without an end")


def test_orders_end_however_their_steps_end():
    for seed in range(240):
        chance = random.Random(seed)
        setup = chance.choice([METAL, LINED])
        names = [key for key, work in CATALOGUE.procedures.items() if fits(work, setup, CATALOGUE)]
        choices = {key: chance.choice(list(one.options)) for key, one in CATALOGUE.choices.items()}
        doing = Doing(procedures=chance.sample(names, chance.randint(1, 3)), choices=choices)
        doing, found = played(doing, setup, chance)
        assert not found.strays
        if not found.stuck:
            walked(found, setup)
        for key, flamed in ((line.key, line) for line in found.steps if line.step.source == "flame"):
            assert choices["break_kind"] == "plain", key
            assert CATALOGUE.breaks[setup.hotend.break_part].no_flame == "", flamed.key


def test_a_failed_step_escalates_and_a_repeated_one_has_an_end():
    doing = Doing(procedures=["jam_clearing"])
    assert order(doing, METAL, CATALOGUE).lines[0].key == "jam_clearing/push"
    stuck = DoneStep(step="jam_clearing/push", begun=STAMP, ended=STAMP, exit="stuck")
    keys = [line.key for line in order(doing.model_copy(update={"done": [stuck]}), METAL, CATALOGUE).lines]
    assert "clearing_apart/grip" in keys
    assert "jam_clearing/reload" not in keys
    dirty = [
        DoneStep(step=f"cold_pull/{one}", begun=STAMP, ended=STAMP, exit=end)
        for one, end in [("idler", "free"), *[("fill_own", "filled"), ("set", "set"), ("pull_low", "dirty")] * 3,
                         ("fill_own", "filled"), ("set", "set")]
    ]  # fmt: skip
    found = order(Doing(procedures=["cold_pull"], done=dirty), METAL, CATALOGUE)
    assert found.now.key == "cold_pull/pull_low"
    assert "dirty" not in [one.key for one in found.now.exits]


def test_a_rewritten_order_keeps_what_was_done_as_history():
    stray = DoneStep(step="needle/needle", begun=STAMP, ended=STAMP, exit="done")
    found = order(Doing(procedures=["vents"], done=[stray]), METAL, CATALOGUE)
    assert found.strays == (stray,)
    assert found.now.key == "vents/open"


# how hot


def limits(setup: Setup, *, liner: bool) -> list[float]:
    """What the fitted parts stand, straight from the catalogue's figures."""
    shape = CATALOGUE.hotends[setup.hotend.template]
    found = [CATALOGUE.sensors[setup.hotend.sensor].service_c.value]
    if setup.hotend.sleeve != "none":
        found.append(CATALOGUE.sleeves[setup.hotend.sleeve].service_c.value)
    found += [
        CATALOGUE.materials[one].service_c.value
        for one in (shape.block_material, shape.nozzle_material)
        if CATALOGUE.materials[one].service_c is not None
    ]
    return found + ([240.0] if liner and shape.tube_end != "break" else [])


@pytest.mark.verify
def test_no_step_is_hotter_than_the_weakest_part_in_a_hundred_thousand_machines():
    chance = random.Random(7)
    rules = {step.heat for _key, step in STEPS if step.heat and not step.source}
    barred = 0
    plain = Setup()
    for _machine in range(100_000):
        hotend = Hotend.model_construct(
            **{
                **plain.hotend.__dict__,
                "template": chance.choice(list(CATALOGUE.hotends)),
                "sensor": chance.choice(list(CATALOGUE.sensors)),
                "sleeve": chance.choice(list(CATALOGUE.sleeves)),
                "sensor_offset_k": chance.choice([0.0, chance.uniform(-25.0, 10.0)]),
            }
        )
        printing = Printing.model_construct(
            **{
                **plain.printing.__dict__,
                "filament": chance.choice(list(CATALOGUE.filaments)),
                "nozzle_c": chance.uniform(150.0, 480.0),
            }
        )
        setup = plain.model_copy(update={"hotend": hotend, "printing": printing})
        liner = chance.random() < 0.7
        weakest = min(limits(setup, liner=liner))
        for name in rules:
            aim = target(CATALOGUE.heat_rules[name], setup, CATALOGUE, liner=liner)
            assert aim.value - min(hotend.sensor_offset_k, 0.0) <= weakest + 1e-9
            assert aim.offered == (aim.value >= aim.least)
            barred += not aim.offered
    assert barred > 10_000, "some steps must be refused, else the cap was never tried"


def test_a_step_above_the_cap_is_not_offered_and_says_which_part():
    hot = patched(LINED, {"printing": {"filament": "pc", "nozzle_c": 270.0}})
    found = order(Doing(procedures=["cold_pull"], choices={"pull": "low"}), hot, CATALOGUE)
    line = next(one for one in found.lines if one.key == "cold_pull/fill_own")
    assert line.status == "barred"
    assert line.bar == "cap"
    assert line.target.cap.part == "PTFE liner"
    assert line.target.cap.value == 235.0
    assert [cap.value for cap in caps(hot, CATALOGUE)] == sorted(cap.value for cap in caps(hot, CATALOGUE))
    assert caps(hot, CATALOGUE, liner=False)[0].part == "Bead thermistor"


def test_an_order_that_cannot_go_on_says_so():
    hot = patched(LINED, {"printing": {"filament": "pc", "nozzle_c": 270.0}})
    found = order(Doing(procedures=["nozzle_change"]), hot, CATALOGUE)
    assert found.stuck
    assert found.now is None


@pytest.mark.parametrize(
    ("key", "choices", "change", "told"),
    [
        ("cold_pull", {"tip": "gem"}, {}, "gem"),
        ("flame", {"break_kind": "joined"}, {}, "brazed"),
        ("flame", {}, {}, "not known"),
        ("flame", {"break_kind": "plain"}, {"hotend": {"break_part": "bimetal"}}, "bimetal"),
        ("liner_service", {}, {}, "there is none"),
        ("unloading", {}, {"hotend": {"template": "compact_lined", "break_part": "lined_steel"}}, "liner"),
    ],
)
def test_procedures_are_refused_where_they_harm(key, choices, change, told):
    setup = patched(METAL, change)
    doing = Doing(procedures=[key], choices=choices)
    assert told in refusal(CATALOGUE.procedures[key], doing, setup, CATALOGUE)
    line = order(doing, setup, CATALOGUE).lines[0]
    assert line.status == "barred"
    assert told in line.bar_text


# schools, re-checks, proof


def test_both_schools_are_there_and_the_chosen_one_is_followed():
    schools = {key for key, one in CATALOGUE.choices.items() if one.kind == "school"}
    assert schools == {"pull", "anti_seize", "oil", "retraction_style", "cleaner"}
    keys = {}
    for option in ("low", "warm"):
        doing = Doing(procedures=["cold_pull"], choices={"pull": option})
        keys[option] = [line.key for line in order(doing, METAL, CATALOGUE).lines]
    assert "cold_pull/pull_low" in keys["low"]
    assert "cold_pull/pull_warm" not in keys["low"]
    assert "cold_pull/fill" in keys["warm"]
    assert settled("oil", Doing(), CATALOGUE) == "no", "never proposed by itself"
    assert settled("anti_seize", Doing(), CATALOGUE) == "no"
    assert "pull" in choices_of(Doing(procedures=["needle"]), CATALOGUE), "by what it may lead to"


def test_rechecks_follow_from_what_was_touched():
    def checks(*names: str) -> set[str]:
        found = order(Doing(procedures=list(names)), METAL, CATALOGUE)
        return {line.key.removeprefix("check/") for line in found.lines if line.key.startswith("check/")}

    assert checks("vents") == {"proof"}
    assert checks("fan_cleaning") == {"screws", "fan_blows", "proof"}
    assert {"hot_tighten", "leak", "height", "tuning", "sensor_reads"} <= checks("break_change")
    left = Doing(procedures=["nozzle_change"], left_out={"height": "measured by the machine itself"})
    keys = [line.key for line in order(left, METAL, CATALOGUE).lines]
    assert "check/height" not in keys
    assert "check/leak" in keys


def test_the_proof_is_half_as_long_again_as_the_old_failure():
    run = Run(rows=1, time_s=[0.0], values={}, conditions={"stopped": 197.0})
    job = Job(measured=Measured(runs={"a": run}))
    assert proof(job).minutes == pytest.approx(295.5)
    assert proof(job).source == "run"
    told = job.model_copy(update={"doing": Doing(failed_after_min=30.0)})
    assert (proof(told).minutes, proof(told).source) == (60.0, "told")
    assert proof(Job(), 100.0).minutes == 150.0
    assert proof(Job()).source == "print"


def test_an_order_begins_with_what_carries_the_options_out():
    variants = {
        "clean_guard": Variant(label="Clean", change={"fan": {"guard_blocked_pct": 5.0}}),
        "own_1": Variant(label="Own", change={"fan": {"voltage_v": 23.0}}),
    }
    job = Job(variants=variants, chosen=["own_1", "clean_guard"])
    assert suggested(job, CATALOGUE) == ["fan_cleaning", "own_change"]
    every = {key for work in CATALOGUE.procedures.values() for key in work.does}
    assert every == set(CATALOGUE.remedies), "every remedy on the board can be carried out"


@pytest.mark.parametrize("slot", list(CATALOGUE.slots))
def test_every_part_of_a_build_is_fitted_by_steps_of_its_own(slot):
    found = Setup()
    for one in candidates(slot, found, found, CATALOGUE, {}):
        if one.change:
            build = Variant(label="Build", change=filled({}, one, found, CATALOGUE))
            works = suggested(Job(variants={"build": build}, chosen=["build"]), CATALOGUE)
            assert len(works) == 1, one.label
            assert works != ["own_change"], one.label


BUILD = (
    ("cooling", "axial_40_24v"), ("break", "bimetal"), ("cartridge", "v24_w60"), ("nozzle", "hardened"),
    ("sensor", "platinum_100"), ("drive", "dual"),
)  # fmt: skip


def test_a_whole_build_is_fitted_in_order_and_checked_by_what_was_touched():
    change: dict = {}
    for slot, key in BUILD:
        part = next(one for one in candidates(slot, Setup(), Setup(), CATALOGUE, {}) if one.key == key)
        change = filled(change, part, Setup(), CATALOGUE)
    job = Job(variants={"build": Variant(label="Build", change=change)}, chosen=["build"])
    works = suggested(job, CATALOGUE)
    fitted = [
        "break_change",
        "nozzle_change",
        "extruder_change",
        "cartridge_change",
        "sensor_change",
        "fan_replacement",
    ]
    assert works == fitted, "what is done hot comes first"
    lines = order(Doing(procedures=works), job.found, CATALOGUE, job.planned(), frozenset()).steps
    done = [line.step.label for line in lines]
    assert done.count("Take the hotend off the carriage") == 1, "the machine is taken apart once"
    for recheck in ("sensor_reads", "first_heat", "tuning", "hot_tighten", "leak", "height", "screws", "proof"):
        assert CATALOGUE.rechecks[recheck].label in done
    assert done.index(CATALOGUE.rechecks["sensor_reads"].label) < done.index(CATALOGUE.rechecks["first_heat"].label)


WORKS_OF_A_BUILD = (
    "fan_replacement", "fan_cleaning", "fan_duct", "break_change", "nozzle_change", "cartridge_change", "sensor_change",
    "block_swap", "sleeve", "hotend_change", "carriage_swap", "extruder_change", "sink_paste", "liner_service",
)  # fmt: skip


@pytest.mark.parametrize("setup", [METAL, LINED], ids=["metal", "lined"])
def test_nothing_is_heated_while_the_hotend_is_apart_or_its_fan_is_off(setup: Setup):
    named = [key for key in WORKS_OF_A_BUILD if fits(CATALOGUE.procedures[key], setup, CATALOGUE)]
    for works in itertools.chain(itertools.combinations(named, 2), itertools.combinations(named, 3)):
        state = initial(setup, CATALOGUE)
        for line in order(Doing(procedures=in_order(list(works), CATALOGUE)), setup, CATALOGUE).steps:
            if line.step.heat and not line.step.source:
                apart = [
                    name for name in ("break", "head", "duct", "leads") if state[name] != CATALOGUE.states[name].rest
                ]
                assert not apart, f"{works}: {line.step.label}"
            state |= {**line.step.gives, **line.exits[0].gives}


def test_a_liner_needs_what_the_metal_outgrows_it_by():
    assert needed_preload(-0.12, 0.1, 0.05, 0.0) == pytest.approx(0.22)
    assert needed_preload(0.3, 0.1, 0.0, 0.0) == pytest.approx(0.05)
    assert liner_gap(4.0, 0.0) == 0.0


# data that is wrong


def step(**changes: object) -> dict[str, object]:
    whole = {
        "key": "one", "label": "Do it", "text": "Do it so.", "minutes": 1.0, "tools": ["hands"], "signs": [],
        "gates": [{"kind": "tick", "text": "It is so"}],
        "record": [{"key": "n", "label": "Note", "kind": "text"}],
        "exits": [{"key": "done", "label": "Done"}],
        "failing": "Ask somebody.",
    }  # fmt: skip
    return {key: value for key, value in {**whole, **changes}.items() if value is not None}


@pytest.mark.parametrize(
    ("wrong", "told"),
    [
        ([step(tools=[])], "tools"),
        ([step(signs=None)], "signs"),
        ([step(gates=[])], "gates"),
        ([step(record=None)], "record"),
        ([step(record=[])], "record"),
        ([step(exits=[])], "exits"),
        ([step(failing=None)], "failing"),
        ([step(), step()], "key of its own"),
        ([step(exits=[{"key": "x", "label": "Back", "to": "step:one"}])], "without end"),
        ([step(exits=[{"key": "x", "label": "Back", "to": "step:one", "most": 3}])], "cycle without an exit"),
        ([step(exits=[{"key": "x", "label": "Away", "to": "step:none"}])], "not there"),
        ([step(exits=[{"key": "x", "label": "Away", "to": "moon"}])], "no place"),
        ([step(gates=[{"kind": "reach", "text": "until hot"}])], "needs heat"),
        ([step(gates=[{"kind": "hold", "text": "until over"}])], "needs seconds"),
        ([step(uncouples=True)], "photograph"),
        ([step(source="flame")], "what it warms"),
    ],
)
def test_a_broken_procedure_is_refused_with_the_fault(wrong, told):
    with pytest.raises(ValidationError) as caught:
        Procedure.model_validate({"label": "Mine", "why": "because", "rank": 1, "steps": wrong})
    assert told in str(caught.value)


@pytest.mark.parametrize(
    ("change", "told"),
    [
        ({"needs": {"power": "off"}}, "no state power = 'off'"),
        ({"gives": {"moon": "full"}}, "no state moon"),
        ({"cautions": ["none"]}, "shelf cautions"),
        ({"signs": ["burn"]}, "can hurt by burn"),
        ({"heat": "hottest"}, "shelf heat_rules"),
        ({"only": {"pull": "hard"}}, "no option 'hard'"),
        ({"exits": [{"key": "x", "label": "Away", "to": "procedure:none"}]}, "which is not there"),
        ({"exits": [{"key": "x", "label": "Away", "to": "procedure:mine"}]}, "leads back to itself"),
    ],
)
def test_a_step_that_names_what_is_not_there_is_refused(change, told):
    mine = {"label": "Mine", "why": "because", "rank": 1, "steps": [step(**change)]}
    with pytest.raises(ValidationError) as caught:
        CATALOGUE.with_own({"procedures": {"mine": mine}})
    assert told in str(caught.value)


def test_needs_that_no_transition_meets_lead_nowhere():
    mine = {"label": "Mine", "why": "because", "rank": 1, "steps": [step(needs={"block": "hot"})]}
    cold = [step(gives={"block": "cool"}, key="cold"), *mine["steps"]]
    own = CATALOGUE.with_own({"procedures": {"mine": {**mine, "steps": cold}}})
    with pytest.raises(NoWayError):
        order(Doing(procedures=["mine"]), METAL, own)
    assert END == "end"


def test_an_option_that_changes_the_sheet_brings_its_care():
    job = Job(variants={"glass": Variant(label="Glass", change={"bed": {"sheet": "glass"}})}, chosen=["glass"])
    assert suggested(job, CATALOGUE) == ["sheet_change"]
