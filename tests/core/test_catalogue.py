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


def test_four_hotends_and_nine_filaments_with_doubts():
    catalogue = shipped()
    assert len(catalogue.hotends) == 4
    assert len(catalogue.filaments) == 9
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
