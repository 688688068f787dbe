"""Runs as open files, pictures, sounds and programs from files."""

from __future__ import annotations

import json

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from PIL import Image, PngImagePlugin

from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import Job
from zeotherm.core.machine.measured import Run, RunDoubt
from zeotherm.core.runs.fan_sound import blade_pass
from zeotherm.core.runs.series import Series
from zeotherm.core.runs.thermal_picture import as_picture
from zeotherm.shop.editing import run_edits
from zeotherm.shop.editing.edits import RefusedError
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files import job_files, run_files
from zeotherm.shop.files.arrivals import Arrival, kind_of
from zeotherm.shop.files.part_programs import read_part_program
from zeotherm.shop.files.picture_files import NoScaleError, PictureScale, as_document, find_bar, read_picture
from zeotherm.shop.files.series_files import as_run, read_series
from zeotherm.shop.files.sound_files import read_sound, write_sound
from zeotherm.shop.practice.virtual_printer import fan_sound, thermal_picture
from zeotherm.shop.workshops.workshop import Workshop

RUN = Run(label="as found, PLA", source="probe.csv", rows=3, time_s=[0.0], values={},
          conditions={"room": 21.5, "filament": 'PLA "grey", spool 2'})  # fmt: skip


@given(
    arrays(np.float64, 12, elements=st.one_of(st.floats(-50, 400), st.just(float("nan")))),
    st.one_of(st.none(), st.floats(0, 23.99)),
)
@settings(max_examples=60, deadline=None)
def test_what_is_written_is_read_back_equal(tmp_path_factory, values, start):
    if not np.isfinite(values).any():
        values[0] = 20.0
    time = np.cumsum(np.linspace(0.1, 7.3, 12)) - 0.1
    series = Series(time, {"case_air": values, "power": np.linspace(0, 99.9, 12)}, start)
    folder = tmp_path_factory.mktemp("runs")
    for name, text in (
        ("run.csv", run_files.as_csv(series, RUN, shipped())),
        ("run.json", run_files.as_json(series, RUN)),
    ):
        (folder / name).write_text(text, encoding="utf-8")
        assert kind_of(folder / name) is Arrival.RUN
        read = read_series(folder / name, shipped())
        assert read.series.time == pytest.approx(series.time, abs=1e-9)
        assert read.label == RUN.label
        assert read.conditions == RUN.conditions
        assert (read.series.start_h is None) == (start is None)
        if "dropouts" not in " ".join(read.notes):
            np.testing.assert_array_equal(read.series.values["case_air"], values)
    again = run_files.unpacked(run_files.packed(series), "run")
    np.testing.assert_array_equal(again.values["case_air"], values)


def test_what_is_believed_of_instruments_travels_with_json(tmp_path):
    doubts = {"bed": RunDoubt(offset=0.5, relative=0.01, repeat=0.2)}
    run = RUN.model_copy(update={"doubts": doubts, "notes": ["every:2"]})
    path = tmp_path / "run.json"
    path.write_text(run_files.as_json(Series(np.array([0.0, 1.0]), {"bed": np.array([20.0, 21.0])}, None), run))
    again = as_run(read_series(path, shipped()), path.name)
    assert again.doubts == doubts
    assert again.notes == ["every:2"]
    path.write_text(path.read_text().replace('"offset": 0.5', '"offset": "x"'))
    with pytest.raises(ShopError, match="doubts"):
        read_series(path, shipped())


def test_damaged_rows_are_told():
    with pytest.raises(ShopError, match="damaged"):
        run_files.unpacked(b"nothing", "run")


@pytest.mark.parametrize(
    ("change", "told"),
    [
        ({"version": "9.0"}, "newer"), ({"time_s": [0, 2, 1]}, "go back"),
        ({"values": {"bed": [1, 2]}}, "2 values for 3"),
        ({"values": {"humidity": [1, 2, 3]}}, "no channel"), ({"values": {"bed": ["a", 1, 2]}}, "no number"),
        ({"time_s": None}, "no list"), ({"values": []}, "no map"), ({"values": {"bed": [1e400, 1, 2]}}, "infinite"),
    ],
)  # fmt: skip
def test_a_wrong_run_file_names_its_field(tmp_path, change, told):
    data = {"format": "zeotherm-run", "version": "1.0", "time_s": [0, 1, 2], "values": {"bed": [20, 21, 22]}}
    path = tmp_path / "run.json"
    path.write_text(json.dumps({**data, **change}))
    with pytest.raises(ShopError, match=told):
        read_series(path, shipped())


def test_a_job_of_the_last_format_keeps_its_log():
    log = {"name": "day.csv", "rows": 2, "start_h": 9.0, "time_s": [0.0, 5.0], "values": {"bed": [20.0, None]}}
    old = {"format": "zeotherm-job", "version": "1.2", "log": log}
    job = job_files.loads(json.dumps(old))
    assert job.measured.runs["log"].source == "day.csv"
    assert job.measured.laid == "log"
    assert job_files.loads(job_files.dumps(job)).measured == job.measured


def test_rows_are_kept_once_however_often_the_job_is_edited(tmp_path):
    workshop = Workshop(tmp_path / "shop.zeotherm")
    run = as_run(
        read_series_of(tmp_path, "time,bed\n" + "".join(f"{n},{20 + n / 10}\n" for n in range(1200))), "long.csv"
    )
    job = run_edits.with_run(Job(), run)
    key = workshop.add(job)
    for number in range(30):
        workshop.edit(key, run_edits.changed_run(workshop.job(key), "run1", label=f"run {number}"), "label")
    assert workshop.job(key).measured.runs["run1"].values == run.values
    size = sum(len(text) for (text,) in workshop._file.read("SELECT document FROM edits"))
    assert size < 31 * 6000
    workshop.undo(key)
    assert workshop.job(key).measured.runs["run1"].label == "run 28"
    workshop.close()


def test_rows_of_an_edit_that_failed_are_kept_with_the_next(tmp_path):
    workshop = Workshop(tmp_path / "shop.zeotherm")
    key = workshop.add(Job())
    run = Run(rows=1, time_s=[0.0], values={"bed": [20.0]})
    job = run_edits.with_run(Job(), run)

    def fails() -> None:
        with workshop._transaction():
            workshop._text(job)
            raise TypeError

    with pytest.raises(TypeError):
        fails()
    workshop.edit(key, job, "run")
    workshop.close()
    again = Workshop(tmp_path / "shop.zeotherm")
    assert again.job(key).measured.runs["run1"].values == {"bed": [20.0]}
    again.close()


def read_series_of(tmp_path, text):
    path = tmp_path / "log.csv"
    path.write_text(text)
    return read_series(path, shipped())


def test_edits_of_what_was_measured_are_refused_in_words():
    run = Run(rows=1, time_s=[0.0], values={"bed": [20.0]})
    job = run_edits.with_run(Job(), run)
    assert job.measured.laid == "run1"
    room = shipped().conditions["room"]
    assert run_edits.noted(job, "run1", "room", room, "71.6 F").measured.runs["run1"].conditions[
        "room"
    ] == pytest.approx(22.0)
    assert run_edits.noted(job, "run1", "room", room, "").measured.runs["run1"].conditions == {}
    for wrong in ("warm", "22 V", "22.123.4"):
        with pytest.raises(RefusedError, match="Room air"):
            run_edits.noted(job, "run1", "room", room, wrong)
    with pytest.raises(RefusedError, match="no run"):
        run_edits.changed_run(job, "run9", label="x")
    with pytest.raises(RefusedError, match="which is no run"):
        run_edits.laid(job, "run9")
    assert run_edits.without_run(job, "run1").measured.laid is None
    for _number in range(23):
        job = run_edits.with_run(job, run)
    with pytest.raises(RefusedError, match="up to 24"):
        run_edits.with_run(job, run)


def palette(count: int = 200) -> np.ndarray:
    """A made-up false-colour scale, dark to light through colour."""
    t = np.linspace(0, 1, count)
    return np.stack(
        [255 * t**0.7, 255 * np.abs(np.sin(2.2 * t)) * t, 255 * (1 - t) * np.sin(np.pi * t) + 60 * t], axis=1
    )


def false_colour(field: np.ndarray, low: float, high: float) -> np.ndarray:
    """A picture as a camera saves it: the field, and its bar at the right."""
    colours = palette()
    place = np.clip((field - low) / (high - low) * (len(colours) - 1), 0, len(colours) - 1).astype(int)
    rows, columns = field.shape
    picture = np.full((rows, columns + 40, 3), 30.0)
    picture[:, :columns] = colours[place]
    bar = colours[np.linspace(len(colours) - 1, 0, rows - 20).astype(int)]
    picture[10 : rows - 10, columns + 14 : columns + 26] = bar[:, None, :]
    return picture.astype(np.uint8)


def test_a_false_colour_picture_is_read_by_its_own_bar(tmp_path):
    field = thermal_picture(60.0, 20.0, width=320, height=240)
    path = tmp_path / "camera.png"
    pixels = false_colour(field, 15.0, 70.0)
    Image.fromarray(pixels).save(path)
    assert kind_of(path) is Arrival.PICTURE
    with pytest.raises(NoScaleError, match="cold and its hot end"):
        read_picture(path)
    left, top, right, bottom = find_bar(pixels.astype(float))
    assert (left, top, right, bottom) == pytest.approx((334, 10, 346, 230), abs=1)
    found = read_picture(path, PictureScale(low=15.0, high=70.0)).apparent[:, :320]
    known = np.isfinite(found)
    assert known.mean() > 0.98
    assert np.abs(found - field)[known].max() < 0.8


def test_colours_beyond_the_bar_are_left_out_and_counted(tmp_path):
    field = thermal_picture(60.0, 20.0, width=320, height=240)
    pixels = false_colour(field, 15.0, 50.0)
    pixels[100:110, 100:140] = (0, 255, 0)  # a mark that the camera drew
    Image.fromarray(pixels).save(tmp_path / "camera.png")
    found = read_picture(tmp_path / "camera.png", PictureScale(low=15.0, high=50.0))
    assert found.over_range > 1000
    assert found.unreadable >= 400
    assert np.isnan(found.apparent[105, 120])


def test_a_picture_that_its_bar_does_not_explain_is_refused(tmp_path):
    pixels = false_colour(thermal_picture(60.0, 20.0, width=320, height=240), 15.0, 70.0)
    pixels[:, :250] = (90, 200, 90)
    Image.fromarray(pixels).save(tmp_path / "photo.png")
    with pytest.raises(NoScaleError, match="not on its bar"):
        read_picture(tmp_path / "photo.png", PictureScale(low=15.0, high=70.0))


def test_16_bit_pictures_with_a_typed_or_a_stated_scale(tmp_path):
    field = np.linspace(20.0, 80.0, 48 * 64).reshape(48, 64)
    counts = np.round((field + 273.15) / 0.01).astype(np.uint16)
    counts[0, 0] = 65535
    Image.fromarray(counts).save(tmp_path / "camera.tif")
    with pytest.raises(NoScaleError, match="gain and offset"):
        read_picture(tmp_path / "camera.tif")
    found = read_picture(tmp_path / "camera.tif", PictureScale(gain=0.01, offset=-273.15))
    assert found.apparent[20, 20] == pytest.approx(field[20, 20], abs=0.01)
    assert found.over_range == 1
    about = PngImagePlugin.PngInfo()
    about.add_text("scale", "gain=0.01 offset=-273.15")
    Image.fromarray(counts).save(tmp_path / "camera.png", pnginfo=about)
    assert read_picture(tmp_path / "camera.png").apparent[20, 20] == pytest.approx(field[20, 20], abs=0.01)


def test_a_matrix_with_its_head_units_and_over_range(tmp_path):
    rows = [";".join(f"{(20 + r + c) * 1.8 + 32:.1f}".replace(".", ",") for c in range(20)) for r in range(20)]
    rows[3] = rows[3].replace(rows[3].split(";")[4], ">302", 1)
    path = tmp_path / "matrix.csv"
    path.write_text("camera 7; made up\nunit: °F\n" + "\n".join(rows))
    assert kind_of(path) is Arrival.MATRIX
    found = read_picture(path)
    assert found.apparent[0, 0] == pytest.approx(20.0, abs=0.05)
    assert found.over_range == 1
    assert np.isnan(found.apparent[3, 4])


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("a,b,c\nd,e,f\n", "no matrix"), ("1,2,3\n1,2,3\n1,2\n1,2,3\n", "line 3: 2 cells"), ("1,2\n3,4\n", "no matrix"),
        ("1,2,3\n4,5,9999\n1,2,3\n", "beyond any camera"), ("1,2,3\n4,x,6\n7,8,9\n", "line 2"),
    ],
)  # fmt: skip
def test_what_is_no_matrix_is_refused(tmp_path, text, told):
    path = tmp_path / "matrix.csv"
    path.write_text(text)
    with pytest.raises(ShopError, match=told):
        read_picture(path)


def test_grey_pictures_of_8_bits_have_lost_their_scale(tmp_path):
    Image.fromarray(np.zeros((20, 20), dtype=np.uint8)).save(tmp_path / "grey.png")
    with pytest.raises(NoScaleError, match="8 bits"):
        read_picture(tmp_path / "grey.png")


def test_large_pictures_are_kept_small_and_true():
    field = thermal_picture(60.0, 20.0, width=640, height=480)
    from zeotherm.core.runs.thermal_picture import ThermalPicture

    document = as_document(ThermalPicture(field, 0, 0), "big.csv")
    kept = as_picture(document).apparent
    assert kept.size <= 20_000
    assert kept.mean() == pytest.approx(field.mean(), abs=0.05)
    assert (document.width, document.height) == (640, 480)


@pytest.mark.parametrize("width", [1, 2, 3, 4])
def test_recordings_of_any_depth(tmp_path, width):
    import wave

    samples = fan_sound(4200.0, 7)
    path = tmp_path / "fan.wav"
    write_sound(path, samples, 16000)
    if width != 2:
        scaled = np.clip(samples, -1, 1)
        if width == 1:
            data = ((scaled + 1.0) * 127.5).astype(np.uint8).tobytes()
        elif width == 4:
            data = (scaled * (2**31 - 1)).astype("<i4").tobytes()
        else:
            data = (scaled * (2**23 - 1)).astype("<i4").view(np.uint8).reshape(-1, 4)[:, :3].tobytes()
        with wave.open(str(path), "wb") as sound:
            sound.setnchannels(1)
            sound.setsampwidth(width)
            sound.setframerate(16000)
            sound.writeframes(data)
    assert kind_of(path) is Arrival.SOUND
    read, rate = read_sound(path)
    assert blade_pass(read, rate, 7).speed == pytest.approx(4200.0, rel=0.006)


def test_files_are_known_by_what_is_in_them(tmp_path):
    for name, text, kind in (
        ("a.txt", "G28\nG1 X10 F600\nG1 X20\nM104 S200\n", Arrival.PROGRAM), ("b.json", '{"format": "x"}', Arrival.JOB),
        ("c.csv", "time,bed\n0,20\n", Arrival.RUN), ("d.md", "words", Arrival.OTHER),
    ):  # fmt: skip
        (tmp_path / name).write_text(text)
        assert kind_of(tmp_path / name) is kind
    assert kind_of(tmp_path / "none.csv") is Arrival.RUN


def test_a_program_file_is_known_by_its_hash(tmp_path):
    one, other = tmp_path / "one.gcode", tmp_path / "other.gcode"
    one.write_text("G1 X10 E1 F600\n")
    other.write_text("G1 X10 E1 F601\n")
    assert read_part_program(one).digest != read_part_program(other).digest
    other.write_text("nothing")
    with pytest.raises(ShopError, match="no part program"):
        read_part_program(other)
