"""Bands and certainty over the hours."""

from __future__ import annotations

import numpy as np
import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import patched
from zeotherm.core.parts.hotend.judge.bands import bands
from zeotherm.core.parts.hotend.judge.course import plan
from zeotherm.core.parts.hotend.judge.over_time import MOMENTS, over_time
from zeotherm.core.solver.axisymmetric import CancelledError


@pytest.fixture(scope="module")
def curlew(demo):
    """Curlew's day, and how sure it is."""
    job = demo("Curlew")
    course = plan(patched(job.setup(), {"schedule": {"cool_min": 0.0}}), shipped(), job.tolerances)
    return course, over_time(course)


def test_bands_cover_the_print_and_its_worst_moment(curlew):
    course, sure = curlew
    assert MOMENTS <= len(sure.times) <= MOMENTS + 1
    assert course.worst_time in sure.times
    assert np.all(np.diff(sure.times) > 0.0)
    assert sure.times[0] > course.run.printing_from


def test_the_band_at_the_worst_moment_is_that_of_the_moment(curlew):
    course, sure = curlew
    at = int(np.argmin(np.abs(sure.times - course.worst_time)))
    answer = course.answer(course.worst_time)
    alone = bands(answer.solved, answer.limits, in_full=0).values["bore"]
    assert sure.down["bore"][at] == pytest.approx(alone.down)
    assert sure.up["bore"][at] == pytest.approx(alone.up)


def test_a_span_holds_its_curve(curlew):
    course, sure = curlew
    times, low, high = sure.span(course, "bore")
    middle = np.interp(times, course.run.times, course.series["bore"])
    assert np.all(low < middle)
    assert np.all(middle < high)


def test_certainty_falls_when_the_sun_comes(curlew):
    course, sure = curlew
    holds = sure.holds["feed"]
    noon = (12.0 - course.run.clock(0.0)) * 3600.0
    before, after = holds[sure.times < noon - 1800.0], holds[sure.times > noon + 5400.0]
    assert before.min() > 0.8
    assert after.max() < 0.4


def test_stations_alone_are_those_of_the_moment(curlew):
    run = curlew[0].run
    for time in (300.0, 0.5 * run.end, run.end):
        assert run.stations(time) == run.moment(time).readout.values


def test_nobody_waits_for_what_is_no_longer_wanted(curlew):
    course, _sure = curlew
    with pytest.raises(CancelledError):
        over_time(course, lambda: True)
