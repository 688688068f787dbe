"""The entry line understands what a technician types, and says what is missing."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import Setup
from zeotherm.wording.entry import PinnedReading, SetupChange, SetValue, Unclear, complete, understand
from zeotherm.wording.units import NotANumberError, convert, read_number


def meant(line: str):
    return understand(line, Setup(), shipped())


@pytest.mark.parametrize(
    ("line", "path", "value"),
    [
        ("fan 9.1 V", "fan.voltage_v", 9.1),
        ("fan 9,1", "fan.voltage_v", 9.1),
        ("FAN 9100 mV", "fan.voltage_v", 9.1),
        ("air 104 F", "surroundings.fan_air_c", 40.0),
        ("air +5 K", "surroundings.fan_air_c", 30.0),
        ("air -5 K", "surroundings.fan_air_c", 20.0),
        ("nozzle 215", "printing.nozzle_c", 215.0),
        ("retraction 1 mm", "printing.retraction_mm", 1.0),
        ("retraction 0.04 in", "printing.retraction_mm", 1.016),
        ("guard 40 %", "fan.guard_blocked_pct", 40.0),
        ("flow 8 mm3/s", "printing.flow_mm3_s", 8.0),
        ("break bimetal", "hotend.break_part", "bimetal"),
        ("break tit", "hotend.break_part", "titanium"),
        ("sink joint dry", "hotend.sink_joint", "dry"),
        ("direction pull", "fan.direction", "pull"),
        ("filament PETG", "printing.filament", "petg"),
        ("pressure 1013 hPa", "surroundings.pressure_kpa", 101.3),
        ("bed lead 16 AWG", "power.lead.mm2", 1.309),
        ("bed lead 2,5 mm2", "power.lead.mm2", 2.5),
        ("bed lead length 260 cm", "power.lead.metres", 2.6),
        ("bed plug milliohms 0.02 ohm", "power.plug.milliohm", 20.0),
        ("supply age 4 years", "power.years", 4.0),
        ("power path bed_by_module", "power.path", "bed_by_module"),
    ],
)
def test_values_are_understood(line, path, value):
    found = meant(line)
    assert isinstance(found, SetValue), found
    assert found.path == path
    assert found.value == pytest.approx(value, rel=1e-3) if isinstance(value, float) else found.value == value


@pytest.mark.parametrize(
    ("line", "station", "value"),
    [
        ("sink base 54.1", "sink_base", 54.1),
        ("sink base 54,1 °C", "sink_base", 54.1),
        ("bore 150 F", "bore", 65.556),
        ("forget sink base", "sink_base", None),
        ("fan in 44.2", "fan_inlet", 44.2),
    ],
)
def test_readings_are_understood(line, station, value):
    found = meant(line)
    assert isinstance(found, PinnedReading), found
    assert found.station == station
    assert found.value == (None if value is None else pytest.approx(value, abs=1e-3))


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("sink base 9.1 V", "V is a voltage"),
        ("fan 200 °C", "is a temperature"),
        ("fan 91", "goes from 0 V to 30 V"),
        ("9.1", "of what?"),
        ("frobnicator 3", "No part is called 'frobnicator'"),
        ("retracton 1", "Did you mean retraction?"),
        ("fan 9.1 furlongs", "no unit known here"),
        ("nozzle 1.234", "could be two numbers"),
        ("nozzle 1,234.5", "could be two numbers"),
        ("break", "Break type: All steel"),
        ("break cheese", "Choose: All steel"),
        ("fan", "Fan voltage is 24.0 V"),
        ("nozzle 1e308", "outside"),
        ("nozzle 1e999", "too large"),
        ("", "Type a part"),
        ("forget everything", "No reading is called"),
        ("sink base 900", "goes from"),
    ],
)
def test_what_is_unclear_is_said(line, says):
    found = meant(line)
    assert isinstance(found, Unclear), found
    assert says in found.text


@settings(deadline=None)  # the first reads the catalogue
@given(st.text(max_size=40))
def test_no_text_breaks_the_entry_line(line):
    meant(line)


def test_parts_are_completed():
    assert complete("retr") in ("retract", "retraction")
    assert complete("") is None
    assert complete("zzz") is None


@pytest.mark.parametrize(("line", "said"), [
    ("sink fan 9.1 V", "Fan voltage: 9.1 V"), ("sink fan 30 mm axial, 12 V", "Sink fan: 30 mm axial, 12 V"),
    ("sink fan wobbly", "Sink fan has no 'wobbly'. Choose: 30 mm"), ("sink fan 999 V", "999 V is outside"),
    ("sink fan", "Fan voltage is 24.0 V"), ("bed 300", "Bed temperature goes from"),
])  # fmt: skip
def test_a_name_of_a_part_and_of_its_number_takes_either(line, said):
    assert said in understand(line, Setup(), shipped()).text


@pytest.mark.parametrize("text", ["1'000", "1 000", "12.345.678", "1,5,2", "abc", "--3"])
def test_doubtful_numbers_are_refused(text):
    with pytest.raises(NotANumberError):
        read_number(text)


@pytest.mark.parametrize("text", ["0.125", "12.5", "9,125", "0,5", "-3.5", "+7", "1e2"])
def test_plain_numbers_are_read(text):
    if text == "9,125":
        with pytest.raises(NotANumberError, match=r"9125 or 9\.125"):
            read_number(text)
    else:
        assert read_number(text) == float(text.replace(",", "."))


def test_units_round_trip():
    assert convert(212.0, "F", "°C") == pytest.approx(100.0, abs=1e-9)
    assert convert(1.0, "in", "mm") == pytest.approx(25.4, abs=1e-9)


@pytest.mark.parametrize(
    ("line", "told"),
    [
        ("sun 90 W 11:54 to 15:42", "Sun: 90 W into the case's wall, 11:54 to 15:42"),
        ("heat stove 200 W from 8:00 to 12:00 air", "Stove: 200 W into the case's air, 8:00 to 12:00"),
        ("pause after 100 min for 12 min", "Pause after 100 min of printing, for 12 min"),
        ("pause after 100 min for 60 min at 160 °C", "Pause after 100 min of printing, for 60 min, nozzle at 160 °C"),
        ("fan stops at 12:30", "Sink fan stops at 12:30"),
        ("guard clogs after 30 min", "Guard clogs to 90 % at 9:30"),
        ("start 9:45", "Job starts at: 9:45"),
        ("print time 5 h", "Print time: 300 min"),
        ("vents 40", "Vents open: 40 %"),
        ("room 68 F", "Room: 20 °C"),
        ("air from duct", "Fan air from: Outside duct"),
    ],
)
def test_hours_and_surroundings_are_typed(line, told):
    meant = understand(line, Setup(), shipped())
    assert not isinstance(meant, Unclear)
    assert meant.text == told


@pytest.mark.parametrize(
    ("line", "told"),
    [
        ("sun 90 W 15:00 to 12:00", "ends after it begins"),
        ("pause after 900 min for 3 min", "before the print is over"),
        ("pause after 9 min for 3 min at 500", "cooler than the print"),
        ("pause after 9 min for 3 min at 2", "20 °C or more"),
        ("fan stops after 900 min", "The job is over by then"),
        ("print time 9 V", "V is a voltage"),
        ("forget sun", "No reading is called"),
    ],
)
def test_hours_that_cannot_be_are_unclear(line, told):
    meant = understand(line, Setup(), shipped())
    assert isinstance(meant, Unclear)
    assert told in meant.text


def test_what_has_a_time_is_forgotten_by_its_name(demo):
    setup = demo("Curlew").setup()
    meant = understand("forget sun on the case", setup, shipped())
    assert isinstance(meant, SetupChange)
    assert meant.patch == {"heats": {"sun": None}}


def test_power_is_read_where_it_is_measured():
    plug, drop = meant("bed plug 94.1"), meant("plug drop 240 mV")
    assert isinstance(plug, PinnedReading)
    assert plug.station == "power_plug"
    assert isinstance(drop, PinnedReading)
    assert (drop.station, drop.value, drop.tolerance) == ("power_plug_drop", pytest.approx(0.24), 0.002)
    off = meant("bed lead 52 AWG")
    assert isinstance(off, Unclear)
    assert "off the table" in off.text
    assert isinstance(meant("bed lead length 0"), Unclear)
    assert isinstance(meant("bed plug milliohms -3"), Unclear)
    assert meant("bed lead 60 °C").station == "power_lead"  # the unit says that it was read
