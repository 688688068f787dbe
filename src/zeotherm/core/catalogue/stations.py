"""Stations: the named places that results, limits, readings and markers all speak of."""

from __future__ import annotations

from dataclasses import dataclass, replace

from zeotherm.core.machine.supplies import FURTHER, SUPPLIES
from zeotherm.core.machine.surroundings import FURTHER_PARTS, PRINTED_PARTS
from zeotherm.core.machine.toolheads import NUMBERS, station_of


@dataclass(frozen=True, slots=True)
class Station:
    """A named place or figure of the machine."""

    key: str
    label: str
    unit: str
    readable: bool  # whether an instrument can be held there
    names: tuple[str, ...] = ()  # further words for the entry line
    doubt: float = 1.5  # 95 % half-width of an ordinary reading, in the unit

    @property
    def further(self) -> bool:
        """Whether it is of a further toolhead or supply."""
        return "." in self.key

    @property
    def is_temperature(self) -> bool:
        """Whether it belongs on the ladder."""
        return self.unit == "°C"


OF_A_HOTEND = (
    "block", "nozzle", "exit_core", "bore", "sink_base", "sink_top", "liner_end", "fan_inlet", "fan_outlet",
    "creep_margin", "creep_after_retraction", "jam_room", "soft_length", "push", "liner_seat", "cavity",
    "heater_watts",
)  # fmt: skip
OF_ITS_WAY = (  # from its output to its heater
    "power_heater_terminal", "power_heater_lead", "power_heater_plug", "power_heater_volts", "power_heater_plug_amps",
    "power_heater_output",
)  # fmt: skip
OF_A_TOOLHEAD = OF_A_HOTEND + OF_ITS_WAY
OF_FURTHER = {  # places of what a machine has several of, with what they are called behind its number
    SUPPLIES: {"case_supply": "air", "power_inlet": "inlet", "power_load": "load"},
    PRINTED_PARTS: {"case_printed": "printed part"},
}


STATIONS: dict[str, Station] = {
    station.key: station
    for station in (
        Station("block", "Block", "°C", True, ("heater block",)),
        Station("nozzle", "Nozzle", "°C", True, ("nozzle tip", "nozzle reading")),
        Station("exit_core", "Exit core", "°C", False),
        Station("bore", "Neck bore", "°C", True, ("bore", "break top", "neck top", "bore at neck top")),
        Station("sink_base", "Sink base", "°C", True, ("base",)),
        Station("sink_top", "Sink top", "°C", True, ("top",)),
        Station("liner_end", "Liner end", "°C", False, ("liner", "tube end")),
        Station("fan_inlet", "Fan air in", "°C", True, ("fan inlet", "fan in")),
        Station("fan_outlet", "Fan air out", "°C", True, ("fan outlet", "fan out")),
        Station("case_air", "Case air", "°C", True, ("air in the case",)),
        Station("case_roof", "Roof air", "°C", True, ("roof of the case", "roof air in the case")),
        Station("case_wall", "Case wall", "°C", True, ("wall",)),
        Station("bed", "Bed", "°C", True, ("bed plate", "bed reading")),
        Station("carriage", "Carriage", "°C", True, ("carriage reading",)),
        Station("motor", "Feed motor", "°C", True, ("motor reading", "motor case")),
        Station("board", "Toolhead board", "°C", True, ("board reading",)),
        Station("creep_margin", "Creep margin", "mm", False),
        Station("creep_after_retraction", "Retracted", "mm", False),
        Station("jam_room", "Feed", "K", False),
        Station("soft_length", "Soft length", "mm", False),
        Station("push", "Push", "N", False),
        Station("liner_seat", "Liner seat", "mm", False),
        Station("cavity", "Cavity", "mm³", False),
        Station("bed_centre", "Bed middle", "°C", True, ("face middle", "middle of the bed", "centre")),
        Station("bed_edge", "Bed edge", "°C", True, ("face edge", "edge")),
        Station("bed_corner", "Bed corner", "°C", True, ("face corner", "corner")),
        Station("bed_sensor", "Bed sensor", "°C", False),
        Station("bed_heater", "Bed heater", "°C", True, ("heater underside", "bed heater reading")),
        Station("bed_glue", "Heater glue", "°C", False),
        Station("bed_magnet", "Magnet sheet", "°C", False),
        Station("bed_magnet_glue", "Magnet glue", "°C", False),
        Station("bed_face", "Face film", "°C", False),
        Station("bed_face_glue", "Film glue", "°C", False),
        Station("bed_glass", "Glass", "°C", False),
        Station("bed_insulation", "Insulation", "°C", False),
        Station("bed_under", "Underside", "°C", True, ("underside reading",)),
        Station("bed_ready", "Bed ready", "min", False),
        Station("bed_watts", "Bed watts", "W", True, ("bed heater watts",)),
        Station("case_low", "Print air", "°C", True, ("print air", "air at the print")),
        Station("case_high", "Air at roof", "°C", True, ("roof air", "air under the roof")),
        Station("case_sensor", "Case sensor", "°C", True, ("case sensor reading",)),
        Station("case_supply", "Supply's air", "°C", True, ("supply air", "supply inlet")),
        Station("case_board", "Board", "°C", True, ("controller board",)),
        Station("case_display", "Display", "°C", True, ("display reading",)),
        Station("case_spool", "Spool", "°C", True, ("spool reading",)),
        Station("case_printed", "Printed parts", "°C", True, ("printed part", "bracket")),
        Station("case_motor", "Motors", "°C", True, ("motor in the case",)),
        Station("case_face", "Warmest wall", "°C", True, ("wall inside",)),
        Station("power_supply_terminal", "Supply terminal", "°C", True, ("supply terminal reading",)),
        Station("power_feed", "Feed wire", "°C", True, ("feed wire reading",)),
        Station("power_feed_terminal", "Feed terminal", "°C", True, ("board terminal", "feed terminal reading")),
        Station("power_switch", "Bed switch", "°C", True, ("switch case", "bed switch reading")),
        Station("power_plug", "Bed plug", "°C", True, ("plug", "bed plug reading")),
        Station("power_lead", "Bed lead", "°C", True, ("bed lead reading",)),
        Station("power_tabs", "Bed tabs", "°C", True, ("bed tabs reading",)),
        Station("power_heater_terminal", "Hotend terminal", "°C", True, ("hotend terminal reading",)),
        Station("power_heater_lead", "Hotend lead", "°C", True, ("hotend lead reading",)),
        Station("power_heater_plug", "Hotend plug", "°C", True, ("hotend plug reading",)),
        Station("power_heater_volts", "Volts at the hotend", "V", True, ("hotend volts reading",), 0.1),
        Station("power_heater_plug_amps", "Amps in the hotend plug", "A", False),
        Station("power_inlet", "Supply inlet", "°C", False),
        Station("power_load", "Supply load", "W", False),
        Station("power_wall", "At the wall", "W", True, ("wall meter", "at the wall"), 4.0),
        Station("power_bed_volts", "Volts at the bed", "V", True, ("bed volts reading",), 0.1),
        Station("power_plug_drop", "Bed plug, drop", "V", True, ("plug drop", "bed plug drop"), 0.002),
        Station("power_plug_amps", "Amps in the plug", "A", False),
        Station("power_fuse", "Bed's fuse, load", "A", False),
        Station("power_fuse_wire", "Fuse over its wire", "A", False),
        Station("power_switch_amps", "Amps in the switch", "A", False),
        Station("power_outlet", "Outlet load", "A", False),
        Station("power_output", "Fan output load", "A", False),
        Station("power_board_fuse", "Board's fuse, load", "A", False),
        Station("power_board_fuse_wire", "Board's fuse over its wire", "A", False),
        Station("power_board_amps", "Amps into the board", "A", False),
        Station("power_heater_output", "Hotend output load", "A", False),
        Station("power_lost", "Lost on the way", "W", False),
        Station("bed_clearance", "Room below it", "mm", False),
        Station("heat_up", "Heat-up", "s", False),
        Station("most_flow", "Flow", "mm³/s", False),
        Station("heater_watts", "Heater", "W", True, ("heater watts", "watts")),
    )
}


def _of_toolhead(number: str, station: Station) -> Station:
    """A place of a toolhead; its number already says that it is a hotend's."""
    label = station.label.lower().replace("hotend ", "")
    names = tuple(f"{number.lower()} {name}" for name in (station.label.lower(), *station.names))
    return replace(station, key=station_of(number, station.key), label=f"{number} {label}", names=names)


STATIONS |= {
    station_of(number, key): _of_toolhead(number, STATIONS[key]) for number in NUMBERS for key in OF_A_TOOLHEAD
}
for kind, its_numbers in ((SUPPLIES, FURTHER), (PRINTED_PARTS, FURTHER_PARTS)):
    STATIONS |= {
        station_of(number, key): replace(
            STATIONS[key], key=station_of(number, key), label=f"{number} {label}", names=(f"{number.lower()} {label}",)
        )
        for number in its_numbers
        for key, label in OF_FURTHER[kind].items()
    }
