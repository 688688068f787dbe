"""What can be read off ten machines that stand on a bench: labels, dials, a ruler, a look. Written down as a newcomer
would type it, before any of it was tried; each with what it must mean."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class MachineSheet:
    """One machine as its owner brings it."""

    complaint: str  # chip that is touched
    nearest: str  # tile that is touched
    lines: dict[str, dict[str, object]]  # what is typed, and what it must mean


SHEETS = {
    "open slinger, lined, 12 V": MachineSheet("stops_feeding", "lined_tube", {
        "lined hotend, 12 V 40 W cartridge": {
            "hotend.template": "compact_lined", "hotend.heater_rated_v": 12.0, "hotend.heater_power_w": 40.0},
        "fan 30 mm 12 V": {"fan.part": "axial_30_12v"},
        "supply 12 V": {"hotend.supply_v": 12.0},
        "supply rating 240 W": {"power.supply_w": 240.0},
        "plain drive through a tube": {"hotend.drive": "plain_tube"},
        "nozzle 0.4 mm": {"hotend.nozzle_mm": 0.4},
        "PLA": {"printing.filament": "pla"},
        "nozzle 205": {"printing.nozzle_c": 205.0},
        "bed 60": {"bed.target_c": 60.0},
        "glass bed": {"bed.sheet": "glass"},
        "bed heater 220 W": {"bed.heater_w": 220.0},
        "no sock": {"hotend.sleeve": "none"},
        "bead thermistor": {"hotend.sensor": "bead_thermistor"},
        "room 20": {"room.mean_c": 20.0},
    }),
    "all-metal, direct, 24 V, in a tent": MachineSheet("jams_late", "all_metal_direct", {
        "all metal hotend": {"hotend.template": "standard_all_metal"},
        "bimetal break": {"hotend.break_part": "bimetal"},
        "cartridge 24v 50w": {"hotend.heater_rated_v": 24.0, "hotend.heater_power_w": 50.0},
        "geared extruder on the head": {"hotend.drive": "geared"},
        "tent": {"case.part": "fabric_pop_up"},
        "door shut": {"case.vents_open_pct": 0.0},
        "fan 40 mm 24 V": {"fan.part": "axial_40_24v"},
        "PETG": {"printing.filament": "petg"},
        "nozzle 240 °C": {"printing.nozzle_c": 240.0},
        "bed 80": {"bed.target_c": 80.0},
        "supply rating 350 W": {"power.supply_w": 350.0},
        "nozzle 0.6 mm": {"hotend.nozzle_mm": 0.6},
        "silicone sock": {"hotend.sleeve": "silicone"},
    }),
    "small, cased": MachineSheet("stops_feeding", "cased_small", {
        "enclosure 370 mm wide": {"case.width_mm": 370.0},
        "vents 50 %": {"case.vents_open_pct": 50.0},
        "all-metal": {"hotend.template": "standard_all_metal"},
        "titanium heat break": {"hotend.break_part": "titanium"},
        "bed 130 mm": {"bed.part": "small_bed"},
        "bed 55": {"bed.target_c": 55.0},
        "PLA": {"printing.filament": "pla"},
        "fan 30 mm 24 V": {"fan.part": "axial_30_24v"},
        "24 V supply": {"hotend.supply_v": 24.0},
        "24 V heater": {"hotend.heater_rated_v": 24.0},
        "room 24": {"room.mean_c": 24.0},
    }),
    "large, heated chamber, mains bed": MachineSheet("enclosure_cold", "heated_case", {
        "long melt hotend": {"hotend.template": "long_melt_all_metal"},
        "cartridge 24v 60w": {"hotend.heater_rated_v": 24.0, "hotend.heater_power_w": 60.0},
        "platinum sensor": {"hotend.sensor": "platinum"},
        "chamber 60": {"case.target_c": 60.0},
        "case heater 300 W": {"case.heater_w": 300.0},
        "mains bed": {"power.path": "mains_bed"},
        "bed heater 750 W": {"bed.heater_w": 750.0},
        "bed 100": {"bed.target_c": 100.0},
        "mains 230 V": {"power.mains_v": 230.0},
        "ABS": {"printing.filament": "abs"},
        "nozzle 250": {"printing.nozzle_c": 250.0},
        "geared drive": {"hotend.drive": "geared"},
    }),
    "three towers, round bed": MachineSheet("thin_flow", "towers", {
        "round bed": {"bed.part": "round_bed"},
        "geared through a tube": {"hotend.drive": "geared_tube"},
        "lined hotend": {"hotend.template": "compact_lined"},
        "heater 30 W 12 V": {"hotend.heater_power_w": 30.0, "hotend.heater_rated_v": 12.0},
        "12 V supply": {"hotend.supply_v": 12.0},
        "fan 30 mm 12 V": {"fan.part": "axial_30_12v"},
        "retraction 4 mm": {"printing.retraction_mm": 4.0},
        "bed 65": {"bed.target_c": 65.0},
        "PETG": {"printing.filament": "petg"},
    }),
    "converted cabinet": MachineSheet("enclosure_hot", "in_a_locker", {
        "case converted cool cabinet": {"case.part": "converted_cabinet"},
        "case width 560 mm, case depth 560, case height 800": {
            "case.width_mm": 560.0, "case.depth_mm": 560.0, "case.height_mm": 800.0},
        "supply inside": {"case.supply_at": "inside_low"},
        "board outside": {"case.board_at": "outside"},
        "exhaust 20 m3/h": {"case.exhaust_m3h": 20.0},
        "spool inside high": {"case.spool_at": "inside_high"},
        "ASA": {"printing.filament": "asa"},
        "bed 95": {"bed.target_c": 95.0},
        "room 18": {"room.mean_c": 18.0},
    }),
    "wide bed, 300 W and more": MachineSheet("bed_slow", "wide", {
        "wide bed": {"bed.part": "wide_bed"},
        "bed heater 400 W": {"bed.heater_w": 400.0},
        "felt under the bed": {"bed.insulation": "felt"},
        "bed 70": {"bed.target_c": 70.0},
        "bed wire 2.5 mm2": {"power.lead.mm2": 2.5},
        "supply rating 600 W": {"power.supply_w": 600.0},
        "bed fuse 20 A": {"power.fuse_a": 20.0},
        "plug browned": {"power.plug.state": "burnt"},
    }),
    "two hotends on one carriage": MachineSheet("stops_feeding", "open_large", {
        "two hotends on one carriage": {"toolheads.T1.hotend.beside": "same_carriage"},
        "all metal hotend": {"hotend.template": "standard_all_metal"},
        "nozzle 0.4 mm": {"hotend.nozzle_mm": 0.4},
        "PLA": {"printing.filament": "pla"},
        "nozzle 210": {"printing.nozzle_c": 210.0},
        "T1 lined hotend": {"toolheads.T1.hotend.template": "compact_lined"},
        "T1 nozzle 0.6 mm": {"toolheads.T1.hotend.nozzle_mm": 0.6},
        "T1 PETG": {"toolheads.T1.printing.filament": "petg"},
        "T1 nozzle 235 °C": {"toolheads.T1.printing.nozzle_c": 235.0},
        "T1 standby 160 °C": {"toolheads.T1.printing.idle_c": 160.0},
        "T1 fan 30 mm 24 V": {"toolheads.T1.fan.part": "axial_30_24v"},
        "supply rating 350 W": {"power.supply_w": 350.0},
        "bed 60": {"bed.target_c": 60.0},
        "room 22": {"room.mean_c": 22.0},
    }),
    "high-temperature, all-metal": MachineSheet("layers_split", "heated_case", {
        "all metal hotend": {"hotend.template": "standard_all_metal"},
        "thermocouple": {"hotend.sensor": "thermocouple"},
        "fibre wrap on the block": {"hotend.sleeve": "fibre"},
        "PC": {"printing.filament": "pc"},
        "nozzle 275": {"printing.nozzle_c": 275.0},
        "bed 110": {"bed.target_c": 110.0},
        "chamber 70": {"case.target_c": 70.0},
        "48 V heater": {"hotend.heater_rated_v": 48.0},
        "48 V supply": {"hotend.supply_v": 48.0},
        "nozzle 0.8 mm": {"hotend.nozzle_mm": 0.8},
    }),
    "small, open, nothing but a dial": MachineSheet("thin_flow", "open_small", {
        "fan 9.1 V": {"fan.voltage_v": 9.1},
        "nozzle 410 F": {"printing.nozzle_c": 210.0},
        "room 70 F": {"room.mean_c": 21.111},
        "bed wire 16 awg": {"power.lead.mm2": 1.31},
        "guard 0 %": {"fan.guard_blocked_pct": 0.0},
        "block reads 8 K low": {"hotend.sensor_offset_k": -8.0},
    }),
}  # fmt: skip
