"""The hours of one print job: when it starts, how long its parts last, what goes wrong in between."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import Field, JsonValue

from zeotherm.core.machine.quantity import Document, choice, quantity

LONGEST_MIN = 24 * 60.0
PREHEAT_MOST_MIN = 60.0
REHEAT_MOST_MIN = 15.0  # after a standby


class Pause(Document):
    """The print stands still without flow: hot, or with its nozzle at a standby temperature."""

    after_min: Annotated[float, Field(ge=0, le=LONGEST_MIN)]
    minutes: Annotated[float, Field(gt=0, le=LONGEST_MIN)]
    nozzle_c: Annotated[float, Field(ge=20, le=500)] | None = Field(
        None,
        description="Standby temperature; none: as while printing. The print goes on once the nozzle is hot again.",
    )


class Schedule(Document):
    """One print job by the clock."""

    start_h: float = quantity(
        9.0,
        "Job starts at",
        "h",
        0,
        24,
        step=1,
        names=("start", "starts", "job starts at"),
        help="Clock time at which the machine is switched on, in hours: 9.75 is a quarter to ten.",
    )
    soak_min: float = quantity(
        2.0,
        "Soak before printing",
        "min",
        0,
        240,
        step=5,
        names=("soak", "heat soak"),
        help="Time between bed and nozzle at temperature and the first line.",
    )
    print_min: float = quantity(
        240.0,
        "Print time",
        "min",
        1,
        1440,
        step=30,
        names=("print time", "print"),
        help="How long filament flows, pauses not counted.",
    )
    cool_min: float = quantity(
        30.0,
        "Cool-down",
        "min",
        0,
        240,
        step=10,
        names=("cool down", "cool-down", "cooldown"),
        help="How long to follow the machine after the heaters are off.",
    )
    fan_after: str = choice(
        "runs_on",
        "Sink fan after the print",
        "fan_rules",
        names=("fan after", "fan after print"),
        help="What the sink fan does once the heaters are off.",
    )
    retractions_per_min: float = quantity(
        6.0,
        "Rate of retraction",
        "1/min",
        0,
        120,
        step=2,
        relative=0.3,
        names=("rate of retraction", "pulls"),
        help="Retractions in a minute of printing; part programs tell their count.",
    )
    pauses: dict[str, Pause] = Field(default_factory=dict, description="Pauses of the print, by id.")

    def model_post_init(self, _context: Any) -> None:
        """Refuse pauses that overlap or come after the end, and jobs of more than a day."""
        last = -1.0
        for key, pause in sorted(self.pauses.items(), key=lambda item: item[1].after_min):
            if pause.after_min >= self.print_min:
                raise ValueError(
                    f"pauses.{key}.after_min is {pause.after_min:g}, but the print is over after {self.print_min:g} min"
                )
            if pause.after_min <= last:
                raise ValueError(f"pauses.{key}.after_min is {pause.after_min:g}: two pauses overlap")
            last = pause.after_min
        if self.longest_min - PREHEAT_MOST_MIN > LONGEST_MIN:
            raise ValueError(f"the job lasts {self.longest_min / 60 - 1:.1f} h; it may last 24 h")

    @property
    def longest_min(self) -> float:
        """The latest end of the job after its start [min]."""
        paused = sum(
            pause.minutes + (REHEAT_MOST_MIN if pause.nozzle_c is not None else 0.0) for pause in self.pauses.values()
        )
        return PREHEAT_MOST_MIN + self.soak_min + self.print_min + paused + self.cool_min


class Fault(Document):
    """A change of the machine that comes at a time."""

    label: Annotated[str, Field(min_length=1, max_length=80)]
    at_min: Annotated[float, Field(ge=0, le=2 * LONGEST_MIN)] = Field(
        description="Minutes after the machine is switched on."
    )
    change: dict[str, JsonValue] = Field(description="A JSON merge patch over the setup.")
