"""Multimeter readings, power off and cold: what is fitted, what is broken, what was mixed up."""

from __future__ import annotations

from dataclasses import dataclass

from zeotherm.core.catalogue.shelves import Catalogue, Sensor
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.intake import Ohms
from zeotherm.core.physics.electric import heater_resistance, metal_resistance, thermistor_resistance

HEATER_SPREAD, LEADS = 0.12, 0.5  # share by which heaters differ; Ω of leads and probes
SENSOR_KELVIN, METAL_SPREAD = 3.0, 0.015  # what the room's temperature may be off; of metal elements
SHORT, OPEN_HEATER, OPEN_SENSOR = 0.4, 1e3, 3e6  # Ω
VOLTAGES = (12.0, 24.0, 48.0)


@dataclass(frozen=True, slots=True)
class OhmFinding:
    """One reading against what is fitted [Ω]; kind: expected, short, open, other_voltage, other_sensor, differs."""

    what: str  # heater, sensor, bed
    expected: float | None
    low: float
    high: float
    measured: float | None
    kind: str  # empty: not measured
    fits: str = ""  # what it would fit: a voltage, or a sensor's label


def cold_ohms(setup: Setup, catalogue: Catalogue, read: Ohms) -> list[OhmFinding]:
    """Every reading with what to expect; what was not measured with its expected value alone."""
    return [_heater(setup, read.heater), _sensor(setup, catalogue, read), _bed(setup, catalogue, read.bed)]


def told_by(findings: list[OhmFinding]) -> str | None:
    """The answer of the cold-ohms check; none while nothing is measured."""
    kinds = {one.what: one.kind for one in findings if one.kind}
    if not kinds:
        return None
    if {"short", "open"} & set(kinds.values()):
        return "broken"
    if kinds.get("heater", "expected") != "expected":
        return "heater_off"
    if kinds.get("sensor", "expected") != "expected":
        return "sensor_off"
    return "expected" if {"heater", "sensor"} <= set(kinds) else None


def _heater(setup: Setup, measured: float | None) -> OhmFinding:
    hotend = setup.hotend
    expected = heater_resistance(hotend.heater_power_w, hotend.heater_rated_v)
    return _resistive("heater", expected, hotend.heater_power_w, hotend.heater_rated_v, measured)


def _bed(setup: Setup, catalogue: Catalogue, measured: float | None) -> OhmFinding:
    heater = catalogue.beds[setup.bed.part].heater
    power, volts = setup.bed.heater_w if heater.power_w > 0.0 else 0.0, heater.rated_v
    if power <= 0.0:
        return OhmFinding("bed", None, 0.0, 0.0, measured, "")
    return _resistive("bed", heater_resistance(power, volts), power, volts, measured)


def _resistive(what: str, expected: float, power: float, volts: float, measured: float | None) -> OhmFinding:
    low, high = _span(expected)
    if measured is None:
        return OhmFinding(what, expected, low, high, None, "")
    kind, fits = "expected" if low <= measured <= high else "differs", ""
    if measured < SHORT and low > SHORT:
        kind = "short"
    elif measured > OPEN_HEATER:
        kind = "open"
    elif kind == "differs":
        for other in VOLTAGES:
            least, most = _span(heater_resistance(power, other))
            if abs(other - volts) > 2.0 and least <= measured <= most:
                kind, fits = "other_voltage", f"{other:.0f} V"
    return OhmFinding(what, expected, low, high, measured, kind, fits)


def _span(expected: float) -> tuple[float, float]:
    return expected * (1.0 - HEATER_SPREAD), expected * (1.0 + HEATER_SPREAD) + LEADS


def _sensor(setup: Setup, catalogue: Catalogue, read: Ohms) -> OhmFinding:
    fitted = catalogue.sensors[setup.hotend.sensor]
    expected = _at(fitted, read.at_c)
    low, high = _sensor_span(fitted, read.at_c)
    if read.sensor is None:
        return OhmFinding("sensor", expected, low, high, None, "")
    kind, fits = "expected" if low <= read.sensor <= high else "differs", ""
    if read.sensor < SHORT and low > SHORT:
        kind = "short"
    elif read.sensor > OPEN_SENSOR:
        kind = "open"
    elif kind == "differs":
        spans = {other.label: _sensor_span(other, read.at_c) for other in catalogue.sensors.values()}
        like = [label for label, (least, most) in spans.items() if least <= read.sensor <= most]
        if like:
            kind, fits = "other_sensor", " / ".join(like)
    return OhmFinding("sensor", expected, low, high, read.sensor, kind, fits)


def _at(sensor: Sensor, celsius: float) -> float:
    if sensor.beta_k > 0.0:
        return thermistor_resistance(celsius, sensor.ohms_25, sensor.beta_k)
    return metal_resistance(celsius, sensor.ohms_25, sensor.slope_per_k)


def _sensor_span(sensor: Sensor, celsius: float) -> tuple[float, float]:
    """What a sound one may read, the room's temperature not being known to better than some kelvins [Ω]."""
    ends = sorted((_at(sensor, celsius - SENSOR_KELVIN), _at(sensor, celsius + SENSOR_KELVIN)))
    if sensor.beta_k > 0.0:
        return 0.98 * ends[0], 1.02 * ends[1]
    return (1.0 - METAL_SPREAD) * ends[0] - LEADS, (1.0 + METAL_SPREAD) * ends[1] + LEADS
