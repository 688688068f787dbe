"""The manual's tables of what remedies do are what the model says, and what every bench knows."""

from __future__ import annotations

import re
from itertools import pairwise

import pytest
from docs import make_tables

from zeotherm.core.catalogue import shipped
from zeotherm.core.choices.compared import RemedyTried
from zeotherm.wording import compared as words

PAGE = make_tables.PAGE.read_text(encoding="utf-8")
NUMBER = re.compile(r"−?\d+(?:\.\d+)?")
LIKE = pytest.approx


def same(told: str, anew: str) -> bool:
    """Whether two texts say the same, their numbers to a rounding."""
    old, new = ([float(one.replace("−", "-")) for one in NUMBER.findall(text)] for text in (told, anew))
    return NUMBER.sub("#", told) == NUMBER.sub("#", anew) and old == LIKE(new, rel=0.02, abs=1.01)


def section(key: str, found: tuple[RemedyTried, ...]) -> str:
    about = shipped().comparisons[key]
    return make_tables.section(key, words.table(words.heads(about), words.rows(about, found)))


def told(key: str) -> str:
    """A section as the manual has it."""
    head = f"\n## {shipped().comparisons[key].label}\n"
    start = PAGE.index(head)
    return PAGE[start : PAGE.index("\n## ", start + len(head))]


def test_breaks_are_as_the_manual_has_them_and_as_every_bench_knows():
    found = make_tables.solved("breaks")
    assert same(told("breaks"), section("breaks", found))
    steel, dry, titanium, bimetal = (one.cold.stops_at for one in found)
    assert dry < steel < titanium
    assert steel < bimetal
    assert abs(titanium - bimetal) < 4.0


def test_the_volts_are_as_the_manual_has_them():
    assert make_tables.VOLTS.format(table=words.volts_table()) in PAGE
    assert "| 12 V | right | ×4: burns out | ×9: burns out | ×16: burns out |" in PAGE


@pytest.mark.verify
@pytest.mark.parametrize("key", [key for key in shipped().comparisons if key != "breaks"])
def test_tables_are_what_the_model_says(key):
    assert same(told(key), section(key, make_tables.solved(key)))


@pytest.mark.verify
def test_what_every_bench_knows_of_remedies():
    of = {
        key: {(one.label, round(one.air)): one for one in make_tables.solved(key)}
        for key in ("fans", "blocks", "cartridges")
    }

    def base(fan: str, air: int) -> float:
        return of["fans"][fan, air].built.row("sink_base").margin.value

    for air in (25, 45):  # a second fan helps little, and as little in warm air as in cool
        assert 0.0 < base("One 30 mm fan", air) - base("Two 30 mm fans, push and pull", air) < 3.0
        assert base("One 30 mm fan, guard 80 % shut", air) > base("One 30 mm fan", air) + 0.5
    assert base("Two 30 mm fans, push and pull", 45) > 45.0
    hot = {label: one.built.seconds for (label, _air), one in of["blocks"].items()}
    assert hot["Copper, plated"] > 1.15 * hot["Aluminium"]
    seconds = [one.built.seconds for one in of["cartridges"].values()]
    melts = [one.built.melts for one in of["cartridges"].values()]
    assert all(then < before for before, then in pairwise(seconds))
    assert max(melts) == LIKE(min(melts), rel=0.02)
