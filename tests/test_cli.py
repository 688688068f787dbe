"""The command line: the same answers without a screen."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from click.testing import CliRunner

from zeotherm.cli import main
from zeotherm.shop.files.sound_files import write_sound
from zeotherm.shop.places import demo_jobs
from zeotherm.shop.practice.virtual_printer import as_csv, day, fan_sound

CURLEW = next(str(path) for path in demo_jobs() if "curlew" in path.name)
pytestmark = pytest.mark.usefixtures("shared_answers")


def run(*words: str):
    return CliRunner().invoke(main, list(words))


def test_solve_gives_everything_as_json():
    found = run("solve", CURLEW, "--json")
    assert found.exit_code == 0
    data = json.loads(found.stdout)
    assert {"verdict", "stations", "margins", "watts", "solver", "cautions"} <= set(data)
    assert data["solver"]["energy_closure"] < 1e-6
    assert data["stations"]["sink_base"]["measured"] == 50.6
    assert data["course"]["energy_closure"] < 1e-6
    assert any(event["what"] == "feed stops" for event in data["course"]["events"])
    assert 0.1 < data["course"]["chances"]["eight_hours"] <= data["course"]["chances"]["finish"] < 0.6
    assert data["strengths"][0]["gain"] > 0
    assert all(margin["source"] and margin["breaks"] for margin in data["margins"])
    assert all(margin["band"] for margin in data["margins"] if margin["room"] is not None)


def test_solve_prints_a_table():
    found = run("solve", CURLEW)
    assert found.exit_code == 0
    assert "too warm" in found.stdout
    assert "Jam about" in found.stdout
    assert "Feed" in found.stdout


def test_schema_accepts_the_demo():
    schema = json.loads(run("schema").stdout)
    assert set(json.loads(Path(CURLEW).read_text())) <= set(schema["properties"])


def test_check_and_set(tmp_path: Path):
    copy = tmp_path / "job.json"
    copy.write_text(Path(CURLEW).read_text())
    assert run("check", str(copy)).exit_code == 0
    assert run("set", str(copy), "fan", "12", "V").exit_code == 0
    assert json.loads(copy.read_text())["trial"] == {"fan": {"voltage_v": 12.0}}
    before = copy.read_text()
    refused = run("set", str(copy), "fan", "99", "V")
    assert refused.exit_code == 1
    assert "goes from" in refused.stderr
    assert copy.read_text() == before


@pytest.mark.parametrize("ending", [".html", ".pdf"])
def test_report_is_written(tmp_path: Path, ending, qapp):
    target = tmp_path / f"report{ending}"
    found = run("report", CURLEW, "-o", str(target))
    assert found.exit_code == 0, found.output
    data = target.read_bytes()
    assert data.startswith(b"%PDF" if ending == ".pdf" else b"<!DOCTYPE html>")


def test_errors_are_one_sentence_on_standard_error(tmp_path: Path):
    found = run("solve", str(tmp_path / "none.json"))
    assert found.exit_code == 1
    assert found.stderr.startswith("zeotherm: There is no file")
    assert found.stdout == ""
    assert run("solve").exit_code == 2
    assert run("report", CURLEW, "-o", str(tmp_path / "x.txt")).exit_code == 2
    assert run("--version").exit_code == 0


def test_solve_at_a_clock_time():
    morning = json.loads(run("solve", CURLEW, "--json", "--at", "11:00").stdout)
    assert morning["moment"]["phase"] == "print"
    assert morning["moment"]["clock_h"] == pytest.approx(11.0)
    worst = json.loads(run("solve", CURLEW, "--json").stdout)
    assert morning["stations"]["bore"]["value"] < worst["stations"]["bore"]["value"] - 5
    for clock, code in (("25:00", 2), ("noon", 2), ("3:00", 2)):
        found = run("solve", CURLEW, "--at", clock)
        assert found.exit_code == code
        assert clock in found.stderr


def test_run_writes_every_station_over_time(tmp_path: Path):
    target = tmp_path / "hours.csv"
    assert run("run", CURLEW, "-o", str(target)).exit_code == 0
    head, *rows = target.read_text().splitlines()
    titles = head.split(",")
    assert titles[:3] == ["time [s]", "clock [h]", "phase"]
    assert "sink_base [°C]" in titles
    assert len(rows) > 60
    assert {row.split(",")[2] for row in rows} == {"preheat", "soak", "print", "cool"}
    times = [float(row.split(",")[0]) for row in rows]
    assert times == sorted(times)
    assert run("run", CURLEW, "-o", str(tmp_path / "no" / "where.csv")).exit_code == 1


def test_a_run_can_be_read_back_as_a_log(tmp_path: Path):
    """What is written is an open format that the reader takes."""
    target = tmp_path / "hours.csv"
    run("run", CURLEW, "-o", str(target))
    found = run("log", CURLEW, str(target))
    assert found.exit_code == 0
    assert "0.0 K" in found.stdout


def test_log_states_the_difference_and_can_be_kept(tmp_path: Path):
    job = tmp_path / "job.json"
    job.write_text(Path(CURLEW).read_text())
    probes = tmp_path / "probes.csv"
    probes.write_text(as_csv(day()))
    found = run("log", str(job), str(probes), "--keep")
    assert found.exit_code == 0
    assert "below the model" in found.stdout
    assert "feeding" in found.stderr
    kept = json.loads(job.read_text())["measured"]
    assert kept["runs"][kept["laid"]]["rows"] == 1002
    bad = tmp_path / "bad.csv"
    bad.write_text("time,bed\n0,20\n1,warm\n")
    before = job.read_text()
    refused = run("log", str(job), str(bad), "--keep")
    assert refused.exit_code == 1
    assert "line 3" in refused.stderr
    assert job.read_text() == before


def test_compare_names_the_cheapest_set(tmp_path: Path):
    job = json.loads(Path(CURLEW).read_text())
    job["variants"] = {
        "duct": {"label": "Duct", "change": {"surroundings": {"air_from": "duct"}}, "cost": 9.0, "minutes": 25.0},
        "guard": {"label": "Guard", "change": {"fan": {"guard_blocked_pct": 5.0}}, "minutes": 10.0},
        "glass": {"label": "Hotter", "change": {"printing": {"nozzle_c": 230.0}}, "cost": 1.0},
    }
    path = tmp_path / "job.json"
    path.write_text(json.dumps(job))
    found = run("compare", str(path), "--json")
    assert found.exit_code == 0, found.output
    data = json.loads(found.stdout)
    assert {row["label"] for row in data["columns"]} == {"As found", "Duct", "Guard", "Hotter"}
    assert set(data["cheapest"]["options"]) == {"duct", "guard"}  # the guard costs nothing
    assert data["cheapest"]["passes"]
    assert run("compare", CURLEW).exit_code == 1


def test_the_virtual_printer_writes_its_day(tmp_path: Path):
    target = tmp_path / "day.csv"
    assert run("virtual-day", "-o", str(target), "--seed", "9").exit_code == 0
    assert target.read_text() != as_csv(day())


def test_options_that_do_not_fit_are_refused_with_their_name(tmp_path: Path):
    job = json.loads(Path(CURLEW).read_text())
    path = tmp_path / "job.json"
    for variants, chosen, told in (
        ({"a": {"label": "A", "change": {"fan": {"voltage_v": 99}}}}, [], "variants.a.change"),
        ({"a": {"label": "A", "change": {"hotend": {"break_part": "glass"}}}}, [], "glass"),
        ({}, ["b"], "chosen names b"),
    ):
        path.write_text(json.dumps({**job, "variants": variants, "chosen": chosen}))
        found = run("check", str(path))
        assert found.exit_code == 1
        assert told in found.stderr


def test_causes_are_ranked_by_what_is_told(tmp_path: Path):
    copy = tmp_path / "job.json"
    copy.write_text(Path(CURLEW).read_text())
    for words in (["jams"], ["late"], ["afternoon"], ["heater", "3.7", "ohm"]):
        assert run("set", str(copy), *words).exit_code == 0
    assert json.loads(copy.read_text())["intake"]["answers"]["depends"] == ["hour"]
    data = json.loads(run("causes", str(copy), "--quick", "--json").stdout)
    assert data["verdict"] == "Heater reads that of 12 V: do not switch on"
    assert data["simulated"] == 0
    assert sum(one["probability"] for one in data["causes"]) == pytest.approx(1.0)
    assert all(one["mends"] for one in data["causes"])
    assert all(answer["after"] <= 1.0 for one in data["checks"] for answer in one["answers"])
    assert run("set", str(copy), "forget", "when").exit_code == 0
    assert "when" not in json.loads(copy.read_text())["intake"]["answers"]


def test_simulated_causes_name_the_sun(tmp_path: Path):
    found = run("causes", CURLEW)
    assert found.exit_code == 0
    assert "sun or heating warms the machine" in found.stdout.splitlines()[0]


def test_answers_that_nobody_asks_for_are_named(tmp_path: Path):
    copy = tmp_path / "job.json"
    data = json.loads(Path(CURLEW).read_text())
    copy.write_text(json.dumps({**data, "intake": {"answers": {"wen": ["soak"]}}}))
    found = run("check", str(copy))
    assert found.exit_code == 0
    assert "Did you mean when?" in found.stderr


def test_a_run_carries_bands_and_certainty(tmp_path: Path):
    rows = run("run", CURLEW).stdout.splitlines()
    head = rows[0].split(",")
    down, holds = head.index("bore band down"), head.index("feed holds [-]")
    printed = [row.split(",") for row in rows[1:] if row.split(",")[2] == "print"]
    known = [row for row in printed if row[down]]
    assert len(known) > 0.6 * len(printed)
    assert all(0.0 <= float(row[holds]) <= 1.0 for row in known if row[holds])


def test_the_report_tells_what_was_found_and_decided(tmp_path: Path, qapp):
    copy, page = tmp_path / "job.json", tmp_path / "report.html"
    data = json.loads(Path(CURLEW).read_text())
    copy.write_text(json.dumps({**data, "intake": {"answers": {"when": ["soak"]}, "decided": "sun_room"}}))
    assert run("report", str(copy), "-o", str(page)).exit_code == 0
    text = page.read_text()
    assert "Told and checked: When: after 1 h or more." in text
    assert "Cause decided on: Sun or heating warms the machine." in text


RUNS = [str(path) for path in sorted(Path(CURLEW).parent.glob("2-curlew-run*.csv"))]
PICTURES = [str(path) for path in sorted(Path(CURLEW).parent.glob("2-curlew-picture*.csv"))]


def test_runs_are_compared_and_noted():
    found = run("runs", *RUNS, "--purpose", "lid", "--purpose", "sink_fan", "--tariff", "0.31", "--json")
    assert found.exit_code == 0
    data = json.loads(found.stdout)
    top = data["figures"][0]
    assert (top["channel"], top["real"]) == ("sink_base", True)
    assert -13.5 < top["change"] < -10.0
    assert any(row["kind"] == "cost" for row in data["figures"])
    assert {row["key"]: row["match"] for row in data["conditions"]}["lid"] == "on_purpose"
    noted = json.loads(run("runs", *RUNS, "--note", "room=16/20", "--normalise", "--at", "60", "--json").stdout)
    assert {row["key"]: row["match"] for row in noted["conditions"]}["room"] == "differs"
    assert noted["figures"][0]["at_s"] == 3600.0
    table = run("runs", *RUNS, "--label", "same", "--label", "same")
    assert "one kind of run" in table.stdout


@pytest.mark.parametrize(
    ("words", "code", "told"),
    [
        (("--note", "weather=wet"), 2, "is no condition"), (("--note", "room=warm/20"), 1, "is no number"),
        (("--note", "room=20"), 2, "1 values for 2 runs"),
        (("--label", "a"), 2, "1 labels for 2 runs"), (("--purpose", "x"), 2, "is no condition"),
        (("--column", "time [s]=foo"), 1, "no channel is called 'foo'"),
        (("--column", "case_air [C]="), 0, "Sink base"),
    ],
)  # fmt: skip
def test_runs_say_what_is_wrong(words, code, told):
    found = run("runs", *RUNS, *words)
    assert found.exit_code == code
    assert told in found.output


def test_runs_are_written_as_open_files(tmp_path: Path):
    for name in ("run.json", "run.csv"):
        assert run("convert", RUNS[0], "-o", str(tmp_path / name)).exit_code == 0
        assert "as found" in run("runs", str(tmp_path / name)).output.replace("As found", "as found")
    assert run("convert", RUNS[0], "-o", str(tmp_path / "run.txt")).exit_code == 2


def test_pictures_on_the_command_line():
    found = run("picture", *PICTURES, "--region", "bed=0.08,0.08,0.92,0.9")
    assert found.exit_code == 0
    assert "below the centre" in found.stdout
    assert "too close to call" in found.stdout
    assert run("picture", PICTURES[0], "--region", "bed=1,2").exit_code == 2
    assert run("picture", PICTURES[0], "--emissivity", "0.05").exit_code == 2
    assert run("picture", CURLEW).exit_code == 1


def test_sounds_and_programs_on_the_command_line(tmp_path: Path):
    write_sound(tmp_path / "fan.wav", fan_sound(4200.0, 7), 16000)
    heard = run("sound", str(tmp_path / "fan.wav"), "--blades", "7")
    assert "4200" in heard.stdout
    assert run("sound", CURLEW, "--blades", "7").exit_code == 1
    job = tmp_path / "job.json"
    job.write_text(Path(CURLEW).read_text())
    part = tmp_path / "part.gcode"
    part.write_text("M104 S215\n" + "G1 X100 E4 F1200\nG92 X0 E0\n" * 200)
    assert "Lasts about" in run("program", str(part), "--job", str(job)).stdout
    assert json.loads(job.read_text())["found"]["printing"]["nozzle_c"] == 215.0
    assert run("program", CURLEW).exit_code == 1


def test_procedures_are_listed_and_told():
    listed = run("procedures")
    assert "cold_pull" in listed.output
    told = run("procedures", "flame")
    assert "Extinguisher stands ready" in told.output
    assert "if it goes wrong" in told.output
    wrong = run("procedures", "flam")
    assert wrong.exit_code == 1
    assert "Nothing is called 'flam'" in wrong.output


def test_an_order_is_printed_written_and_refused(tmp_path: Path):
    wrong = run("order", CURLEW)
    assert wrong.exit_code == 1
    assert "Name a --procedure" in wrong.output
    data = json.loads(run("order", CURLEW, "--procedure", "fan_cleaning", "--json").output)
    assert [line["key"] for line in data["lines"]][:2] == ["to/block.cool", "to/power.out"]
    assert data["proof"]["minutes"] == 300.0
    assert "Proof run" in run("order", CURLEW, "--procedure", "vents").output
    done = run("order", CURLEW, "--procedure", "nozzle_change", "-o", str(tmp_path / "order.pdf"))
    assert done.exit_code == 0
    assert (tmp_path / "order.pdf").read_bytes().startswith(b"%PDF")
    assert "ends in neither" in run("order", CURLEW, "--procedure", "vents", "-o", str(tmp_path / "order.doc")).output


def test_a_cool_down_is_told_and_sharpened():
    told = run("cooldown", CURLEW, "--read", "1:00=174", "--read", "2:30=142")
    assert told.output.startswith("Below 48 °C after ")
    assert "contact probe" in told.output
    assert "ISO 13732-1" in told.output, "a limit says its source"
    for wrong in ("soon=50", "1:00=nan", "1:nan=142", "1:00=9999", "-3:00=140", "1:00"):
        refused = run("cooldown", CURLEW, f"--read={wrong}")
        assert refused.exit_code == 1
        assert "is no reading" in refused.output
    assert "30 to 500" in run("cooldown", CURLEW, "--from", "900").output


def test_a_reading_that_cannot_be_does_not_count():
    plain, doubted = run("cooldown", CURLEW), run("cooldown", CURLEW, "--read", "1:00=40")
    assert "40 °C after 1:00 does not count. Lower than it can be by now" in doubted.output
    assert doubted.output.endswith(plain.output)


def test_own_procedures_are_checked(tmp_path: Path):
    path = tmp_path / "procedures.toml"
    assert "is not there" in run("check-own", str(path)).output
    path.write_text("[choices.pull]\nusual = 'hard'\n")
    wrong = run("check-own", str(path))
    assert wrong.exit_code == 1
    assert "line 2" in wrong.output or "line 1" in wrong.output
    path.write_text("[choices.pull]\nusual = 'warm'\n")
    assert "nothing wrong" in run("check-own", str(path)).output


DUNLIN = next(str(path) for path in demo_jobs() if "dunlin" in path.name)


def test_bed_tells_stack_margins_and_surprises():
    found = run("bed", DUNLIN)
    assert found.exit_code == 0
    assert "later than it is wanted" in found.stdout
    assert "Magnet sheet" in found.stdout
    assert "corner drop" in found.stdout
    data = json.loads(run("bed", DUNLIN, "--json").stdout)
    assert data["course"]["energy_closure"] < 1e-6
    assert data["share_within_2_k"] < 0.4
    assert {one["limit"] for one in data["margins"]} >= {"bed_corner", "bed_ready", "bed_magnet"}
    assert all(one["band"] for one in data["margins"] if one["room"] is not None)


def test_bed_size_blocks_foam_sizes_a_pad_and_writes_the_outline(tmp_path):
    found = run("bed-size", DUNLIN, "--minutes", "8", "--outline", str(tmp_path / "cut.dxf"))
    assert found.exit_code == 0
    assert "Packaging foam (PE): blocked" in found.stdout
    assert "W when cold" in found.stdout
    assert (tmp_path / "cut.dxf").exists()
    refused = run("bed-size", DUNLIN, "--outline", str(tmp_path / "cut.pdf"))
    assert refused.exit_code == 1
    assert ".dxf or .svg" in refused.stderr
    rows = json.loads(run("bed-size", DUNLIN, "--json").stdout)["insulations"]
    assert any(row["allowed"] for row in rows)


def test_bed_fit_reads_the_beds_own_curve():
    log = Path(DUNLIN).with_name("3-dunlin-run1.csv")
    data = json.loads(run("bed-fit", DUNLIN, str(log), "--json").stdout)
    found = {one["name"]: one for one in data["found"]}
    assert data["misfit_k"] < data["misfit_before_k"]
    assert abs(found["heater"]["after"] - 286.0) < 20.0  # what the virtual bed has
    assert found["heater"]["band"] < found["heater"]["band_before"]
    assert "by its curve" in run("bed-fit", DUNLIN, str(log)).stdout
    refused = run("bed-fit", DUNLIN, DUNLIN)
    assert refused.exit_code == 1


def test_a_job_without_a_bed_is_told_so(tmp_path):
    data = json.loads(Path(DUNLIN).read_text(encoding="utf-8"))
    data["found"]["bed"]["target_c"] = 0.0
    job = tmp_path / "cold.json"
    job.write_text(json.dumps(data), encoding="utf-8")
    assert "no heated bed" in run("bed", str(job)).stderr
    data["found"]["bed"] |= {"target_c": 75.0, "sensor_x_mm": 260.0}
    job.write_text(json.dumps(data), encoding="utf-8")
    assert run("bed", str(job)).exit_code == 1


def test_bed_tells_how_it_goes_under_its_controller(tmp_path):
    job = json.loads(Path(DUNLIN).read_text(encoding="utf-8"))
    job["found"]["bed"] |= {"control": "relay", "band_k": 2.0}
    path = tmp_path / "switched.json"
    path.write_text(json.dumps(job), encoding="utf-8")
    found = run("bed", str(path))
    assert found.exit_code == 0
    assert "is switched every" in found.stdout


def test_bed_tune_writes_the_lines():
    found = run("bed-tune", DUNLIN)
    assert found.exit_code == 0
    assert "M304 P" in found.stdout
    assert "protection" in found.stdout


GANNET = next(str(path) for path in demo_jobs() if "gannet" in path.name)


def test_chamber_tells_margins_losses_and_what_a_change_does():
    found = run("chamber", GANNET)
    assert found.exit_code == 0
    for told in (
        "The case comes to",
        "time constant",
        "Supply's air",
        "gaps",
        "vents and door",
        "Insulating under the bed",
    ):
        assert told in found.stdout
    data = json.loads(run("chamber", GANNET, "--json").stdout)
    assert data["energy_closure"] < 1e-6
    assert sum(data["lost_w"].values()) == pytest.approx(data["bed_w"] + data["heater_w"], rel=0.7)


def test_chamber_size_heats_cuts_out_and_opens():
    found = run("chamber-size", GANNET, "--wanted", "55", "--minutes", "30", "--coldest", "10")
    assert found.exit_code == 0
    assert "Holding 55 °C at the print takes" in found.stdout
    assert "Door opens" in found.stdout
    assert "local codes apply" in found.stdout
    unasked = run("chamber-size", GANNET)
    assert unasked.exit_code == 1
    assert "say --wanted" in unasked.stderr
    assert "nothing encloses" in run("chamber", DUNLIN).stderr
    sizes = json.loads(run("chamber-size", GANNET, "--wanted", "55", "--json").stdout)
    assert sizes["parts"][0]["part"] == "case_supply"
    assert any("no line for 55 °C, too hot for: supply's air" in line for line in sizes["lines"]), (
        "it does not stand that"
    )
    assert not any(line.startswith("M191") for line in sizes["lines"])
    elsewhere = run("chamber-size", GANNET, "--wanted", "55", "--on", DUNLIN).stdout
    assert "Dunlin, sail loft cannot print" in elsewhere
    assert sizes["fit"][1]["spare_mm"] == 5.0


def test_chamber_suits_fits_and_draws(tmp_path):
    suits = json.loads(run("chamber-suits", GANNET, "--json").stdout)
    assert {one["filament"] for one in suits} >= {"pla", "petg", "abs", "pa6"}
    assert "creeps from" in run("chamber-suits", GANNET).stdout
    log = Path(GANNET).with_name("2-curlew-run1.csv")
    curlew = str(Path(GANNET).with_name("2-curlew.json"))
    fit = json.loads(run("chamber-fit", curlew, str(log), "--json").stdout)
    assert fit["misfit_k"] < 0.7 * fit["misfit_before_k"]
    assert {one["name"] for one in fit["found"]} == {"film", "gap", "content"}
    assert "by its curve" in run("chamber-fit", curlew, str(log)).stdout
    assert run("chamber-fit", curlew, curlew).exit_code == 1
    drawn = run("chamber-panels", GANNET, str(tmp_path / "panels.svg"))
    assert "72 vent holes" in drawn.stdout
    assert (tmp_path / "panels.svg").exists()
    assert ".dxf or .svg" in run("chamber-panels", GANNET, str(tmp_path / "panels.pdf")).stderr


def test_power_tells_volts_joints_and_what_is_short():
    found = run("power", DUNLIN)
    assert found.exit_code == 0
    assert "The bed's plug carries" in found.stdout
    assert "Bed lead" in found.stdout
    data = json.loads(run("power", DUNLIN, "--json").stdout)
    assert data["energy_closure"] < 1e-6
    assert data["bed_v"] == pytest.approx(23.0, abs=0.2)
    assert all(margin["source"] and margin["band"] for margin in data["margins"])
    assert not data["wrong_voltage"]
    assert not data["runs_away"]
    assert "not described" in run("power", CURLEW).stderr


def test_power_size_and_readings():
    sizes = json.loads(run("power-size", DUNLIN, "--json").stdout)
    assert sizes["supply"]["rule_w"] < sizes["supply"]["model_w"] <= sizes["supply"]["offered_w"]
    assert sizes["outputs"][0]["load"] == "bed"
    assert "take 600 W" in run("power-size", DUNLIN).stdout
    told = run("power-reading", DUNLIN, "plug", "--drop", "0.24", "--amps", "12")
    assert "20.0 mΩ" in told.stdout
    assert "Replace it" in told.stdout
    warm = json.loads(run("power-reading", DUNLIN, "plug", "--warm", "79", "--json").stdout)
    assert warm["milliohm"] > 3 * warm["sound_milliohm"]
    assert "one of the two" in run("power-reading", DUNLIN, "plug").stderr
    assert "swap the probes" in run("power-reading", DUNLIN, "plug", "--drop", "-0.1", "--amps", "9").stderr
    assert "cooler than its wires" in run("power-reading", DUNLIN, "plug", "--warm", "-20").stderr


def test_the_report_tells_of_bed_case_and_power_too(tmp_path, qapp):
    page = tmp_path / "report.html"
    assert run("report", DUNLIN, "-o", str(page)).exit_code == 0
    text = page.read_text(encoding="utf-8")
    assert "<b>Bed:</b>" in text
    assert "<b>Power:</b>" in text
    assert "<b>Case:</b>" not in text  # it stands open
    assert "0.191 V ±0.002 V" in text
    assert run("report", GANNET, "-o", str(page)).exit_code == 0
    assert "<b>Case:</b>" in page.read_text(encoding="utf-8")


def test_a_wiring_is_proposed_checked_and_refused(tmp_path):
    proposed = json.loads(run("wiring-check", DUNLIN, "--propose", "module").stdout)
    job = json.loads(Path(DUNLIN).read_text(encoding="utf-8"))
    right, wrong = tmp_path / "right.json", tmp_path / "wrong.json"
    right.write_text(json.dumps({**job, "wiring": proposed}), encoding="utf-8")
    links = [link for link in proposed["links"] if "fuse.a" not in link["ends"]]
    wrong.write_text(json.dumps({**job, "wiring": {**proposed, "links": links}}), encoding="utf-8")
    assert "Nothing is wrong" in run("wiring-check", str(right)).stdout
    refused = run("wiring-check", str(wrong), "--json")
    assert refused.exit_code == 2
    assert not json.loads(refused.stdout)["may_be_wired"]
    assert "no wiring yet" in run("wiring-check", DUNLIN).stderr
    odd = {**proposed, "links": [{"ends": ["Supply +", "fuse.a"]}]}
    wrong.write_text(json.dumps({**job, "wiring": odd}), encoding="utf-8")
    assert "wiring.links" in run("wiring-check", str(wrong)).stderr


@pytest.mark.parametrize(("shell", "word"), [("bash", "complete"), ("zsh", "compdef"), ("fish", "complete")])
def test_a_shell_is_told_how_to_complete(shell, word):
    found = CliRunner().invoke(main, ["completion", shell])
    assert found.exit_code == 0
    assert word in found.output
    assert "_ZEOTHERM_COMPLETE" in found.output


def test_facts_are_told_with_how_to_find_them_out(tmp_path):
    path = tmp_path / "new.json"
    path.write_text('{"format": "zeotherm-job"}')
    found = CliRunner().invoke(main, ["facts", str(path)])
    assert found.exit_code == 0
    assert found.output.startswith("Too close to call: three facts decide")
    assert "Kind of hotend" in found.output
    told = json.loads(CliRunner().invoke(main, ["facts", str(path), "--json"]).output)
    assert len(told["assumed"]) > 20
    assert [one["decides"] for one in told["deciding"][:3]] == [True] * 3
    assert told["band_after_first"]["down"] < told["band_now"]["down"]
    for line in ("guard 0 %", "guard ?"):
        assert CliRunner().invoke(main, ["set", str(path), *line.split()]).exit_code == 0
        known = json.loads(path.read_text())["known"]
        assert ("fan.guard_blocked_pct" in known) == (line == "guard 0 %")
    every = CliRunner().invoke(main, ["facts", str(next(p for p in demo_jobs() if "curlew" in p.name))])
    assert "Every fact is known." in every.output


def test_the_machine_is_told_part_by_part_with_its_watts(tmp_path):
    told = run("machine", CURLEW)
    assert told.exit_code == 0
    lines = told.stdout.splitlines()
    assert [line.partition(":")[0] for line in lines[:4]] == ["Hotend", "Bed", "Case", "Power"]
    assert lines[4].startswith("In ")
    assert "Out: walls" in lines[4]
    data = json.loads(run("machine", CURLEW, "--at", "12:50", "--json").stdout)
    given, lost = sum(data["watts"]["enters"].values()), sum(data["watts"]["leaves"].values())
    assert given - lost == pytest.approx(data["watts"]["warms"], abs=1e-6)
    assert data["parts"]["power"]["state"] == "not known"
    assert data["facts"]["assumed"] == 0
    bare = tmp_path / "bare.json"
    bare.write_text('{"format": "zeotherm-job"}')
    new = run("machine", str(bare))
    assert "clear" not in new.stdout
    assert "assumed" in new.stdout.splitlines()[-1]
    assert run("machine", CURLEW, "--at", "nine").exit_code != 0


def test_sizes_for_a_bed_that_is_assumed_say_so(tmp_path):
    job = json.loads(Path(DUNLIN).read_text())
    known = run("power-size", DUNLIN, "--json")
    assert json.loads(known.stdout)["enter_first"] == []
    job["known"] = {path: one for path, one in job["known"].items() if not path.startswith("bed.")}
    bare = tmp_path / "bare.json"
    bare.write_text(json.dumps(job))
    assert run("power-size", str(bare)).stdout.startswith("These sizes are for an assumed bed")
    assert json.loads(run("power-size", str(bare), "--json").stdout)["enter_first"] == ["Bed", "Bed heater"]


def test_the_shelf_is_listed_handed_on_and_taken_in(tmp_path):
    parts = str(tmp_path / "parts.json")
    listed = run("shelf", "--parts", parts)
    assert "Fans" in listed.stdout
    assert "0 own" in listed.stdout
    table = run("shelf", "fans", "--csv", "--parts", parts).stdout
    brought = tmp_path / "theirs.csv"
    brought.write_text("shelf,name,most like,flow_m3_h,flow_m3_h ±,count\nfans,Loud 40,axial_40_24v,16,1,2\n")
    found = run("shelf-import", str(brought), "--parts", parts)
    assert found.stdout.startswith("1 new parts")
    assert "own_loud_40" in run("shelf", "fans", "--own", "--parts", parts).stdout
    grown = run("shelf", "fans", "--csv", "--parts", parts).stdout
    assert len(grown.splitlines()) == len(table.splitlines()) + 1
    out = tmp_path / "ours.json"
    out.write_text(run("shelf", "--json", "--parts", parts).stdout, encoding="utf-8")
    assert run("shelf-import", str(out), "--parts", str(tmp_path / "other.json")).stdout.startswith("1 new parts")
    assert "0 new parts" in run("shelf-import", str(out), "--parts", parts).stdout
    assert "FanKind" in json.loads(run("schema", "--shelf").stdout)["$defs"]


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (("shelf", "wheels"), "There is no shelf 'wheels'"),
        (("shelf-import", "nothing.csv"), "no file"),
        (("shelf", "fans", "--parts", "."), "is no file"),
    ],
)
def test_a_shelf_that_is_none_is_told(tmp_path, words, said):
    wrong = run(*words, *(() if "--parts" in words else ("--parts", str(tmp_path / "parts.json"))))
    assert wrong.exit_code == 1
    assert said in wrong.stderr


def test_the_card_of_a_machine_has_every_filament(tmp_path):
    found = run("card", CURLEW, "--json")
    lines = json.loads(found.stdout)
    assert lines[0]["filament"] == "pla"
    assert lines[0]["keep_below_c"] < lines[0]["fan_now_c"]
    said = run("card", CURLEW).stdout
    assert "Late in its job the heatsink fan breathes" in said
    assert "do not print" in said
    page = tmp_path / "card.html"
    assert run("card", CURLEW, "-o", str(page)).exit_code == 0
    assert page.read_text(encoding="utf-8").count("<tr>") == len(lines) + 1
    wrong = run("card", CURLEW, "-o", str(tmp_path / "card.docx"))
    assert wrong.exit_code == 1
    assert "neither .html nor .pdf" in wrong.stderr


def test_a_hotend_is_put_together_and_its_window_told(tmp_path):
    job = tmp_path / "gannet.json"
    job.write_text(Path(GANNET).read_text(encoding="utf-8"), encoding="utf-8")
    told = run("build", str(job), "--plastic", "abs", "--nozzle", "255", "--write")
    assert told.exit_code == 0
    assert "Compact lined hotend" in told.stdout
    assert "Parts £0" in told.stdout
    kept = json.loads(job.read_text(encoding="utf-8"))["build"]
    assert (kept["plastics"], kept["nozzle_c"]) == (["abs"], 255.0)
    data = json.loads(run("build", str(job), "--put", "hotend=slim_all_metal", "--json").stdout)
    assert data["slots"]["hotend"] == {
        "part": "Slim all-metal hotend", "state": "clear", "chosen": True, "known": True,
    }  # fmt: skip
    assert data["cost"] == 36.0
    assert data["watts"]["rule_of_thumb"] == 40.0
    sheet = tmp_path / "sheet.html"
    run("build", str(job), "--put", "cartridge=v24_w60", "-o", str(sheet))
    text = sheet.read_text(encoding="utf-8")
    assert "<td>24 V, 60 W</td>" in text
    assert "Change the heater cartridge" in text
    assert "ends in neither" in run("build", str(job), "-o", str(tmp_path / "sheet.doc")).stderr
    assert "no filament" in run("build", str(job), "--plastic", "cheese").stderr


def test_remedies_are_held_against_each_other_on_any_machine():
    assert "Does a titanium or bimetal break help?" in run("remedies").stdout
    told = run("remedies", "nozzles", GANNET).stdout
    assert "Brass with a flow insert" in told
    assert "Melts, mm³/s" in told
    data = json.loads(run("remedies", "breaks", GANNET, "--json").stdout)
    assert "It takes: " in data[0]["refused"], "a lined hotend takes no bare break"
    assert "no comparison 'shoes'" in run("remedies", "shoes").stderr
    assert run("remedies", "breaks", "nowhere.json").exit_code == 2


def test_wrong_parts_and_wishes_of_a_build_are_said(tmp_path):
    job = tmp_path / "gannet.json"
    job.write_text(Path(GANNET).read_text(encoding="utf-8"), encoding="utf-8")
    assert "no part in a slot" in run("build", str(job), "--put", "nose=red").stderr
    assert "goes into the nozzle" in run("build", str(job), "--put", "nozzle=gold").stderr
    assert "480" in run("build", str(job), "--nozzle", "900").stderr
    window = json.loads(run("window", GANNET, "--json").stdout)
    assert window["ceilings"][0]["part"] == "PTFE liner"
    assert window["tightest"] == "up"
    assert all("; " in line for line in run("window", GANNET, "--lines").stdout.splitlines())
    assert "PTFE liner" in run("window", GANNET).stdout
    assert "Retraction" in run("window", GANNET, "--profiles").stdout


def test_causes_of_a_browned_plug_say_what_to_do_first(tmp_path):
    job = tmp_path / "gannet.json"
    job.write_text(Path(GANNET).read_text(encoding="utf-8"), encoding="utf-8")
    run("set", str(job), "wire browned")
    told = run("causes", str(job)).stdout
    assert "Switch off, unplug. Do not run it again on a browned plug or wire." in told
    assert "gear" not in told
    data = json.loads(run("causes", str(job), "--json").stdout)
    assert data["trouble"] == "wiring"
    assert data["simulated"] == 0
    assert data["facts"] == []
    assert data["causes"][0]["key"] in ("wire_joint", "wire_plug_small")
