"""Logs as loggers write them."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.judgement.course import plan
from zeotherm.core.machine.documents import patched
from zeotherm.core.runs.series import Series, bucketed, differences
from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.shop.errors import ShopError
from zeotherm.shop.places import demo_jobs
from zeotherm.shop.series_files import as_log, as_series, read_series
from zeotherm.shop.virtual_printer import as_csv, day


def read(tmp_path: Path, text: str | bytes):
    path = tmp_path / "log.csv"
    path.write_bytes(text if isinstance(text, bytes) else text.encode())
    return read_series(path, shipped())


@pytest.mark.parametrize(
    ("text", "time", "bed"),
    [
        ("time,hotend,bed\n0,20,21.5\n10,30,22.5\n", [0, 10], [21.5, 22.5]),
        ("time;hotend;bed\n0;20,5;21,5\n10;30;22,5\n", [0, 10], [21.5, 22.5]),
        ("\ufefftime\tT0\tB\n0\t20\t21.5\n10\t30\t22.5\n", [0, 10], [21.5, 22.5]),
        ("# logger 3\n// more\ntime | bed\n0 | 21.5\n\n10 | 22.5\n", [0, 10], [21.5, 22.5]),
        ("time (min),bed [F]\n0,70.7\n2,72.5\n", [0, 120], [21.5, 22.5]),
        ("Time [ms],Bed_C\n0,21.5\n2000,22.5\n", [0, 2], [21.5, 22.5]),
        ("clock;bed\n9:59:50;21.5\n10:00:10;22.5\n", [0, 20], [21.5, 22.5]),
        ("time,bed\n23:59,21.5\n0:01,22.5\n", [0, 120], [21.5, 22.5]),
        ("timestamp,bed\n2026-03-01 09:00:00,21.5\n2026-03-01 09:00:05,22.5\n", [0, 5], [21.5, 22.5]),
        ("time,bed\n0,21.5\n5,\n10,n/a\n15,22.5\n", [0, 5, 10, 15], [21.5, np.nan, np.nan, 22.5]),
        ("time,bed\n0,\u221221.5\n5,22.5\n", [0, 5], [-21.5, 22.5]),
    ],
)
def test_what_loggers_write_is_read(tmp_path, text, time, bed):
    series = read(tmp_path, text).series
    assert series.time == pytest.approx(time)
    assert series.values["bed"] == pytest.approx(bed, nan_ok=True)


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("", "holds no rows"),
        ("time,bed\n", "has a header but no rows"),
        ("1,2\n3,4\n", "line 1: there is no header"),
        ("when,bed\n0,20\n1,21\n", "no column is a time"),
        ("time,humidity\n0,20\n1,21\n", "no column is known"),
        ("time,bed\n0,20\n1,warm\n", "line 3, bed: 'warm' is no number"),
        ("time,bed\n0,20\nsoon,21\n", "line 3, time: 'soon' is no time"),
        ("time,bed\n0,20\n9,21\n4,22\n", "line 4: time goes back from 9 to 4"),
        ("time,bed\n0,20\n1,5000\n", "beyond any sensor"),
        ("time [parsec],bed\n0,20\n1,21\n", "no unit of time"),
        ("time,bed [V]\n0,20\n1,21\n", "no unit of temperature"),
        ("time,bed,hotend\n0,20,5,60,2\n1,21,5,60,2\n2,3,4,5,6\n", "Decimal commas need another separator"),
        (b"\x00\x01\x02", "no text"),
    ],
)
def test_what_makes_no_sense_is_refused_with_its_line(tmp_path, text, told):
    with pytest.raises(ShopError) as wrong:
        read(tmp_path, text)
    assert told in str(wrong.value)


def test_unknown_columns_are_named_not_lost(tmp_path):
    assert read(tmp_path, "time,bed,humidity [%],note\n0,20,40,a\n1,21,40,b\n").ignored == ("humidity [%]", "note")


def test_a_million_rows_are_read_and_kept_small(tmp_path):
    rows = "\n".join(f"{n},{20 + n * 1e-5:.4f}" for n in range(1_000_000))
    found = read(tmp_path, f"time,bed\n{rows}\n")
    assert found.series.rows == 1_000_000
    log = as_log(found, "log.csv")
    assert len(log.time_s) <= 1500
    assert log.rows == 1_000_000
    again = as_series(log)
    assert np.nanmean(again.values["bed"]) == pytest.approx(25.0, abs=1e-2)


def test_reading_can_be_called_off(tmp_path):
    path = tmp_path / "log.csv"
    path.write_text("time,bed\n0,20\n1,21\n")
    with pytest.raises(CancelledError):
        read_series(path, shipped(), lambda: True)


def test_files_that_are_not_there_or_no_files(tmp_path):
    for path, told in ((tmp_path / "none.csv", "no file"), (tmp_path, "folder")):
        with pytest.raises(ShopError, match=told):
            read_series(path, shipped())


def test_buckets_keep_the_integral():
    time = np.arange(10_000.0)
    series = Series(time, {"bed": np.sin(time / 300.0)}, None)
    small = bucketed(series, 500)
    assert small.values["bed"].mean() == pytest.approx(series.values["bed"].mean(), abs=1e-6)
    assert small.rows == 500


def test_the_demo_log_is_the_virtual_printers():
    path = next(one for one in demo_jobs() if "curlew" in one.name).with_suffix(".csv")
    assert path.read_text() == as_csv(day())


def test_the_virtual_printer_jams_about_ten_to_one_and_only_in_the_sun():
    rows = list(day())
    printing = [row for row in rows if row.feeding]
    assert 12.6 < printing[-1].clock_h < 13.0
    assert max(row.fan_air for row in rows) - min(row.fan_air for row in printing) > 10.0


def test_the_model_is_near_the_virtual_printer_but_not_it(demo):
    """It was not made from the model: it differs, by less than the model's doubt."""
    job = demo("Curlew")
    path = next(one for one in demo_jobs() if "curlew" in one.name).with_suffix(".csv")
    course = plan(patched(job.found, {}), shipped(), job.tolerances)
    apart = {one.station: one for one in differences(read_series(path, shipped()).series, course)}
    assert {"block", "bed", "sink_base", "fan_inlet", "case_air"} <= set(apart)
    for key in ("sink_base", "fan_inlet", "case_air"):
        assert apart[key].spread > 0.05
        assert abs(apart[key].mean) < 5.0
        assert apart[key].share > 0.9


def test_the_virtual_printer_knows_nothing_of_the_model():
    import zeotherm.shop.virtual_printer as module

    assert "zeotherm.core" not in Path(module.__file__).read_text()
