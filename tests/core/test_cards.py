"""Cards: every number and part of a machine is entered on one of them; and the picture that they point into."""

from __future__ import annotations

from collections import Counter

import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.machine.documents import VERSION, Job, Setup, patched
from zeotherm.core.machine.quantity import declared
from zeotherm.core.parts.registry import PARTS
from zeotherm.desk.parts.whole.shape import MachineShape, shape_of

CARDS, KINDS = shipped().cards, shipped().machines
DRAWN = ("hotend", "heat_break", "heatsink_fan", "bed", "bed_sheet", "bed_under", "extruder", "spool", "supply",
         "board", "display", "frame", "print", "carriage", "part_fan", "motors", "printed_parts", "outlet")  # fmt: skip


def test_everything_declared_is_on_one_card():
    counts = Counter(path for card in CARDS.values() for path in card.paths)
    assert set(counts) == set(declared(Setup))
    assert [path for path, count in counts.items() if count > 1] == []


def test_cards_speak_of_what_there_is():
    for key, card in CARDS.items():
        assert set(card.says) <= set(card.paths) | set(declared(Setup)), key
        assert set(card.stations) <= set(STATIONS), key
        assert card.part == "hotend" or card.part in PARTS, key
        assert bool(card.needs) == bool(card.without), key


def machine(**change) -> MachineShape:
    return shape_of(patched(Setup(), change), shipped())


@pytest.mark.parametrize("kind", KINDS)
def test_every_kind_of_machine_is_drawn(kind):
    setup = patched(Setup(), KINDS[kind].change)
    shape = shape_of(setup, shipped())
    whole = shape.extent
    assert set(DRAWN) <= set(shape.anchors)
    for x, y in shape.anchors.values():
        assert whole.left - 1 <= x <= whole.right + 1
        assert whole.bottom - 4 <= y <= whole.top + 1
    for one in shape.solids:
        assert one.box.left < one.box.right, one
        assert one.box.bottom <= one.box.top, one
    assert shape.tip[1] > shape.bed.top  # the nozzle is above the print
    assert shape.bed.left < shape.tip[0] < shape.bed.right
    if shape.enclosure is not None:
        inside = shape.enclosure
        for card in ("hotend", "bed", "carriage", "print", "heatsink_fan"):
            for one in (one.box for one in shape.solids if one.card == card):
                assert one.around(inside) == inside, card


def test_what_is_measured_is_drawn_as_measured():
    shape = machine(frame={"depth_mm": 500.0, "height_mm": 700.0})
    frame = [one.box for one in shape.solids if one.card == "frame"]
    assert max(one.top for one in frame) == 700.0
    assert max(one.right for one in frame) == pytest.approx(500.0, abs=10.0)
    box = machine(case={"part": "bench_locker", "depth_mm": 610.0, "height_mm": 640.0})
    assert box.enclosure is not None
    assert (box.enclosure.right, box.enclosure.top) == (610.0, 640.0)


def test_the_supply_is_drawn_where_it_sits():
    locker = {"part": "bench_locker", "depth_mm": 560.0, "height_mm": 560.0}
    outside = machine(case={**locker, "supply_at": "outside"})
    within = machine(case={**locker, "supply_at": "inside_low"})
    assert outside.enclosure is not None
    at = {name: next(one.box for one in shape.solids if one.card == "supply")
          for name, shape in (("outside", outside), ("within", within))}  # fmt: skip
    assert at["outside"].left > outside.enclosure.right
    assert at["within"].right <= outside.enclosure.right


def test_a_tube_leads_from_a_drive_that_does_not_ride_along():
    tube = machine(hotend={"drive": "geared_tube", "template": "compact_lined", "break_part": "lined_steel"})
    direct = machine(hotend={"drive": "geared"})
    assert [one.kind for one in tube.strokes].count("tube") == 1
    assert [one.kind for one in direct.strokes].count("tube") == 0


def test_an_older_job_says_how_its_machine_is_built_by_its_parts():
    def frame(**found) -> str:
        return Job.model_validate({"version": "1.14", "found": found}).found.frame.kind

    assert frame(bed={"part": "round_bed"}) == "towers"
    assert frame(case={"part": "closed_production"}) == "box"
    assert frame(case={"part": "bench_locker"}) == "bed_moves"
    assert frame(bed={"part": "round_bed"}, frame={"kind": "box"}) == "box"
    told = Job.model_validate({"version": "1.13", "found": {"bed": {"part": "round_bed"}}})
    assert "frame.kind" not in told.known  # nobody entered it
    assert told.version == VERSION


def test_a_frame_that_there_is_not_is_refused():
    with pytest.raises(KeyError):
        shape_of(patched(Setup(), {"frame": {"kind": "no_such_frame"}}), shipped())
