"""What is known of a part while something is on trial."""

from __future__ import annotations

from tests.kept import STORE
from zeotherm.answers.hotend import hours
from zeotherm.answers.part import part_of
from zeotherm.core.catalogue import shipped
from zeotherm.core.parts.part import PartFound
from zeotherm.core.parts.registry import PARTS
from zeotherm.core.questions import Start, never
from zeotherm.shop.editing import edits


def told(job, key: str, *, wholly: bool = True) -> list[PartFound]:
    task = part_of(STORE, PARTS[key], job, shipped(), Start(), wholly=wholly)
    return [one for one in task(never) if isinstance(one, PartFound)]


def test_as_found_stands_in_the_hours_of_the_machine_as_found(demo):
    job, catalogue, part = demo("Dunlin"), shipped(), PARTS["power"]
    warm = edits.with_value(job, "room.mean_c", job.found.room.mean_c + 12.0)
    last = told(warm, "power")[-1]
    mine, other = (STORE.ask(part.at_rest(job.found, warm, catalogue, hours(setup, warm, catalogue)))
                   for setup in (job.found, warm.setup()))  # fmt: skip
    assert last.as_found.values == mine.values
    assert mine.values != other.values
    assert last.answer.values["power_lead"] > last.as_found.values["power_lead"] + 1.0


def test_without_a_trial_nothing_stands_beside(demo):
    found = told(demo("Dunlin"), "power", wholly=False)
    assert all(one.as_found is None for one in found)
    assert found[-1].answer.run is not None


def test_a_part_that_is_not_there_is_told_so(demo):
    [only] = told(edits.with_value(demo("Curlew"), "case.part", "open_frame"), "case")
    assert only.answer is None
