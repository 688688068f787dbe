"""Logs as loggers write them."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import patched
from zeotherm.core.parts.hotend.judge.course import plan
from zeotherm.core.runs.series import Series, as_series, bucketed, differences
from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files.series_files import as_run, read_parts, read_series
from zeotherm.shop.places import demo_jobs
from zeotherm.shop.practice.virtual_printer import Setting, day


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
        ("when,bed\n0,20\n1,21\n", "no column is a time"),
        ("time,humidity\n0,20\n1,21\n", "no column is known"),
        ("time,bed\n0,20\n1,warm\n", "line 3, bed: 'warm' is no number"),
        ("time,bed\n0,20\nsoon,21\n", "line 3, time: 'soon' is no number"),
        ("time,bed\n0,20\n1,5000\n", "beyond any sensor"),
        ("time [parsec],bed\n0,20\n1,21\n", "no unit of time"),
        ("time,bed [V]\n0,20\n1,21\n", "is no unit of it"),
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
    log = as_run(found, "log.csv")
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


def demo_runs():
    return sorted(demo_jobs()[0].parent.glob("2-curlew-run*.csv"))


def test_the_demo_runs_are_the_virtual_printers():
    """What ships is what `docs/make_demo.py` writes; here its first hours, by another way of asking."""
    read = read_series(demo_runs()[0], shipped())
    fresh = [row for row, _n in zip(day(4, Setting(idle_min=2.0, start_h=9.5 - 2.0 / 60.0)), range(200), strict=False)]
    assert read.label == "as found"
    assert read.series.values["sink_base"][:200] == pytest.approx([row.sink_base for row in fresh])
    assert read.series.values["power"][:200] == pytest.approx([row.watts for row in fresh])


def test_the_virtual_printer_jams_about_ten_to_one_and_only_in_the_sun():
    rows = list(day())
    printing = [row for row in rows if row.feeding]
    assert 12.6 < printing[-1].clock_h < 13.0
    assert max(row.fan_air for row in rows) - min(row.fan_air for row in printing) > 10.0


def test_the_model_is_near_the_virtual_printer_but_not_it(demo):
    """It was not made from the model: it differs, by less than the model's doubt."""
    job = demo("Curlew")
    path = demo_runs()[0]
    course = plan(patched(job.found, {}), shipped(), job.tolerances)
    apart = {one.station: one for one in differences(read_series(path, shipped()).series, course)}
    assert {"block", "bed", "sink_base", "fan_inlet", "case_air"} <= set(apart)
    for key in ("sink_base", "fan_inlet", "case_air"):
        assert apart[key].spread > 0.05
        assert abs(apart[key].mean) < 5.0
        assert apart[key].share > 0.9


def test_the_virtual_printer_knows_nothing_of_the_model():
    import zeotherm.shop.practice.virtual_printer as module

    assert "zeotherm.core" not in Path(module.__file__).read_text()


def test_roles_come_from_names_then_units_then_values(tmp_path):
    text = "elapsed s,Sensor A,Sensor B,socket [W]\n" + "".join(
        f"{n},{min(20 + 4 * n, 205)},{min(20 + n, 60)},{80 + n % 3}\n" for n in range(120)
    )
    read_back = read(tmp_path, text)
    roles = {column.title: (column.role, column.by) for column in read_back.columns}
    assert roles["socket [W]"] == ("power", "unit")
    headless = read(tmp_path, "\n".join(f"{n},{min(20 + 4 * n, 205)},{min(20 + n, 60)}" for n in range(120)))
    assert [(column.role, column.by) for column in headless.columns] == [
        ("time", "values"), ("block", "values"), ("bed", "values"),
    ]  # fmt: skip


def test_roles_that_are_chosen_win_and_are_remembered_by_layout(tmp_path):
    path = tmp_path / "log.csv"
    path.write_text("time,probe 1,probe 2\n0,20,30\n1,21,31\n2,22,32\n")
    chosen = read_series(path, shipped(), roles={"probe 1": "case_air"})
    assert list(chosen.series.values) == ["case_air"]
    layouts = {"time\x1fprobe 1\x1fprobe 2": {"time": "time", "probe 2": "sink_base"}}
    assert list(read_parts(path, shipped(), layouts=layouts)[0].series.values) == ["sink_base"]


def test_lines_out_of_order_are_put_in_order_and_said(tmp_path):
    read_back = read(tmp_path, "time,bed\n0,20\n9,21\n4,22\n12,23\n")
    assert read_back.series.time == pytest.approx([0, 4, 9, 12])
    assert read_back.series.values["bed"] == pytest.approx([20, 22, 21, 23])
    assert "out_of_order" in read_back.notes


def test_a_logger_that_began_again_gives_two_runs(tmp_path):
    path = tmp_path / "log.csv"
    path.write_text("time,bed\n" + "".join(f"{n},{20 + n}\n" for n in [*range(0, 100, 5), *range(0, 50, 5)]))
    parts = read_parts(path, shipped())
    assert [part.series.rows for part in parts] == [20, 10]
    assert as_run(parts[1], "log.csv").source == "log.csv, part 2"


def test_drop_outs_are_left_out_and_counted(tmp_path):
    rows = [f"{n},{20 + 0.1 * n}" for n in range(60)]
    rows[20], rows[41] = "20,-14.0", "41,300"
    read_back = read(tmp_path, "time,bed\n" + "\n".join(rows))
    assert "dropouts:2" in read_back.notes
    assert np.isnan(read_back.series.values["bed"][[20, 41]]).all()


@pytest.mark.parametrize(
    ("head", "row", "watts", "note"),
    [
        ("time,V,A,pf", "230,0.5,0.6", 69.0, "power_by_product"),
        ("time,W,V,A,pf", "70,230,0.5,0.6", 70.0, None),
        ("time,W,V,A,pf", "115,230,0.5,0.6", 115.0, "power_disagrees"),
        ("time,V,A,bed", "230,0.5,20", None, "apparent_only"),
        ("time,power [kW]", "0.07", 70.0, None),
    ],
)
def test_watts_from_what_a_meter_logs(tmp_path, head, row, watts, note):
    read_back = read(tmp_path, head + "\n" + "".join(f"{n},{row}\n" for n in range(8)))
    power = read_back.series.values.get("power")
    assert (power is None) == (watts is None)
    if power is not None:
        assert power == pytest.approx(watts)
    assert note is None or note in read_back.notes


def test_a_counter_gives_its_slope(tmp_path):
    rows = "".join(f"{10 * n},{5.0 + round(100.0 * 10 * n / 3.6e6, 4)}\n" for n in range(400))
    read_back = read(tmp_path, "time,kWh\n" + rows)
    assert np.median(read_back.series.values["power"]) == pytest.approx(100.0, rel=0.03)


CONSOLE = """
Recv: start
12:00:0{0} > ok T:21.5 /0.0 B:20.9 /0.0 T0:21.5 /0.0 @:0 B@:0
12:00:02 > echo:busy processing
12:00:0{1} > T:25.0 /200.0 B:22.0 /60.0 C:20.0 /0.0 @:127 B@:127
12:00:0{2} >  T:31.5 /200.0 B:23.1 /60.0 C:20.1 /0.0 @:64 B@:127
"""


def test_a_printers_console_is_read_with_its_stamps(tmp_path):
    series = read(tmp_path, CONSOLE.format(1, 3, 5)).series
    assert series.time == pytest.approx([0, 2, 4])
    assert series.start_h == pytest.approx(12.0 + 1 / 3600)
    assert series.values["block"] == pytest.approx([21.5, 25.0, 31.5])
    assert series.values["target_bed"] == pytest.approx([0, 60, 60])
    assert series.values["duty_block"] == pytest.approx([0, 100, 6400 / 127])
    assert series.values["case_air"] == pytest.approx([np.nan, 20.0, 20.1], nan_ok=True)


def test_a_console_without_stamps_says_what_it_took(tmp_path):
    plain = "".join(f"T:{20 + n} /200.0 B:{20 + n} /60.0 @:127\n" for n in range(10))
    read_back = read(tmp_path, plain)
    assert read_back.series.time == pytest.approx(np.arange(10) * 2.0)
    assert "every:2" in read_back.notes


def test_an_open_sensor_is_no_temperature(tmp_path):
    text = "".join(f"T:{-14.9 if n == 4 else 200} /200.0 B:60 /60\n" for n in range(9))
    assert np.isnan(read(tmp_path, text).series.values["block"][4])
