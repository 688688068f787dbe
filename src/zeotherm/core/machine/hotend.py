"""A toolhead's own parts and settings: the hotend, its fan, what it prints, and what measured curves correct."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from zeotherm.core.machine.quantity import Document, choice, quantity


class Hotend(Document):
    """The hotend as it is fitted."""

    template: str = choice(
        "standard_all_metal",
        "Hotend",
        "hotends",
        names=("hotend",),
        help="The kind of hotend: its shape and how far its liner reaches.",
    )
    break_part: str = choice(
        "steel",
        "Break type",
        "breaks",
        names=("break", "heat break"),
        help="Material and wall of the thin neck between the hot and the cold side.",
    )
    sink_joint: str = choice(
        "pasted",
        "Sink joint",
        "joints",
        names=("sink joint", "paste", "joint"),
        help="Thread between break and sink: dry, or with thermal paste on the sink side.",
    )
    sleeve: str = choice(
        "none",
        "Block sleeve",
        "sleeves",
        names=("sleeve", "sock", "wrap"),
        help="What covers the heater block.",
    )
    block: str = choice(
        "own",
        "Block metal",
        "blocks",
        names=("block metal", "block material"),
        help="What the block is made of, and its coating, where that is not what the hotend comes with.",
    )
    nozzle: str = choice(
        "own",
        "Nozzle kind",
        "nozzles",
        names=("nozzle kind", "nozzle metal", "nozzle type"),
        help="Its metal and tip, where that is not what the hotend comes with. Its bore is a figure of its own.",
    )
    sensor: str = choice(
        "bead_thermistor",
        "Sensor",
        "sensors",
        names=("sensor",),
        help="Temperature sensor of the block; its ceiling limits the hotend.",
    )
    drive: str = choice(
        "plain",
        "Drive",
        "drives",
        names=("drive", "feed drive", "extruder"),
        help="What pushes the filament, and whether a tube lies between it and the hotend.",
    )
    open_path_mm: float = quantity(
        4.0,
        "Open filament path",
        "mm",
        0.5,
        60,
        step=0.5,
        tolerance=2.0,
        names=("open path", "open filament path"),
        help="Length between the drive gears and the tube or bore in which nothing guides the filament.",
    )
    nozzle_mm: float = quantity(
        0.4,
        "Nozzle size",
        "mm",
        0.1,
        2,
        step=0.1,
        tolerance=0.02,
        names=("nozzle size", "nozzle bore", "orifice"),
        help="Width of the nozzle's hole: a small one takes more push.",
    )
    beside: str = choice(
        "same_carriage",
        "Hotend mounting",
        "seats",
        names=("hotend mounting", "mounting"),
        help="Of a machine with several hotends: on one carriage, on a carriage of its own, or in one block.",
    )
    heater_power_w: float = quantity(
        40.0,
        "Heater rating",
        "W",
        5,
        200,
        step=5,
        relative=0.08,
        names=("heater", "heater power"),
        help="Power printed on the cartridge, at its rated voltage.",
    )
    heater_rated_v: float = quantity(
        24.0,
        "Heater rated voltage",
        "V",
        5,
        48,
        step=12,
        names=("heater volts", "heater voltage"),
        help="Voltage printed on the cartridge. On another supply its power goes with the square.",
    )
    supply_v: float = quantity(
        24.0,
        "Supply voltage",
        "V",
        5,
        48,
        step=12,
        tolerance=0.3,
        names=("supply", "supply voltage"),
        help="Measured at the board's input, under load. Where the power path is described, its own volts count.",
    )
    sensor_offset_k: float = quantity(
        0.0,
        "Sensor reads high by",
        "K",
        -40,
        40,
        step=1,
        tolerance=3.0,
        names=("sensor offset", "offset"),
        help="Reading less true block temperature. A sensor that is badly seated reads low: a negative number.",
    )
    neck_wall_factor: float = quantity(
        1.0,
        "Neck wall, of nominal",
        "x",
        0.3,
        2.5,
        step=0.1,
        relative=0.08,
        names=("neck wall",),
        help="Measured wall of the break's neck over the catalogue's.",
    )
    liner_preload_mm: float = quantity(
        0.10,
        "Liner preload",
        "mm",
        0,
        1,
        step=0.05,
        tolerance=0.03,
        names=("preload", "liner preload"),
        help="How far the liner was compressed when it was seated cold.",
    )
    liner_short_mm: float = quantity(
        0.0,
        "Liner cut short by",
        "mm",
        0,
        5,
        step=0.05,
        tolerance=0.03,
        names=("liner short", "short"),
        help="Length that the liner lacks, by a slanted cut, by shrinking or by creep.",
    )
    nozzle_gap_mm: float = quantity(
        0.0,
        "Gap behind the nozzle",
        "mm",
        0,
        3,
        step=0.05,
        relative=0.2,
        names=("nozzle gap", "cavity"),
        help="Between the nozzle's end and the break or liner it should be tightened against.",
    )


class Fan(Document):
    """The cold-side fan."""

    part: str = choice(
        "axial_30_24v",
        "Sink fan",
        "fans",
        names=("fan part", "fan type"),
        help="Kind of fan on the sink.",
    )
    voltage_v: float = quantity(
        24.0,
        "Fan voltage",
        "V",
        0,
        30,
        step=1,
        tolerance=0.2,
        names=("fan", "fan voltage", "fan volts", "sink fan"),
        help="Measured at the fan's plug while it runs.",
    )
    direction: Literal["push", "pull"] = Field(
        "push",
        description="push blows at the fins, pull draws air from them.",
        json_schema_extra={"label": "Fan direction", "shelf": "directions", "names": ["direction", "fan direction"]},
    )
    guard_blocked_pct: float = quantity(
        0.0,
        "Guard blocked",
        "%",
        0,
        97,
        step=10,
        tolerance=10.0,
        names=("guard", "lint", "guard blocked", "blocked"),
        help="Share of the guard's openings that lint or wires close, judged by eye against the light.",
    )


class Printing(Document):
    """What the machine is asked to do."""

    filament: str = choice("pla", "Filament", "filaments", names=("filament", "plastic"), help="The polymer.")
    nozzle_c: float = quantity(
        205.0,
        "Nozzle temperature",
        "°C",
        20,
        500,
        step=5,
        names=("nozzle", "nozzle temperature"),
        help="Set value of the hotend.",
    )
    flow_mm3_s: float = quantity(
        4.0,
        "Print flow",
        "mm³/s",
        0.05,
        60,
        step=1,
        relative=0.08,
        names=("flow", "print flow"),
        help="Mean flow of plastic over some minutes, travel and retractions included.",
    )
    retraction_mm: float = quantity(
        0.8,
        "Retraction",
        "mm",
        0,
        20,
        step=0.5,
        tolerance=0.1,
        names=("retraction", "retract"),
        help="How far the strand is drawn back at each retraction.",
    )
    idle_c: float = quantity(
        150.0,
        "Standby temperature",
        "°C",
        0,
        500,
        step=5,
        tolerance=5.0,
        names=("standby", "standby temperature"),
        help="What this hotend is held at while another one prints; 0: its heater is off meanwhile.",
    )
    part_fan_pct: float = quantity(
        50.0,
        "Part cooling on the block",
        "%",
        0,
        100,
        step=25,
        tolerance=25.0,
        names=("part fan", "part cooling"),
        help="How much of the part fan's stream strikes the block.",
    )


class Corrections(Document):
    """Factors on what the published laws leave open; one until a measured curve says otherwise."""

    fin_film: float = quantity(
        1.0,
        "Fin cooling, of computed",
        "x",
        0.2,
        5,
        step=0.1,
        relative=0.2,
        names=("fin cooling",),
        help="Measured fin cooling over the computed. Covers uneven flow between the fins.",
    )
    block_film: float = quantity(
        1.0,
        "Block loss, of computed",
        "x",
        0.2,
        5,
        step=0.1,
        relative=0.25,
        names=("block loss",),
        help="Measured loss of the bare block over the computed. Covers the spread of published correlations.",
    )
    case_film: float = quantity(
        1.0,
        "Case's films, of computed",
        "x",
        0.2,
        5,
        step=0.1,
        relative=0.2,
        names=("case film", "case loss"),
        help="Measured loss of the case by its air over the computed. Covers the spread of published correlations.",
    )
    case_gap: float = quantity(
        1.0,
        "Case's gaps, of computed",
        "x",
        0.1,
        10,
        step=0.2,
        relative=0.3,
        names=("case gaps", "case leaks"),
        help="Measured leaks of the shut case over those of its kind.",
    )
    case_content: float = quantity(
        1.0,
        "Heat held in the case, of computed",
        "x",
        0.2,
        5,
        step=0.2,
        relative=0.3,
        names=("case content",),
        help="Measured heat capacity of frame and machine inside over that of the case's kind.",
    )
    bed_film: float = quantity(
        1.0,
        "Bed loss to the air, of computed",
        "x",
        0.2,
        5,
        step=0.1,
        relative=0.2,
        names=("bed loss",),
        help="Measured loss of the bed to the air over the computed. Covers the spread of published correlations.",
    )
    bed_mass: float = quantity(
        1.0,
        "Bed heat capacity, of computed",
        "x",
        0.3,
        3,
        step=0.1,
        relative=0.08,
        names=("bed mass",),
        help="Measured heat capacity of the bed's layers over the computed.",
    )
