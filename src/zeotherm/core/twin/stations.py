"""Stations: the named places that results, limits, readings and markers all speak of."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Station:
    """A named place or figure of the machine."""

    key: str
    label: str
    unit: str
    readable: bool  # whether an instrument can be held there
    names: tuple[str, ...] = ()  # further words for the entry line

    @property
    def is_temperature(self) -> bool:
        """Whether it belongs on the ladder."""
        return self.unit == "°C"


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
        Station("case_wall", "Case wall", "°C", True, ("wall",)),
        Station("bed", "Bed", "°C", True, ("bed plate", "bed reading")),
        Station("carriage", "Carriage", "°C", True, ("carriage reading",)),
        Station("motor", "Feed motor", "°C", True, ("motor reading", "motor case")),
        Station("board", "Toolhead board", "°C", True, ("board reading",)),
        Station("creep_margin", "Creep margin", "mm", False),
        Station("creep_after_retraction", "Retracted", "mm", False),
        Station("liner_seat", "Liner seat", "mm", False),
        Station("cavity", "Cavity", "mm³", False),
        Station("heater_watts", "Heater", "W", True, ("heater watts", "watts")),
    )
}
