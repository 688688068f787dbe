"""A bank of wirings: right ones, and ones that are wrong in one way each."""

from __future__ import annotations

import itertools
from dataclasses import replace

import pytest
from pydantic import ValidationError

from zeotherm.core.catalogue import shipped
from zeotherm.core.guard.wires import WireSite, carried
from zeotherm.core.machine.wiring import Link, Wiring
from zeotherm.core.parts.power.judge.nets import RIGHT, Nets, WiringDemand, check, end_points, proposed

CATALOGUE = shipped()
AMPS = {"module": 12.0, "mains": 3.0}
AROUND = WireSite(CATALOGUE.wire_insulations["silicone"], CATALOGUE.wire_metals["copper"], 2.0, 35.0)
FEEDS = {kind: WiringDemand(AROUND, AROUND, amps, 25.0, 15.0, 24.0, 230.0) for kind, amps in AMPS.items()}
BACK = "inlet_switch.neutral_out"
LIVE = {"wall.line", "wall.neutral", "bed.a", "bed.b", "supply.line", "supply.neutral"}
LOOKED_UP = {"leakage_protected": True, "selector": "230"}


def wiring(kind: str = "module", out: tuple[str, ...] = (), put: tuple[str, ...] = (), **changes: object) -> Wiring:
    """The proposal without some wires, by their ends 'a b', and with others, 'a b' or 'a b mm2'."""
    base = proposed(kind, CATALOGUE, FEEDS[kind]).model_copy(update=LOOKED_UP)
    gone = [frozenset(one.split()) for one in out]
    kept = [link for link in base.links if frozenset(link.ends) not in gone]
    assert len(kept) == len(base.links) - len(gone), "a wire to take out is not there"
    new, thick = [], next(link.mm2 for link in base.links if "bed.a" in link.ends)
    for one in put:
        first, second, *mm2 = one.split()
        new.append(Link(ends=[first, second], mm2=float(mm2[0]) if mm2 else thick))
    return base.model_copy(update={"links": [*kept, *new], **changes})


RIGHT_ONES = {
    "as proposed": wiring(),
    "fuse turned round": wiring(out=("supply.plus fuse.a", "fuse.b module.in_plus"),
                                put=("supply.plus fuse.b", "fuse.a module.in_plus")),
    "cut-off turned round": wiring(out=("module.out_plus cutoff.a", "cutoff.b bed.a"),
                                   put=("module.out_plus cutoff.b", "cutoff.a bed.a")),
    "bed leads exchanged": wiring(out=("cutoff.b bed.a", "module.out_minus bed.b"),
                                  put=("cutoff.b bed.b", "module.out_minus bed.a")),
    "cut-off in the other lead": wiring(
        out=("module.out_plus cutoff.a", "cutoff.b bed.a", "module.out_minus bed.b"),
        put=("module.out_plus bed.a", "module.out_minus cutoff.a", "cutoff.b bed.b")),
    "cut-off before the module": wiring(
        out=("fuse.b module.in_plus", "module.out_plus cutoff.a", "cutoff.b bed.a"),
        put=("fuse.b cutoff.a", "cutoff.b module.in_plus", "module.out_plus bed.a")),
    "tap from the supply itself": wiring(out=("board.in_plus board.bed_in_plus", "board.in_minus board.bed_in_minus"),
                                         put=("supply.plus board.bed_in_plus", "supply.minus board.bed_in_minus")),
    "tap behind the fuse": wiring(out=("board.in_plus board.bed_in_plus",), put=("fuse.b board.bed_in_plus",)),
    "ends told the other way": wiring(out=("supply.plus board.in_plus",), put=("board.in_plus supply.plus",)),
    "a thicker wire": wiring(out=("module.out_minus bed.b",), put=("module.out_minus bed.b 6",)),
    "mains, as proposed": wiring("mains"),
    "mains, bed leads exchanged": wiring("mains", out=("cutoff.b bed.a", "bed.b inlet_switch.neutral_out"),
                                         put=("cutoff.b bed.b", "bed.a inlet_switch.neutral_out")),
    "mains, cut-off before the switch": wiring(
        "mains", out=("fuse.b switch.line_in", "switch.line_out cutoff.a", "cutoff.b bed.a"),
        put=("fuse.b cutoff.a", "cutoff.b switch.line_in", "switch.line_out bed.a")),
    "mains, bed that cannot be touched": wiring("mains", out=("bed.frame wall.earth",), metal_bed=False),
}  # fmt: skip
WRONG_ONES = {  # what it is: (the fault, the wiring)
    "no such end point": ("unknown_end", wiring(put=("module.gate supply.plus",))),
    "nowhere": ("nowhere", wiring(put=("bed.a bed.a",))),
    "the same wire twice": ("twice", wiring(put=("supply.plus board.in_plus",))),
    "supply shorted": ("short", wiring(put=("supply.plus supply.minus",))),
    "supply shorted through the fuse": ("short", wiring(put=("fuse.b supply.minus",))),
    "module's output shorted": ("short", wiring(put=("module.out_plus module.out_minus",))),
    "board without plus": ("board_unfed", wiring(out=("supply.plus board.in_plus",))),
    "board without minus": ("board_unfed", wiring(out=("supply.minus board.in_minus",))),
    "board reversed": ("board_reversed", wiring(
        out=("supply.plus board.in_plus", "supply.minus board.in_minus", "board.in_plus board.bed_in_plus",
             "board.in_minus board.bed_in_minus"),
        put=("supply.plus board.in_minus", "supply.minus board.in_plus", "supply.plus board.bed_in_plus",
             "supply.minus board.bed_in_minus"))),
    "module without plus": ("module_unfed", wiring(out=("fuse.b module.in_plus",))),
    "module without minus": ("module_unfed", wiring(out=("supply.minus module.in_minus",))),
    "module reversed": ("module_reversed", wiring(
        out=("fuse.b module.in_plus", "supply.minus module.in_minus"),
        put=("fuse.b module.in_minus", "supply.minus module.in_plus"))),
    "no fuse": ("no_fuse", wiring(out=("supply.plus fuse.a", "fuse.b module.in_plus"),
                                  put=("supply.plus module.in_plus",))),
    "fuse bridged": ("fuse_bridged", wiring(put=("fuse.a fuse.b",))),
    "fuse behind the module": ("fuse_behind", wiring(
        out=("supply.plus fuse.a", "fuse.b module.in_plus", "cutoff.b bed.a"),
        put=("supply.plus module.in_plus", "cutoff.b fuse.a", "fuse.b bed.a"))),
    "fuse too small": ("fuse_small", wiring(fuse_a=10.0)),
    "fuse larger than its wire": ("fuse_large", wiring(fuse_a=40.0)),
    "thin bed lead": ("wire_thin", wiring(out=("module.out_minus bed.b",), put=("module.out_minus bed.b 0.5",))),
    "switch rated too near": ("switch_small", wiring(rated_a=14.0)),
    "no tap": ("no_tap", wiring(out=("board.in_plus board.bed_in_plus", "board.in_minus board.bed_in_minus"))),
    "tap without its minus": ("no_tap", wiring(out=("board.in_minus board.bed_in_minus",))),
    "tap reversed": ("tap_reversed", wiring(
        out=("board.in_plus board.bed_in_plus", "board.in_minus board.bed_in_minus"),
        put=("board.in_plus board.bed_in_minus", "board.in_minus board.bed_in_plus"))),
    "no signal": ("no_signal", wiring(
        out=("board.bed_out_plus module.signal_plus", "board.bed_out_minus module.signal_minus"))),
    "half a signal": ("no_signal", wiring(out=("board.bed_out_minus module.signal_minus",))),
    "signal reversed": ("signal_reversed", wiring(
        out=("board.bed_out_plus module.signal_plus", "board.bed_out_minus module.signal_minus"),
        put=("board.bed_out_plus module.signal_minus", "board.bed_out_minus module.signal_plus"))),
    "signal from the supply": ("signal_always", wiring(
        out=("board.bed_out_plus module.signal_plus", "board.bed_out_minus module.signal_minus"),
        put=("supply.plus module.signal_plus", "supply.minus module.signal_minus"))),
    "one bed lead loose": ("bed_open", wiring(out=("module.out_minus bed.b",))),
    "bed on the supply": ("bed_always", wiring(
        out=("cutoff.b bed.a", "module.out_minus bed.b"), put=("fuse.b bed.a", "supply.minus bed.b"))),
    "bed on the module's input": ("bed_always", wiring(
        out=("cutoff.b bed.a", "module.out_minus bed.b"), put=("module.in_plus bed.a", "module.in_minus bed.b"))),
    "bed left on the board": ("bed_on_board", wiring(
        out=("cutoff.b bed.a", "module.out_minus bed.b"),
        put=("board.bed_out_plus bed.a", "board.bed_out_minus bed.b"))),
    "both leads on one terminal": ("bed_idle", wiring(
        out=("module.out_minus bed.b",), put=("cutoff.b bed.b",))),
    "bed's minus past the switch": ("switch_bridged", wiring(put=("bed.b supply.minus",))),
    "output tied to input": ("switch_bridged", wiring(put=("module.out_plus module.in_plus",))),
    "signal on the output": ("signal_meets_power", wiring(put=("module.signal_plus module.out_minus",))),
    "one signal wire on the supply": ("signal_meets_power", wiring(put=("module.signal_minus supply.minus",))),
    "both signal wires together": ("signal_meets_power", wiring(put=("module.signal_minus module.signal_plus",))),
    "fuse without a rating": ("fuse_unrated", wiring(fuse_a=0.0)),
    "mains, switched line on neutral": ("short", wiring("mains", put=("switch.line_out wall.neutral",))),
    "mains, line past the switch": ("switch_bridged", wiring("mains", put=("switch.line_out wall.line",))),
    "no cut-off": ("no_cutoff", wiring(out=("module.out_plus cutoff.a", "cutoff.b bed.a"),
                                       put=("module.out_plus bed.a",))),
    "cut-off in the signal": ("cutoff_in_signal", wiring(
        out=("module.out_plus cutoff.a", "cutoff.b bed.a", "board.bed_out_plus module.signal_plus"),
        put=("module.out_plus bed.a", "board.bed_out_plus cutoff.a 0.5", "cutoff.b module.signal_plus 0.5"))),
    "cut-off bridged": ("cutoff_bridged", wiring(put=("cutoff.a cutoff.b",))),
    "mains on low voltage": ("mains_meets_low", wiring("mains", put=("wall.neutral supply.minus",))),
    "mains on the signal": ("mains_meets_low", wiring("mains", put=("bed.a switch.signal_plus",))),
    "mains shorted": ("short", wiring("mains", put=("wall.line wall.neutral",))),
    "metal bed without earth": ("no_earth", wiring("mains", out=("bed.frame wall.earth",))),
    "earth as the return": ("earth_carries", wiring("mains", out=(f"bed.b {BACK}",), put=("bed.b wall.earth",))),
    "neutral switched": ("neutral_switched", wiring(
        "mains", out=("inlet_switch.line_out fuse.a", f"bed.b {BACK}"),
        put=("wall.neutral fuse.a", "bed.b wall.line"))),
    "no leakage protection": ("no_leakage_protection", wiring("mains", leakage_protected=False)),
    "mains, no fuse": ("no_fuse", wiring("mains", out=("inlet_switch.line_out fuse.a", "fuse.b switch.line_in"),
                                         put=("wall.line switch.line_in",))),
    "mains, no cut-off": ("no_cutoff", wiring("mains", out=("switch.line_out cutoff.a", "cutoff.b bed.a"),
                                              put=("switch.line_out bed.a",))),
    "mains, bed past the switch": ("bed_always", wiring("mains", out=("cutoff.b bed.a",), put=("fuse.b bed.a",))),
    "mains, no return": ("bed_open", wiring("mains", out=("bed.b inlet_switch.neutral_out",))),
    "mains, no line": ("module_unfed", wiring("mains", out=("fuse.b switch.line_in",))),
    "mains, cut-off in the neutral": ("cutoff_in_neutral", wiring(
        "mains", out=("switch.line_out cutoff.a", "cutoff.b bed.a", "bed.b inlet_switch.neutral_out"),
        put=("switch.line_out bed.a", "bed.b cutoff.a", "cutoff.b inlet_switch.neutral_out"))),
    "mains, fuse in the neutral": ("fuse_in_neutral", wiring(
        "mains", out=("inlet_switch.line_out fuse.a", "fuse.b switch.line_in", "bed.b inlet_switch.neutral_out"),
        put=("inlet_switch.line_out switch.line_in", "bed.b fuse.a", "fuse.b inlet_switch.neutral_out"))),
    "mains, hair of an earth": ("earth_thin", wiring("mains", out=("bed.frame wall.earth",),
                                                     put=("bed.frame wall.earth 0.1",))),
    "mains, bell wire": ("below_least", wiring("mains", out=("cutoff.b bed.a",), put=("cutoff.b bed.a 0.25",))),
    "mains, 20 A on 1.0 mm²": ("fuse_large", wiring("mains", out=("cutoff.b bed.a",), put=("cutoff.b bed.a 1.0",),
                                                    fuse_a=20.0)),
    "20 A on 1.0 mm²": ("fuse_large", wiring(out=("cutoff.b bed.a",), put=("cutoff.b bed.a 1.0",), fuse_a=20.0)),
    "a tap as thin as a hair": ("tap_thin", wiring(out=("board.in_plus board.bed_in_plus",),
                                                   put=("board.in_plus board.bed_in_plus 0.5",))),
    "mains, blade fuse": ("fuse_kind_wrong", wiring("mains", fuse_kind="blade")),
    "mains, glass fuse": ("fuse_kind_wrong", wiring("mains", inlet_fuse_kind="glass")),
    "a fuse for alternating current": ("fuse_kind_wrong", wiring(fuse_kind="glass")),
    "a fuse of any kind": ("fuse_kind_unknown", wiring(fuse_kind="unknown")),
    "mains, supply without its line": ("supply_unfed", wiring("mains", out=("inlet_switch.line_out supply.line",))),
    "mains, supply crossed": ("supply_crossed", wiring(
        "mains", out=("inlet_switch.line_out supply.line", "inlet_switch.neutral_out supply.neutral"),
        put=("inlet_switch.line_out supply.neutral", "inlet_switch.neutral_out supply.line"))),
    "mains, supply without earth": ("supply_unearthed", wiring("mains", out=("supply.earth wall.earth",))),
    "mains, no inlet fuse": ("no_inlet_fuse", wiring(
        "mains", out=("wall.line inlet_fuse.a", "inlet_fuse.b inlet_switch.line_in"),
        put=("wall.line inlet_switch.line_in",))),
    "mains, inlet fuse of any size": ("inlet_fuse_unrated", wiring("mains", inlet_fuse_a=0.0)),
    "mains, inlet fuse too large": ("inlet_fuse_large", wiring("mains", inlet_fuse_a=30.0)),
    "mains, switch of one pole": ("one_pole", wiring(
        "mains", out=("wall.neutral inlet_switch.neutral_in",), put=("wall.neutral inlet_switch.neutral_out",))),
    "mains, selector not looked at": ("selector_unknown", wiring("mains", selector="unknown")),
    "mains, selector at 115 V": ("selector_wrong", wiring("mains", selector="115")),
}  # fmt: skip


def test_the_bank_is_large_enough():
    assert len(RIGHT_ONES) + len(WRONG_ONES) >= 40


@pytest.mark.parametrize("name", RIGHT_ONES)
def test_no_right_wiring_is_refused(name):
    found = RIGHT_ONES[name]
    assert check(found, CATALOGUE, FEEDS[found.kind]) == []


@pytest.mark.parametrize("name", WRONG_ONES)
def test_every_wrong_wiring_is_named(name):
    fault, found = WRONG_ONES[name]
    told = check(found, CATALOGUE, FEEDS[found.kind])
    assert fault in [one.key for one in told]
    known = end_points(CATALOGUE, found.kind)
    for one in told:
        entry = CATALOGUE.wiring_faults[one.key]
        assert entry.comes.endswith(".")
        assert one.key == "unknown_end" or set(one.ends) <= set(known)
    bad = [CATALOGUE.wiring_faults[one.key].bad for one in told]
    assert bad == sorted(bad, key=["stop", "fire", "dead"].index)


UNKNOWN_ONES = {"load_unknown": {"amps": 0.0}, "switch_unrated": {"rated": 0.0}}  # what nobody told, by its fault


@pytest.mark.parametrize("fault", UNKNOWN_ONES)
def test_what_is_not_known_is_never_sound(fault):
    feed = replace(FEEDS["module"], **UNKNOWN_ONES[fault])
    assert fault in {one.key for one in check(wiring(), CATALOGUE, feed)}


def test_a_lead_that_is_not_made_for_the_mains_is_refused():
    bare = AROUND.insulation.model_copy(update={"rated_v": 60.0})
    feed = replace(FEEDS["mains"], lead=replace(AROUND, insulation=bare))
    assert "insulation_low" in {one.key for one in check(wiring("mains"), CATALOGUE, feed)}


def test_every_fault_of_the_catalogue_is_in_the_bank():
    told = {fault for fault, _wiring in WRONG_ONES.values()} | set(UNKNOWN_ONES) | {"insulation_low"}
    assert told == set(CATALOGUE.wiring_faults)


def test_warmer_air_a_bundle_or_a_poorer_metal_make_a_wire_carry_less():
    for warmer, other in ((65.0, {}), (35.0, {"bundle": 6.0}), (35.0, {"metal": "clad_aluminium"})):
        changed = replace(AROUND, air_c=warmer, bundle=other.get("bundle", 2.0),
                          metal=CATALOGUE.wire_metals[other.get("metal", "copper")])  # fmt: skip
        thin = wiring(out=("cutoff.b bed.a",), put=("cutoff.b bed.a 1.0",), fuse_a=15.0)
        assert carried(1.0, changed, CATALOGUE) < carried(1.0, AROUND, CATALOGUE)
        assert check(thin, CATALOGUE, replace(FEEDS["module"], lead=changed))


def test_between_sizes_a_wire_carries_what_lies_between():
    assert carried(1.0, AROUND, CATALOGUE) < carried(1.31, AROUND, CATALOGUE) < carried(1.5, AROUND, CATALOGUE)
    assert carried(0.05, AROUND, CATALOGUE) == 0.0
    assert carried(
        1.5, replace(AROUND, insulation=CATALOGUE.wire_insulations["pvc"], air_c=30.0), CATALOGUE
    ) == pytest.approx(18.0)


@pytest.mark.parametrize("kind", RIGHT)
def test_taking_any_wire_out_is_never_right(kind):
    base = wiring(kind)
    for at in range(len(base.links)):
        links = [link for n, link in enumerate(base.links) if n != at]
        assert check(base.model_copy(update={"links": links}), CATALOGUE, FEEDS[kind])


@pytest.mark.parametrize("kind", RIGHT)
def test_joining_any_two_nets_by_one_more_wire_is_never_right(kind):
    base = wiring(kind)
    earth = ("bed.frame", "wall.earth", "supply.earth")  # a low-voltage pole may be earthed
    nets, ends = Nets(base), list(end_points(CATALOGUE, kind))
    for one, other in itertools.combinations(ends, 2):
        live = (
            {"wall.line", "wall.neutral", "bed.a", "bed.b", "supply.line", "supply.neutral"}
            if kind == "mains"
            else set()
        )
        earthed = {one, other} & set(earth) and not {one, other} & live
        if not nets.meet(one, other) and not earthed:
            more = base.model_copy(update={"links": [*base.links, Link(ends=[one, other])]})
            assert check(more, CATALOGUE, FEEDS[kind]), (one, other)


def test_that_the_outlet_trips_on_leakage_is_never_taken_for_granted():
    told = check(proposed("mains", CATALOGUE, FEEDS["mains"]), CATALOGUE, FEEDS["mains"])
    assert {one.key for one in told} == {"no_leakage_protection", "selector_unknown"}


def test_an_empty_wiring_and_bad_ends_are_told():
    assert {one.key for one in check(Wiring(), CATALOGUE, FEEDS["module"])} >= {"board_unfed", "module_unfed", "no_tap"}
    with pytest.raises(ValidationError, match="pattern"):
        Link(ends=["Supply +", "fuse.a"])
    with pytest.raises(ValidationError, match="at least 2"):
        Link(ends=["supply.plus"])
    with pytest.raises(ValidationError, match="greater than 0"):
        Link(ends=["supply.plus", "fuse.a"], metres=0.0)


def test_better_insulation_and_cool_air_make_no_room_for_a_larger_fuse():
    cool = replace(AROUND, air_c=5.0)
    feed = FEEDS["module"]
    thin = wiring(out=("cutoff.b bed.a",), put=("cutoff.b bed.a 1.0",), fuse_a=20.0)
    assert carried(1.0, cool, CATALOGUE) == CATALOGUE.wire_sizes["1"].amps_30c.value
    assert "fuse_large" in {one.key for one in check(thin, CATALOGUE, replace(feed, lead=cool, feed=cool))}


@pytest.mark.parametrize("thin", ["wall.line inlet_fuse.a", "wall.neutral inlet_switch.neutral_in",
                                  "inlet_switch.line_out fuse.a"])  # fmt: skip
def test_a_wire_that_only_the_inlet_fuse_protects_is_held_against_it(thin):
    found = wiring("mains", out=(thin,), put=(f"{thin} 1.0",), inlet_fuse_a=20.0)
    told = [one for one in check(found, CATALOGUE, FEEDS["mains"]) if one.key == "inlet_fuse_large"]
    assert told
    thick = wiring("mains", out=(thin,), put=(f"{thin} 1.0",), inlet_fuse_a=7.5)
    assert "inlet_fuse_large" not in {one.key for one in check(thick, CATALOGUE, FEEDS["mains"])}


def test_a_wire_in_air_too_hot_for_it_carries_nothing_and_is_a_fault():
    oven = replace(AROUND, air_c=120.0)
    told = {one.key for one in check(wiring("mains"), CATALOGUE, replace(FEEDS["mains"], lead=oven, feed=oven))}
    assert {"wire_thin", "inlet_fuse_large"} <= told
