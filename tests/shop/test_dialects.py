"""Logs in every writing: the same numbers, or a question; never other numbers."""

from __future__ import annotations

import json
import random
from datetime import datetime, timedelta
from pathlib import Path

import numpy as np
import pytest
from click.testing import CliRunner

from zeotherm.cli import main
from zeotherm.core.catalogue import shipped
from zeotherm.core.runs.part_program import read_program
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files.asking import UnsureError
from zeotherm.shop.files.picture_files import SCALE, read_picture
from zeotherm.shop.files.series_files import read_parts, read_series

CATALOGUE = shipped()
BED = [21.5, 22.5, 23.5]


def read(folder: Path, text: str | bytes, **more):
    path = folder / "log.csv"
    path.write_bytes(text if isinstance(text, bytes) else text.encode())
    return read_series(path, CATALOGUE, **more)


# what it is: (the text, times, bed)
DIALECTS = {
    "day first, with dots": (
        "Zeit;Bett\n28.02.2026 23:59:50;21,5\n01.03.2026 00:00:00;22,5\n01.03.2026 00:00:10;23,5\n",
        [0, 10, 20],
        BED,
    ),
    "slashes, a day beyond twelve": (
        "time,bed\n28/02/2026 23:59:50,21.5\n01/03/2026 00:00:00,22.5\n01/03/2026 00:00:10,23.5\n",
        [0, 10, 20],
        BED,
    ),
    "slashes, month first by its thirteenth": (
        "time,bed\n03/13/2026 9:00,21.5\n03/13/2026 9:01,22.5\n03/13/2026 9:02,23.5\n",
        [0, 60, 120],
        BED,
    ),
    "slashes, one day": (
        "time,bed\n03/04/2026 9:00:00,21.5\n03/04/2026 9:00:05,22.5\n03/04/2026 9:00:10,23.5\n",
        [0, 5, 10],
        BED,
    ),
    "two digits of the year": (
        "time,bed\n13/03/26 9:00:00,21.5\n13/03/26 9:00:05,22.5\n13/03/26 9:00:10,23.5\n",
        [0, 5, 10],
        BED,
    ),
    "AM and PM": (
        "time,bed\n3/13/2026 11:59:50 AM,21.5\n3/13/2026 12:00:00 PM,22.5\n3/13/2026 12:00:10 PM,23.5\n",
        [0, 10, 20],
        BED,
    ),
    "a.m. and p.m., no date": (
        "clock,bed\n11:59:50 a.m.,21.5\n12:00:00 p.m.,22.5\n12:00:10 p.m.,23.5\n",
        [0, 10, 20],
        BED,
    ),
    "midnight in AM": ("clock,bed\n11:59:55 PM,21.5\n12:00:00 AM,22.5\n12:00:05 AM,23.5\n", [0, 5, 10], BED),
    "date and time apart": (
        "Date,Time,Bed\n2026-03-01,23:59:50,21.5\n2026-03-02,00:00:00,22.5\n2026-03-02,00:00:10,23.5\n",
        [0, 10, 20],
        BED,
    ),
    "date and time apart, day first": (
        "Datum;Uhrzeit;Bett\n31.12.2025;23:59:50;21,5\n01.01.2026;00:00:00;22,5\n01.01.2026;00:00:10;23,5\n",
        [0, 10, 20],
        BED,
    ),
    "time before date": (
        "time,bed\n09:00:00 2026-03-01,21.5\n09:00:05 2026-03-01,22.5\n09:00:10 2026-03-01,23.5\n",
        [0, 5, 10],
        BED,
    ),
    "UTC": (
        "time,bed\n2026-03-01T09:00:00Z,21.5\n2026-03-01T09:00:05Z,22.5\n2026-03-01T09:00:10Z,23.5\n",
        [0, 5, 10],
        BED,
    ),
    "an offset that changes": (
        "time,bed\n2026-03-29T01:59:55+01:00,21.5\n2026-03-29T03:00:00+02:00,22.5\n2026-03-29T03:00:05+02:00,23.5\n",
        [0, 5, 10],
        BED,
    ),
    "an offset without a colon": (
        "time,bed\n2026-03-01 09:00:00 +0100,21.5\n2026-03-01 09:00:05 +0100,22.5\n2026-03-01 09:00:10 +0100,23.5\n",
        [0, 5, 10],
        BED,
    ),
    "month by name": (
        "time,bed\n1 Mar 2026 09:00:00,21.5\n1 Mar 2026 09:00:05,22.5\n1 Mar 2026 09:00:10,23.5\n",
        [0, 5, 10],
        BED,
    ),
    "month by its name first": (
        'time,bed\n"Mar 1, 2026 9:00:00 AM",21.5\n"Mar 1, 2026 9:00:05 AM",22.5\n"Mar 1, 2026 9:00:10 AM",23.5\n',
        [0, 5, 10],
        BED,
    ),
    "month in another language": (
        "Zeit;Bett\n1. Mai 2026 09:00:00;21,5\n1. Mai 2026 09:00:05;22,5\n1. Mai 2026 09:00:10;23,5\n",
        [0, 5, 10],
        BED,
    ),
    "digits without marks": (
        "time,bed\n20260301T090000,21.5\n20260301T090005,22.5\n20260301T090010,23.5\n",
        [0, 5, 10],
        BED,
    ),
    "seconds since 1970": ("time,bed\n1772355600,21.5\n1772355605,22.5\n1772355610.5,23.5\n", [0, 5, 10.5], BED),
    "milliseconds since 1970": (
        "time,bed\n1772355600000,21.5\n1772355605000,22.5\n1772355610500,23.5\n",
        [0, 5, 10.5],
        BED,
    ),
    "day numbers of a spreadsheet": (
        "time,bed\n46082.375,21.5\n46082.3750578704,22.5\n46082.3751157407,23.5\n",
        [0, 5, 10],
        BED,
    ),
    "minutes and seconds": ("elapsed mm:ss,bed\n00:00,21.5\n00:30,22.5\n01:00,23.5\n", [0, 30, 60], BED),
    "minutes beyond an hour": ("time,bed\n59:30,21.5\n60:00,22.5\n60:30,23.5\n", [0, 30, 60], BED),
    "hours beyond a day": ("elapsed,bed\n23:59:50,21.5\n24:00:00,22.5\n24:00:10,23.5\n", [0, 10, 20], BED),
    "uptime in days": (
        "uptime,bed\n1 day 23:59:50,21.5\n2 days 00:00:00,22.5\n2 days 00:00:10,23.5\n",
        [0, 10, 20],
        BED,
    ),
    "uptime in letters": ("uptime,bed\n1h59m50s,21.5\n2h00m00s,22.5\n2h00m10s,23.5\n", [0, 10, 20], BED),
    "milliseconds by name": ("millis,bed\n0,21.5\n5000,22.5\n10000,23.5\n", [0, 5, 10], BED),
    "hours": ("time [h],bed\n0,21.5\n0.5,22.5\n1,23.5\n", [0, 1800, 3600], BED),
    "a preamble": ("Logger 3, probe set 2\nSerial: 1234\n\nTime,Bed\n0,21.5\n5,22.5\n10,23.5\n", [0, 5, 10], BED),
    "a preamble of two columns": (
        "Model,Four probes\nInterval,5\nTime,Bed,Room\n0,21.5,20\n5,22.5,20\n10,23.5,20\n",
        [0, 5, 10],
        BED,
    ),
    "a line of units": ("Time;Bed\n[s];[°C]\n0;21,5\n5;22,5\n10;23,5\n", [0, 5, 10], BED),
    "words at the end": ("time,bed\n0,21.5\n5,22.5\n10,23.5\nEnd of log\n", [0, 5, 10], BED),
    "the header once more": ("time,bed\n0,21.5\n5,22.5\ntime,bed\n10,23.5\n", [0, 5, 10], BED),
    "one reading a row": (
        "entity,state,time\nsensor.bed,21.5,2026-03-01T09:00:00\nsensor.room,20,2026-03-01T09:00:00\n"
        "sensor.bed,22.5,2026-03-01T09:00:05\nsensor.room,20,2026-03-01T09:00:05\n"
        "sensor.bed,23.5,2026-03-01T09:00:10\n",
        [0, 5, 10],
        BED,
    ),
    "lines of JSON": (
        "".join(json.dumps({"time": 5 * n, "bed": value, "ok": True}) + "\n" for n, value in enumerate(BED)),
        [0, 5, 10],
        BED,
    ),
    "JSON within JSON": (
        "".join(json.dumps({"time": 5 * n, "temps": {"bed": value}}) + "\n" for n, value in enumerate(BED)).replace(
            '"temps"', '""'
        ),
        [0, 5, 10],
        BED,
    ),
    "a list of JSON": (json.dumps([{"time": 5 * n, "bed": value} for n, value in enumerate(BED)]), [0, 5, 10], BED),
    "UTF-16": ("time\tbed\r\n0\t21.5\r\n5\t22.5\r\n10\t23.5\r\n".encode("utf-16"), [0, 5, 10], BED),
    "UTF-16 without a mark": ("time\tbed\r\n0\t21.5\r\n5\t22.5\r\n10\t23.5\r\n".encode("utf-16-le"), [0, 5, 10], BED),
    "Western letters": ("Zeit;Bett [°C]\n0;21,5\n5;22,5\n10;23,5\n".encode("cp1252"), [0, 5, 10], BED),
    "quotes about everything": (
        '"time","bed","note"\n"0","21.5","a, b"\n"5","22.5","c"\n"10","23.5","d ""e"""\n',
        [0, 5, 10],
        BED,
    ),
    "quoted decimal commas": ('time,bed\n0,"21,5"\n5,"22,5"\n10,"23,5"\n', [0, 5, 10], BED),
    "Fahrenheit in words": ("time,bed (deg F)\n0,70.7\n5,72.5\n10,74.3\n", [0, 5, 10], BED),
    "Fahrenheit in full": ("time,bed [Fahrenheit]\n0,70.7\n5,72.5\n10,74.3\n", [0, 5, 10], BED),
    "Fahrenheit in one sign": ("time,bed \u2109\n0,70.7\n5,72.5\n10,74.3\n", [0, 5, 10], BED),
    "Fahrenheit behind a name": ("time,bed_temp_f\n0,70.7\n5,72.5\n10,74.3\n", [0, 5, 10], BED),
    "kelvin": ("time,bed [K]\n0,294.65\n5,295.65\n10,296.65\n", [0, 5, 10], BED),
    "French": ("Temps;Plateau\n0;21,5\n5;22,5\n10;23,5\n", [0, 5, 10], BED),
    "Spanish": ("Tiempo;Cama\n0;21,5\n5;22,5\n10;23,5\n", [0, 5, 10], BED),
    "Italian": ("Tempo;Piatto\n0;21,5\n5;22,5\n10;23,5\n", [0, 5, 10], BED),
    "columns parted by blanks": (
        "time    bed     room\n0       21.5    20\n5       22.5    20\n10      23.5    20\n",
        [0, 5, 10],
        BED,
    ),
    "another column first": ("bed,time\n21.5,0\n22.5,5\n23.5,10\n", [0, 5, 10], BED),
    "old line ends": ("time,bed\r0,21.5\r5,22.5\r10,23.5\r", [0, 5, 10], BED),
}


@pytest.mark.parametrize("name", DIALECTS)
def test_every_writing_gives_the_same_numbers(tmp_path, name):
    text, times, bed = DIALECTS[name]
    series = read(tmp_path, text).series
    assert series.time == pytest.approx(times, abs=2e-3)
    assert series.values["bed"] == pytest.approx(bed, abs=1e-6)


def test_the_table_is_large_enough():
    assert len(DIALECTS) >= 40


# what it is: (the text, what is asked, answer -> times)
ASKED = {
    "a month or a day, a row a day": (
        "time,bed\n03/04/2026 9:00,21\n04/04/2026 9:00,22\n05/04/2026 9:00,23\n",
        "dates",
        {"dmy": [0, 86400, 172800], "mdy": [0, 2678400, 5270400]},
    ),
    "hours or minutes": (
        "time,bed\n9:30,21\n9:40,22\n9:50,23\n",
        "minutes",
        {"hh_mm": [0, 600, 1200], "mm_ss": [0, 10, 20]},
    ),
    "seconds or milliseconds": (
        "time,bed\n" + "".join(f"{600 * n},{20 + n}\n" for n in range(100)),
        "unit",
        {"s": [600.0 * n for n in range(100)], "ms": [0.6 * n for n in range(100)]},
    ),
    "an hour back": (
        "time,bed\n2026-10-25 02:59:50,21\n2026-10-25 02:00:00,22\n2026-10-25 02:00:10,23\n2026-10-25 02:00:20,24\n",
        "clock",
        {"change": [0, 10, 20, 30]},
    ),
    "a clock of twelve hours": (
        "clock,bed\n12:59:50,21\n1:00:00,22\n1:00:10,23\n1:00:20,24\n",
        "clock",
        {"change": [0, 10, 20, 30]},
    ),
    "thousands or decimals": (
        "time;power\n0;1,234\n5;1,250\n10;1,300\n",
        "numbers",
        {",": [0, 5, 10], ".": [0, 5, 10]},
    ),
}


@pytest.mark.parametrize("name", ASKED)
def test_what_can_be_read_in_two_ways_is_asked_and_both_are_spelled_out(tmp_path, name):
    text, key, answers = ASKED[name]
    with pytest.raises(UnsureError) as wrong:
        read(tmp_path, text)
    (question,) = wrong.value.questions
    assert question.key == key
    assert set(answers) <= {answer for answer, _meaning in question.options}
    assert all(len(meaning) > 5 for _answer, meaning in question.options)
    assert len(wrong.value.rows) > 2
    assert wrong.value.columns
    for answer, times in answers.items():
        found = read(tmp_path, text, answers={key: answer})
        assert found.series.time == pytest.approx(times)
    if key == "numbers":
        values = [read(tmp_path, text, answers={key: one}).series.values["power"][0] for one in (",", ".")]
        assert values == pytest.approx([1.234, 1234.0])


def test_a_mark_that_other_cells_explain_is_not_asked(tmp_path):
    found = read(tmp_path, "time;power;bed\n0;1.234,5;21,5\n5;1.250,0;22,5\n10;987,0;23,5\n").series
    assert found.values["power"] == pytest.approx([1234.5, 1250.0, 987.0])
    for text in (
        "time;power\n0;1'234.5\n5;1'250.0\n",
        "time;power\n0;1 234.5\n5;1 250.0\n",
        'time,power\n0,"1,234.5"\n5,"1,250.0"\n',
    ):
        assert read(tmp_path, text).series.values["power"] == pytest.approx([1234.5, 1250.0])


@pytest.mark.parametrize(
    "text",
    [
        "time,T1,T2,T3,T4\n0,20,21,22,23\n5,20,21,22,23\n",
        "time,bed,bed\n0,20,21\n5,20,22\n",
        "when,bed\n0,20\n1,21\n",
        "time,humidity\n0,20\n1,21\n",
    ],
)
def test_columns_that_are_not_known_are_asked_with_the_first_rows(tmp_path, text):
    with pytest.raises(UnsureError) as wrong:
        read(tmp_path, text)
    assert [one.key for one in wrong.value.questions] == ["columns"]
    assert wrong.value.rows[1].startswith("0 | 20")
    titles = [column.title for column in wrong.value.columns]
    assert len(set(titles)) == len(titles), "doubled ones are told apart"
    roles = dict.fromkeys(titles, "") | {titles[0]: "time", titles[-1]: "bed"}
    assert read(tmp_path, text, roles=roles).series.rows == 2


def test_energy_is_read_in_its_own_unit(tmp_path):
    for head, factor in (("Wh", 1.0), ("kWh", 1e-3)):
        rows = "".join(f"{60 * n},{n * 2.0 * factor:.6f}\n" for n in range(20))
        found = read(tmp_path, f"time [s],energy [{head}]\n{rows}")
        assert found.series.values["energy"][-1] == pytest.approx(0.038)


def test_rows_that_are_left_out_are_counted_and_told(tmp_path):
    found = read(tmp_path, DIALECTS["words at the end"][0])
    assert "skipped:1" in found.notes
    lines = 'garbage\n{"time": 0, "bed": 20}\nnot json\n{"time": 5, "bed": 21}\n{"time": 9, "bed": 22}\n'
    path = tmp_path / "l.jsonl"
    path.write_text(lines.removeprefix("garbage\n"))
    assert any(note.startswith("skipped") for note in read_parts(path, CATALOGUE)[0].notes)


# consoles, pictures, part programs, and runs of our own


def test_consoles_with_decimal_commas_and_in_twelve_hours_are_read(tmp_path):
    text = "".join(
        f"{11 + n // 30}:{(59 if n < 30 else 0):02d}:{2 * (n % 30):02d} {'AM' if n < 30 else 'PM'} "
        "T:200,5 /210,0 B:60,5 /60,0\n"
        for n in range(60)
    )
    series = read(tmp_path, text).series
    assert series.values["block"] == pytest.approx([200.5] * 60)
    assert series.values["target_block"] == pytest.approx([210.0] * 60)
    assert series.time == pytest.approx([2.0 * n for n in range(60)])
    assert series.start_h == pytest.approx(11.0 + 59 / 60)


def matrix(head: str, index: bool) -> str:
    base = 300.0 if "[K]" in head else 20.0
    rows = [[base + row + 0.5 * column for column in range(6)] for row in range(5)]
    lines = ["," + ",".join(str(n) for n in range(6))] if index else []
    lines += [(f"{at}," if index else "") + ",".join(f"{one}" for one in row) for at, row in enumerate(rows)]
    return head + "\n".join(lines) + "\n"


@pytest.mark.parametrize(
    ("head", "first"),
    [
        ("", 20.0),
        ("# label: bed at 140 °F, oven in kelvin\n", 20.0),
        ("# region Fahrenheit corner: 0 0 50 50\n", 20.0),
        ("Unit: °F\n", (20.0 - 32.0) / 1.8),
        ("Temperature [K]\n", 300.0 - 273.15),
    ],
)
@pytest.mark.parametrize("index", [False, True])
def test_a_picture_is_converted_by_its_stated_unit_only_and_counts_are_no_temperatures(tmp_path, head, first, index):
    path = tmp_path / "p.csv"
    path.write_text(matrix(head, index))
    found = read_picture(path)
    assert found.apparent.shape == (5, 6)
    assert found.apparent[0, 0] == pytest.approx(first)


def test_a_scale_may_state_its_offset_with_an_exponent():
    told = dict(SCALE.findall("gain=1.0e-02 offset=-2.7315e+02"))
    assert {key: float(value) for key, value in told.items()} == {"gain": 0.01, "offset": -273.15}


def test_part_programs_know_names_tools_and_impossible_numbers():
    moves = "G1 X10 E1 F1200\nG1 X50 E5\n" * 20
    plain = read_program(f"M104 S210\n{moves}".splitlines(), "d")
    for more in (
        "M117 G1 X9000 E900\n",
        "EXCLUDE_OBJECT NAME=G1_X500\n",
        "G1_CUBE X900 E90\n",
        "M23 G1 X900.GCO\n",
        "PRINT_START BED 60 G1 X900\n",
        f"G1 X{'9' * 300} E{'9' * 300}\n",
    ):
        found = read_program(f"M104 S210\n{more}{moves}".splitlines(), "d")
        assert found.seconds == pytest.approx(plain.seconds), more
        assert found.volume_mm3 == pytest.approx(plain.volume_mm3), more
    two = read_program(f"M104 T0 S210\nM104 T1 S250\nT0\n{moves}M104 T1 S260\n".splitlines(), "d")
    assert two.nozzle_c == (210.0, 210.0)
    second = read_program(f"M104 T0 S210\nM104 T1 S250\nT1\n{moves}".splitlines(), "d")
    assert second.nozzle_c == (250.0, 250.0)


def test_an_own_run_goes_from_json_to_csv_and_back_equal(tmp_path):
    bed = [20.0, 21.25, None, 300.0, 24.0, 25.0, 26.0, 27.0, 28.0, 29.0]
    data = {
        "format": "zeotherm-run",
        "version": "1.0",
        "label": "as found",
        "source": "a.csv",
        "start_h": 9.5,
        "conditions": {"room": 21.5, "note": "door shut"},
        "notes": ["dropouts:1"],
        "protocol": None,
        "doubts": {"bed": {"offset": 1.0, "relative": 0.01, "repeat": 0.2}},
        "time_s": [0.1 * n for n in range(10)],
        "values": {"bed": bed, "voltage": [230.0] * 10, "current": [0.5] * 10},
    }
    first = tmp_path / "a.json"
    first.write_text(json.dumps(data))
    runner = CliRunner()
    for one, other in (("a.json", "b.csv"), ("b.csv", "c.json")):
        told = runner.invoke(main, ["convert", str(tmp_path / one), "-o", str(tmp_path / other)])
        assert told.exit_code == 0, told.output
    back = json.loads((tmp_path / "c.json").read_text())
    assert {key: back[key] for key in data if key != "source"} == {key: data[key] for key in data if key != "source"}


def test_the_command_line_tells_the_ways_and_takes_an_answer(tmp_path):
    path = tmp_path / "log.csv"
    path.write_text(ASKED["hours or minutes"][0])
    asked = CliRunner().invoke(main, ["convert", str(path), "-o", str(tmp_path / "o.csv")])
    assert asked.exit_code == 1
    assert "minutes=hh_mm" in asked.stderr
    told = CliRunner().invoke(main, ["convert", str(path), "-o", str(tmp_path / "o.csv"), "--answer", "minutes=mm_ss"])
    assert told.exit_code == 0
    assert read_series(tmp_path / "o.csv", CATALOGUE).series.time == pytest.approx([0, 10, 20])


# files changed in writing only

START = datetime(2026, 3, 27, 20, 15, 30)
STAMPS = {
    "iso": "%Y-%m-%d %H:%M:%S",
    "iso t": "%Y-%m-%dT%H:%M:%S",
    "slash iso": "%Y/%m/%d %H:%M:%S",
    "dots": "%d.%m.%Y %H:%M:%S",
    "day": "%d/%m/%Y %H:%M:%S",
    "month": "%m/%d/%Y %I:%M:%S %p",
    "dash": "%d-%m-%Y %H:%M:%S",
    "short": "%d/%m/%y %H:%M:%S",
    "named": "%d %b %Y %H:%M:%S",
    "packed": "%Y%m%d%H%M%S",
    "clock": "%H:%M:%S",
    "ampm": "%I:%M:%S %p",
}
NAMES = {
    "bed": ["bed", "Bed", "Bett", "Heizbett", "Plateau", "bed temperature", "Temp bed"],
    "block": ["hotend", "Nozzle", "Düse", "buse", "T0", "extruder"],
    "room": ["room", "Ambient", "Raum", "ambiente"],
}


def written(chance: random.Random) -> tuple[bytes, np.ndarray, dict[str, np.ndarray]]:
    """A log in a random writing, with the times and values that it holds."""
    rows = chance.choice([5, 20, 60])
    step = chance.choice([1, 5, 10, 60])
    seconds = np.arange(rows) * float(step)
    values = {
        "bed": 20.0 + np.minimum(np.arange(rows), 45.0) + chance.randrange(10) / 10.0,
        "block": 21.0 + np.minimum(3.0 * np.arange(rows), 180.0),
        "room": np.full(rows, 19.5),
    }
    keys = chance.sample(list(values), chance.choice([1, 2, 3]))
    kind = chance.choice([*STAMPS, "seconds", "minutes", "ms", "epoch", "epoch ms", "sheet", "apart"])
    separator = chance.choice([",", ";", "\t", "|"])
    comma = separator != "," and chance.random() < 0.4
    fahrenheit = chance.random() < 0.25
    quote = chance.random() < 0.2

    def number(value: float, places: int = 1) -> str:
        return f"{value:.{places}f}".replace(".", "," if comma else ".")

    def cell(text: str) -> str:
        return f'"{text}"' if quote or separator in text else text

    heads, columns = [], []
    moments = [START + timedelta(seconds=float(one)) for one in seconds]
    if kind == "apart":
        heads, columns = (
            ["Date", "Time"],
            [[f"{one:%Y-%m-%d}" for one in moments], [f"{one:%H:%M:%S}" for one in moments]],
        )
    elif kind in STAMPS:
        heads, columns = (
            [chance.choice(["time", "Zeit", "Timestamp"])],
            [[one.strftime(STAMPS[kind]) for one in moments]],
        )
    else:
        epoch = START.timestamp()
        heads, texts = {
            "seconds": ("time [s]", [number(one) for one in seconds]),
            "minutes": ("time (min)", [number(one / 60.0, 6) for one in seconds]),
            "ms": ("time [ms]", [f"{1000 * one:.0f}" for one in seconds]),
            "epoch": ("time", [f"{epoch + one:.0f}" for one in seconds]),
            "epoch ms": ("time", [f"{1000 * (epoch + one):.0f}" for one in seconds]),
            "sheet": ("time", [number(46108.5 + one / 86400.0, 10) for one in seconds]),
        }[kind]
        heads, columns = [heads], [texts]
    for key in keys:
        heads.append(
            chance.choice(NAMES[key])
            + (
                chance.choice([" [°F]", " (deg F)", " [Fahrenheit]"])
                if fahrenheit
                else chance.choice(["", " [°C]", " (C)"])
            )
        )
        columns.append([number(1.8 * one + 32.0, 2) if fahrenheit else number(one) for one in values[key]])
    order = list(range(len(heads)))
    if chance.random() < 0.3:
        chance.shuffle(order)
    lines = [separator.join(cell(heads[n]) for n in order)]
    lines += [separator.join(cell(columns[n][row]) for n in order) for row in range(rows)]
    if chance.random() < 0.2:
        lines = ["Logger report", "Interval: 5 s", "", *lines]
    if chance.random() < 0.15:
        lines.append("End")
    end = chance.choice(["\n", "\r\n"])
    text = end.join(lines) + (end if chance.random() < 0.8 else "")
    data = text.encode(chance.choice(["utf-8", "utf-8-sig", "utf-16", "cp1252", "utf-8"]))
    return data, seconds, {key: values[key] for key in keys}


def writings_hold(folder: Path, seed: int, count: int) -> tuple[int, int]:
    """Random writings: the same numbers or a question; returns how many were read, and how many asked."""
    chance, read_right, asked = random.Random(seed), 0, 0
    for number in range(count):
        data, seconds, values = written(chance)
        path = folder / f"{number % 50}.csv"
        path.write_bytes(data)
        try:
            found = read_parts(path, CATALOGUE)
        except UnsureError:
            asked += 1
            continue
        except ShopError as wrong:
            raise AssertionError(f"{wrong}\n{data[:400]!r}") from None
        assert len(found) == 1, data[:400]
        series = found[0].series
        assert series.time == pytest.approx(seconds - seconds[0], abs=2e-2), data[:600]
        for key, column in values.items():
            assert series.values[key] == pytest.approx(column, abs=6e-3), (key, data[:600])
        read_right += 1
    return read_right, asked


def test_files_changed_in_writing_only_give_the_same_numbers_or_a_question(tmp_path):
    right, asked = writings_hold(tmp_path, 5, 600)
    assert right > 0.9 * (right + asked)


@pytest.mark.verify
@pytest.mark.parametrize("seed", range(10))
def test_a_hundred_thousand_files_changed_in_writing_only(tmp_path, seed):
    right, asked = writings_hold(tmp_path, 100 + seed, 10_000)
    assert right > 0.9 * (right + asked)
