"""The heated bed: its kind, what it is asked for, what lies on it and what is fitted under it."""

from __future__ import annotations

from typing import Any

from pydantic import model_validator

from zeotherm.core.machine.quantity import Document, choice, quantity

BELOW = 3.0  # K under its set value at which a print face is wanted, where a job of an older format names none
WATTS = {"none": 0.0, "small_bed": 70.0, "middle_bed": 220.0, "wide_bed": 450.0}  # of the kinds before format 1.5


class Bed(Document):
    """The heated bed as it is fitted."""

    part: str = choice(
        "small_bed",
        "Bed",
        "beds",
        names=("bed part", "bed type", "bed kind"),
        help="Kind of bed: outline, layers, heater and where it stops short, mounts.",
    )
    target_c: float = quantity(
        60.0,
        "Bed temperature",
        "°C",
        0,
        150,
        step=5,
        tolerance=2.0,
        names=("bed", "bed temperature", "bed set value"),
        help="Set value of the bed; 0 leaves it off. What its sensor reads, not what the print feels.",
    )
    aim_c: float = quantity(
        57.0,
        "Print face wanted",
        "°C",
        0,
        150,
        step=5,
        names=("face", "print face", "face wanted", "aim"),
        help="What the print face should have all over. The sensor sits deeper, so the set value is higher.",
    )
    wanted_min: float = quantity(
        15.0,
        "Bed wanted warm within",
        "min",
        1,
        180,
        step=5,
        names=("warm within", "warm up within", "bed wanted within"),
        help="How long the bed may take from cold before the first print of the day waits for it.",
    )
    heater_w: float = quantity(
        70.0,
        "Bed heater",
        "W",
        0,
        3000,
        step=50,
        relative=0.06,
        names=("bed heater", "bed watts", "bed power"),
        help="Power of the cold heater at its rated voltage: rated volts squared over its ohms at 20 °C.",
    )
    volts_pct: float = quantity(
        100.0,
        "Bed volts, of rated",
        "%",
        40,
        125,
        step=2,
        tolerance=1.0,
        names=("bed volts", "volts at the bed"),
        help="Measured at the bed's terminals under load, over the rated voltage. Its power goes with the square. "
        "Where the power path is described, it is computed instead.",
    )
    sensor_x_mm: float = quantity(
        0.0,
        "Bed sensor, right of middle",
        "mm",
        -500,
        500,
        step=20,
        tolerance=5.0,
        names=("bed sensor x", "sensor right"),
        help="Where the sensor sits, seen from the front: right of the bed's middle; left is negative.",
    )
    sensor_y_mm: float = quantity(
        0.0,
        "Bed sensor, behind middle",
        "mm",
        -500,
        500,
        step=20,
        tolerance=5.0,
        names=("bed sensor y", "sensor behind"),
        help="Where the sensor sits, seen from above: behind the bed's middle; to the front is negative.",
    )
    sheet: str = choice(
        "steel_on_magnet",
        "Bed sheet",
        "sheets",
        names=("sheet", "bed surface", "print surface"),
        help="What lies on the plate.",
    )
    insulation: str = choice(
        "none",
        "Bed insulation",
        "insulations",
        names=("bed underside", "insulation", "bed insulation", "underside"),
        help="What is fitted under the bed.",
    )
    insulation_mm: float = quantity(
        10.0,
        "Thickness under bed",
        "mm",
        0.5,
        60,
        step=5,
        relative=0.1,
        names=("insulation thickness", "thickness"),
        help="Thickness of the insulation under the bed, as fitted.",
    )
    cover: str = choice(
        "whole",
        "Insulation cover",
        "covers",
        names=("cover", "insulation covers"),
        help="Which part of the underside the insulation covers.",
    )
    clearance_mm: float = quantity(
        18.0,
        "Room under the bed",
        "mm",
        0,
        300,
        step=5,
        tolerance=1.0,
        names=("clearance", "room under the bed", "under the bed"),
        help="From the heater's underside to the first thing below it, at the bed's lowest place along its whole way.",
    )
    sag_mm: float = quantity(
        1.0,
        "Insulation sags by",
        "mm",
        0,
        30,
        step=1,
        tolerance=0.5,
        names=("sag",),
        help="How far the insulation hangs down between its fastenings.",
    )
    draught_m_s: float = quantity(
        0.0,
        "Bed draught",
        "m/s",
        0,
        5,
        step=0.2,
        relative=0.4,
        names=("draught", "draft", "draught over the bed"),
        help="Speed of the air over the bed, from a door, a window or the part fan; 0 in still air.",
    )
    covered_pct: float = quantity(
        0.0,
        "Face covered by the print",
        "%",
        0,
        100,
        step=25,
        tolerance=10.0,
        names=("face covered", "brim", "covered"),
        help="Share of the print face under the part and its brim, which keep its heat in.",
    )

    lifted_mm: float = quantity(
        0.0,
        "Heater lifted at its wires",
        "mm",
        0,
        6,
        step=0.5,
        relative=0.4,
        names=("lifted", "heater lifted", "bulge"),
        help="Air between heater and plate where its wires or a bulge lift it off; 0 where it lies flat.",
    )
    control: str = choice(
        "steady",
        "Bed control",
        "controls",
        names=("bed control", "bed controller", "bed thermostat"),
        help="How the heater follows the sensor. Held evenly: as a control without fault would.",
    )
    band_k: float = quantity(
        1.0,
        "Bed control's band",
        "K",
        0.1,
        30,
        step=0.5,
        names=("bed band", "bed hysteresis"),
        help="Switched: off so far above the set value, on so far below. In proportion: full power so far below.",
    )
    gain_p: float = quantity(
        60.0,
        "Bed control P",
        "1/K",
        0,
        5000,
        step=10,
        names=("bed p", "bed gain p"),
        help="Of a control of three terms, in steps of 255 of full power for each kelvin.",
    )
    gain_i: float = quantity(
        0.5,
        "Bed control I",
        "1/Ks",
        0,
        500,
        step=0.1,
        names=("bed i", "bed gain i"),
        help="Of a control of three terms, in steps of 255 for each kelvin and second.",
    )
    gain_d: float = quantity(
        100.0,
        "Bed control D",
        "s/K",
        0,
        20000,
        step=50,
        names=("bed d", "bed gain d"),
        help="Of a control of three terms, in steps of 255 for each kelvin a second.",
    )
    sensor_lag_s: float = quantity(
        6.0,
        "Bed sensor lags by",
        "s",
        0.5,
        120,
        step=2,
        relative=0.5,
        names=("bed lag", "sensor lag", "bed sensor lag"),
        help="How long the sensor in its pocket takes to follow: about 6 s well seated, a minute hanging loose.",
    )

    @model_validator(mode="before")
    @classmethod
    def _before_beds_were_described(cls, data: Any) -> Any:
        """Up to format 1.4 a bed was its kind and its set value."""
        if not isinstance(data, dict):
            return data
        filled = dict(data)
        target = filled.get("target_c")
        if "aim_c" not in filled and isinstance(target, float | int):
            filled["aim_c"] = max(float(target) - BELOW, 0.0)
        if "heater_w" not in filled and isinstance(filled.get("part"), str) and filled["part"] in WATTS:
            filled["heater_w"] = WATTS[filled["part"]]
        return filled
