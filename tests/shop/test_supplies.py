"""Further supplies by the entry line: added, told of, loaded, and taken out again."""

from __future__ import annotations

import re

import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import Job, Setup, patched
from zeotherm.core.machine.patches import value_at
from zeotherm.shop.editing.edits import RefusedError, apply_line, line_as_fact, said, with_further, without_further
from zeotherm.shop.files.job_files import dumps, loads
from zeotherm.wording.entry import understand
from zeotherm.wording.further_lines import FurtherChange

S2 = {"supplies": {"S2": {"out_v": 12.0}}}


@pytest.mark.parametrize(
    ("line", "told"),
    [
        ("second supply 24 V 350 W for the bed", "S2.out_v=24 S2.supply_w=350 bed=S2"),
        ("another power supply", ""),
        ("extra supply 36 volts 10 A, boxed with a fan", "S2.out_v=36 S2.supply_w=360 S2.supply=boxed_fan"),
        ("12 V rail for the fans", "S2.out_v=12 S2.supply=step_down S2.fed_by=S1 fans=S2"),
        ("48 V rail for the motors", "S2.out_v=48 S2.supply=step_up S2.fed_by=S1 motors=S2"),
        ("step-down converter 5 V 3 A for the display", "S2.out_v=5 S2.supply_w=15 S2.supply=step_down lights=S2"),
        ("buck 5 V for the camera", "S2.out_v=5 S2.supply=step_down S2.fed_by=S1 lights=S2"),
        ("add S3 brick 19 V 90 W outside", "S3.out_v=19 S3.supply_w=90 S3.supply=brick S3.supply_at=outside"),
        ("add S2 24 V selector 115", "S2.out_v=24 S2.selector_v=115"),
    ],
)
def test_one_more_is_said_in_plain_words(line, told):
    job = line_as_fact(Job(), line)
    for one in told.split():
        path, _is, value = one.partition("=")
        path = f"supplies.{path}" if path.startswith("S") else f"power.{path}_from"
        assert str(value_at(job.found, path)).removesuffix(".0") == value
        assert path in job.known
    assert len(job.found.supplies) == 1
    assert not job.trial
    assert loads(dumps(job)) == job


@pytest.mark.parametrize(
    ("line", "path", "value"),
    [
        ("S2 24 V", "supplies.S2.out_v", 24.0),
        ("s2: 15 A", "supplies.S2.supply_w", 180.0),
        ("S2 fanless, 6 years old", "supplies.S2.years", 6.0),
        ("S2 inside", "supplies.S2.supply_at", "inside_low"),
        ("S2 feeds the lights", "power.lights_from", "S2"),
        ("S2 step down", "supplies.S2.fed_by", "S1"),
    ],
)
def test_something_is_told_of_one(line, path, value):
    job = said(Job(found=patched(Setup(), S2)), line)
    assert value_at(job.found, path) == value
    assert job.known[path].how == "entered"


@pytest.mark.parametrize(
    ("line", "why"),
    [
        ("S3 24 V", "There is no S3. Type: add S3 24 V 350 W"),
        ("S8 24 V", "Further supplies are numbered S2 to S4."),
        ("add S1", "Further supplies are numbered S2 to S4."),
        ("add S2", "There is an S2 already."),
        ("S2", "Say more about S2"),
        ("S2 grumpy", "'grumpy' is not clear"),
        ("S2 500 V", "goes from 4 V to 60 V"),
        ("S2 fed by S2", "S2 cannot feed itself."),
        ("S2 fed by S4", "There is no S4."),
        ("S2 500 W 90 V", "goes from 4 V to 60 V"),
        ("S2 step-up", "a step-up converter cannot make 12 V from 24 V."),
        ("S1", "S1 is the board's supply."),
        ("without S3", "There is no S3."),
        ("bed on S3", "Bed fed by has no 'S3'"),
        ("fans from mains", "Fans fed by has no 'mains'"),
    ],
)
def test_what_cannot_be_is_told_and_nothing_changes(line, why):
    job = Job(found=patched(Setup(), S2))
    for enter in (said, line_as_fact, lambda now, text: apply_line(now, text)[0]):
        with pytest.raises(RefusedError, match=re.escape(why)):
            enter(job, line)


def test_one_that_feeds_something_stays_until_that_is_fed_elsewhere():
    job = line_as_fact(Job(found=patched(Setup(), S2)), "S2 feeds the bed")
    job = job.model_copy(update={"tolerances": {"supplies.S2.out_v": 0.1}})
    with pytest.raises(RefusedError, match=re.escape("S2 feeds the bed. Put that on another supply first.")):
        without_further(job, "supplies", "S2")
    gone = said(line_as_fact(job, "bed on S1"), "without S2")
    assert not gone.found.supplies
    assert not [path for path in (*gone.known, *gone.tolerances) if path.startswith("supplies.")]


def test_one_on_trial_is_no_bar():
    """An option of a job may add a supply of its own: the machine as found is told of another one all the same."""
    job = Job(trial={"supplies": {"S2": {"out_v": 24.0}}, "power": {"bed_from": "S2"}})
    meant = understand("another supply", job.setup(), shipped())
    assert isinstance(meant, FurtherChange)
    assert meant.number == "S3"
    assert set(with_further(job, meant).setup().supplies) == {"S2", "S3"}
    four = Job(found=patched(Setup(), {"supplies": {"S2": {}, "S3": {}, "S4": {}}}))
    with pytest.raises(RefusedError, match="There are four supplies already"):
        said(four, "another supply")
