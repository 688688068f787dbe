"""The measured part of the demo: Curlew's runs and pictures by the virtual printer, Dunlin's by the virtual bed and
the virtual power path."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

import numpy as np

import zeotherm
from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import VERSION, Job, Setup
from zeotherm.core.machine.known import changed_paths
from zeotherm.core.machine.measured import Run
from zeotherm.core.machine.patches import difference, merged
from zeotherm.core.machine.quantity import declared
from zeotherm.core.runs.series import Series
from zeotherm.shop.files.run_files import as_csv
from zeotherm.shop.practice.virtual_bed import BedSetting, bed_day, picture
from zeotherm.shop.practice.virtual_path import PathSetting, plug_picture, survey
from zeotherm.shop.practice.virtual_printer import LogRow, Setting, day, thermal_picture

DEMO = Path(zeotherm.__file__).parent / "demo"
CHANNELS = {
    "hotend": "block", "bed": "bed", "sink_base": "sink_base", "fan_air": "fan_inlet", "case": "case_air",
    "room": "room", "watts": "power", "bed_duty": "duty_bed",
}  # fmt: skip
PROGRAM = "5c1e0d7a9be84f0b2b6f9a5c1a6c32f9be1f5f0aa1a4a3d3b1c54d7e6b8f2a90"
SAME = {"filament": "PLA, grey", "program": PROGRAM, "part_fan": 50.0, "meter": 99.4}
RUNS = {
    "run1": ("as found", 4, Setting(idle_min=2.0, start_h=9.5 - 2.0 / 60.0),
             {**SAME, "sink_fan": "23.5 V, lint on the guard", "lid": "vents shut", "mains": 231.0,
              "stopped": 197.0}),
    "run2": ("guard clean, vents open", 9,
             Setting(lint=0.35, lint_grows=0.004, vents=0.6, room_shift=0.4, idle_min=3.0, start_h=9.55),
             {**SAME, "sink_fan": "23.5 V, guard clean", "lid": "vents 60 % open", "mains": 230.0}),
}  # fmt: skip
BEDS = {
    "run1": ("as found", BedSetting(), {"underside": "bare", "mains": 230.0}),
    "run2": ("felt under the bed", BedSetting(insulation=0.010, room=7.4, seed=8, start_h=7.6),
             {"underside": "felt 10 mm", "mains": 231.0}),
}  # fmt: skip
BED_CHANNELS = {"bed": "bed", "target": "target_bed", "watts": "power", "room": "room"}
BED_SAME = {"bed": 75.0, "meter": 98.9}
FACE = 0.92  # emissivity of the bed's film
PLUG = 0.93  # and of the plug's plastic
NOT_LOOKED_AT = {"1-gannet": ("sink_joint", "nozzle_gap"), "2-curlew": (), "3-dunlin": ()}
KNOWN_BY = {
    "fan.voltage_v": ("measured", "multimeter"),
    "power.out_v": ("measured", "multimeter"),
    "hotend.supply_v": ("measured", "multimeter"),
    "hotend.neck_wall_factor": ("measured", "caliper"),
}
PICTURES = {"picture1": ("as found", 50.0, 17.6, 0.0), "picture2": ("guard clean, vents open", 50.0, 18.0, 0.8)}


def run_text(key: str) -> str:
    """One of the demo's runs as a file."""
    label, seed, setting, conditions = RUNS[key]
    rows = list(day(seed, setting))
    clock = np.array([row.clock_h for row in rows]) * 3600.0
    series = Series(np.round(clock - clock[0], 3), {to: _column(rows, name) for name, to in CHANNELS.items()},
                    round(rows[0].clock_h, 6))  # fmt: skip
    run = Run(label=label, source="probe logger and plug meter", rows=len(rows), time_s=[0.0], values={},
              conditions=conditions)  # fmt: skip
    return as_csv(series, run, shipped())


def _column(rows: list[LogRow], name: str) -> np.ndarray:
    return np.array([getattr(row, name) for row in rows])


def picture_text(key: str) -> str:
    """One of the demo's thermal pictures as a matrix."""
    label, bed, room, draught = PICTURES[key]
    lines = [",".join(f"{value:.1f}" for value in row) for row in thermal_picture(bed, room, draught)]
    return (
        "\n".join(
            [
                f"# label: {label}",
                "# region bed: 8 8 92 90",
                "# painted bed from above, camera at emissivity 1; °C",
                *lines,
            ]
        )
        + "\n"
    )


def bed_run_text(key: str) -> str:
    """One of Dunlin's runs as a file."""
    label, setting, conditions = BEDS[key]
    rows, _face = bed_day(setting)
    clock = np.array([row.clock_h for row in rows]) * 3600.0
    columns = {to: np.array([getattr(row, name) for row in rows]) for name, to in BED_CHANNELS.items()}
    series = Series(np.round(clock - clock[0], 3), columns, round(rows[0].clock_h, 6))
    run = Run(label=label, source="console log and plug meter", rows=len(rows), time_s=[0.0], values={},
              conditions={**BED_SAME, **conditions})  # fmt: skip
    return as_csv(series, run, shipped())


def bed_picture_text() -> str:
    """Dunlin's bed as the camera sees it late in the first run, the back at the top."""
    label, setting, _conditions = BEDS["run1"]
    _rows, face = bed_day(setting)
    shot = picture(face, setting.room, emissivity=FACE)
    head = [f"# label: {label}", "# region bed: 0 0 100 100", f"# emissivity: {FACE}", f"# mirrors: {setting.room}",
            "# bed from above, camera at emissivity 1; °C"]  # fmt: skip
    return "\n".join([*head, *(",".join(f"{value:.1f}" for value in row) for row in shot)]) + "\n"


def plug_picture_text() -> str:
    """Dunlin's plug under load as the camera sees it, bed and hotend on for a quarter of an hour."""
    setting = PathSetting()
    shot = plug_picture(setting, emissivity=PLUG)
    head = ["# label: plug under load", "# region bed plug: 28 40 48 60", f"# emissivity: {PLUG}",
            f"# mirrors: {setting.room}", "# board's edge, camera at emissivity 1; °C"]  # fmt: skip
    return "\n".join([*head, *(",".join(f"{value:.1f}" for value in row) for row in shot)]) + "\n"


def path_readings() -> dict[str, dict[str, object]]:
    """Dunlin's plug under load, as its instruments showed it."""
    read = survey(PathSetting())
    return {
        "power_plug": {"value": read.plug_c, "tolerance": 2.0, "instrument": "thermal camera"},
        "power_plug_drop": {"value": read.drop_v, "tolerance": 0.002, "instrument": "multimeter"},
        "power_bed_volts": {"value": read.bed_v, "tolerance": 0.1, "instrument": "multimeter"},
        "power_wall": {"value": float(read.wall_w), "tolerance": 5.0, "instrument": "plug-in meter"},
    }


def known_of(job: Job, left: tuple[str, ...]) -> dict[str, dict[str, str]]:
    """How the facts of a demo's machine are known: somebody looked at all but those that are left."""
    facts = shipped().facts
    not_looked = {path for key in left for path in facts[key].paths}
    looked = {path for fact in facts.values() for path in fact.paths} | set(changed_paths(Setup(), job.found))
    told = {path: KNOWN_BY.get(path, ("entered", "")) for path in declared(Setup) if path in looked - not_looked}
    return {path: {"how": how, "about": about} for path, (how, about) in told.items()}


def of_today(raw: dict[str, Any], left: tuple[str, ...]) -> dict[str, Any]:
    """A demo's job in today's format."""
    job, now = Job.model_validate(raw), {**raw, "version": VERSION}
    moved = difference(Job.model_validate(now).found.model_dump(mode="json"), job.found.model_dump(mode="json"))
    return {**now, "found": merged(raw["found"], moved), "known": known_of(job, left)}


def main() -> int:
    """Write all of them."""
    for name, left in NOT_LOOKED_AT.items():
        path = DEMO / f"{name}.json"
        told = of_today(json.loads(path.read_text(encoding="utf-8")), left)
        path.write_text(json.dumps(told, indent=2, ensure_ascii=False) + "\n", encoding="utf-8")
    for key in BEDS:
        (DEMO / f"3-dunlin-{key}.csv").write_text(bed_run_text(key), encoding="utf-8")
    (DEMO / "3-dunlin-picture1.csv").write_text(bed_picture_text(), encoding="utf-8")
    (DEMO / "3-dunlin-picture2.csv").write_text(plug_picture_text(), encoding="utf-8")
    dunlin = DEMO / "3-dunlin.json"
    job = {**json.loads(dunlin.read_text(encoding="utf-8")), "readings": path_readings()}
    dunlin.write_text(json.dumps(job, indent=2, ensure_ascii=False) + "\n", encoding="utf-8")
    for key in RUNS:
        (DEMO / f"2-curlew-{key}.csv").write_text(run_text(key), encoding="utf-8")
    for key in PICTURES:
        (DEMO / f"2-curlew-{key}.csv").write_text(picture_text(key), encoding="utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())
