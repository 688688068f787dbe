"""The catalogue: every figure has a source, every reference leads somewhere."""

from __future__ import annotations

import pytest
from pydantic import ValidationError

from zeotherm.core.catalogue import Catalogue, shipped
from zeotherm.core.catalogue.entry import Figure
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.quantity import declared
from zeotherm.core.parts.hotend.judge.limits import held
from zeotherm.core.parts.hotend.model.inputs import resolve


def test_references_between_shelves_lead_somewhere():
    catalogue = shipped()
    for part in catalogue.breaks.values():
        assert {part.sink_side, part.neck, part.block_side} <= set(catalogue.materials)
    for shape in catalogue.hotends.values():
        assert catalogue.breaks[shape.default_break].bore == shape.bore
        assert {shape.block_material, shape.nozzle_material} <= set(catalogue.materials)
    assert {limit.station for limit in catalogue.limits.values()} <= set(STATIONS)
    assert set(catalogue.references) <= set(declared(Setup))


BREADTH = {  # how many kinds of each the trade has at least
    "filaments": 40, "hotends": 12, "breaks": 12, "blocks": 8, "nozzles": 24, "sensors": 10, "fans": 18, "drives": 6,
    "sleeves": 6, "beds": 24, "insulations": 11, "panels": 15, "supplies": 12, "switches": 7,
}  # fmt: skip


@pytest.mark.parametrize(("shelf", "least"), BREADTH.items())
def test_the_shelf_has_every_part_of_the_trade(shelf, least):
    entries = shipped().shelf(shelf)
    assert len(entries) >= least
    labels = [one.label.lower() for one in entries.values()]
    assert len(set(labels)) == len(labels)


def test_every_figure_has_its_doubt():
    catalogue = shipped()
    for entry in [*catalogue.filaments.values(), *catalogue.materials.values()]:
        figures = [value for value in entry.__dict__.values() if isinstance(value, Figure)]
        assert figures
        assert all(figure.tolerance > 0 for figure in figures)


def test_every_limit_says_its_source():
    for limit in held(resolve(Setup(), shipped()), shipped()):
        assert limit.source
        assert limit.limit.breaks


def test_own_entries_are_checked():
    copper = shipped().materials["copper_alloy"].model_dump()
    own = shipped().with_own({"materials": {"own_alloy": copper}})
    assert isinstance(own, Catalogue)
    assert own.materials["own_alloy"].label == "copper alloy"
    with pytest.raises(ValidationError):
        shipped().with_own({"materials": {"own_alloy": {"label": "nothing else"}}})
