"""What was measured: runs, thermal pictures, and how they are to be compared."""

from __future__ import annotations

import itertools
from typing import Annotated, Literal

from pydantic import Field

from zeotherm.core.machine.quantity import Document

LOG_ROWS = 1500  # kept of a run in the document; longer ones are averaged over equal spans
MOST_RUNS = 24
MOST_CELLS = 20_000  # kept of a thermal picture in the document; larger ones are averaged over equal squares
FORECAST = "model"  # source of a run that is a locked forecast
LEAST_EMISSIVITY = 0.3  # below it a picture shows the room rather than the part
Digest = Annotated[str, Field(pattern="^[0-9a-f]{64}$")]
HalfWidth = Annotated[float, Field(ge=0, le=1e6)]
Noted = Annotated[float, Field(ge=-1e6, le=1e6)] | Annotated[str, Field(max_length=120)]


class RunDoubt(Document):
    """What can be believed of one instrument, as 95 % half-widths."""

    offset: HalfWidth = Field(description="Adds, the same in every run of the instrument.")
    relative: HalfWidth = Field(description="Multiplies, as a share, the same in every run of the instrument.")
    repeat: HalfWidth = Field(description="Differs from run to run.")


class Run(Document):
    """A measured run, as it was read from a file."""

    label: Annotated[str, Field(min_length=1, max_length=60)] = Field(
        "run", description="What the machine was like; runs of one label are repeats of each other."
    )
    source: Annotated[str, Field(min_length=1, max_length=200)] = "file"
    rows: Annotated[int, Field(ge=1)] = Field(description="Rows of the file, before averaging.")
    digest: Digest | None = Field(None, description="Of all rows, where the workshop file has them.")
    start_h: Annotated[float, Field(ge=0, lt=24)] | None = Field(
        None, description="Clock time of the first row, in hours; null: unknown, it began with the job."
    )
    time_s: Annotated[list[Annotated[float, Field(ge=0)]], Field(min_length=1, max_length=LOG_ROWS)]
    values: dict[str, list[float | None]] = Field(description="By channel, in its unit; null: missing.")
    conditions: dict[str, Noted] = Field(default_factory=dict, description="What was noted of it, by condition.")
    zero_s: float | None = Field(None, description="Moment of its own clock that is zero; null: found.")
    doubts: dict[str, RunDoubt] = Field(default_factory=dict, description="Of instruments unlike the usual.")
    protocol: str | None = Field(None, description="The guided test it was logged for.")
    notes: list[str] = Field(default_factory=list, description="What was assumed when it was read.")

    @property
    def forecast(self) -> bool:
        """Whether it is what the model said, locked, and nothing that was measured."""
        return self.source == FORECAST

    def model_post_init(self, _context: object) -> None:
        """Refuse columns of another length, and times that go back."""
        for key, column in self.values.items():
            if len(column) != len(self.time_s):
                raise ValueError(f"{key} has {len(column)} values for {len(self.time_s)} times")
        if any(b < a for a, b in itertools.pairwise(self.time_s)):
            raise ValueError("time_s goes back")


class Picture(Document):
    """A thermal picture."""

    label: Annotated[str, Field(min_length=1, max_length=60)] = "picture"
    source: Annotated[str, Field(min_length=1, max_length=200)] = "file"
    width: Annotated[int, Field(ge=1, le=10000)]
    height: Annotated[int, Field(ge=1, le=10000)]
    over_range: Annotated[int, Field(ge=0)] = 0
    unreadable: Annotated[int, Field(ge=0)] = 0
    read_emissivity: Annotated[float, Field(gt=0, le=1)] = Field(1.0, description="What the camera was set to.")
    read_reflected_c: Annotated[float, Field(ge=-50, le=200)] = 20.0
    emissivity: Annotated[float, Field(ge=LEAST_EMISSIVITY, le=1)] = Field(0.95, description="Of the surface.")
    reflected_c: Annotated[float, Field(ge=-50, le=200)] = Field(20.0, description="What the surface mirrors.")
    camera_doubt: HalfWidth = Field(2.0, description="95 % half-width of the camera, K.")
    regions: dict[str, Annotated[list[Annotated[float, Field(ge=0, le=1)]], Field(min_length=4, max_length=4)]] = Field(
        default_factory=lambda: {"picture": [0.0, 0.0, 1.0, 1.0]},
        description="Left, top, right, bottom as shares of width and height, by name.",
    )
    cells: Annotated[list[list[float | None]], Field(min_length=1, max_length=400)] = Field(
        description="Apparent temperatures by row, °C; null: over range or unreadable."
    )

    def model_post_init(self, _context: object) -> None:
        """Refuse ragged rows and regions without an inside."""
        if len({len(row) for row in self.cells}) != 1 or not self.cells[0]:
            raise ValueError("cells has rows of unequal length")
        for name, (left, top, right, bottom) in self.regions.items():
            if right <= left or bottom <= top:
                raise ValueError(f"regions.{name} has no inside")


class Heard(Document):
    """A fan's speed by its sound."""

    source: Annotated[str, Field(min_length=1, max_length=200)]
    blades: Annotated[int, Field(ge=2, le=40)]
    hertz: Annotated[float, Field(gt=0, le=20_000)] = Field(description="Blade-pass tone.")
    doubt_hz: HalfWidth
    sure: Literal["sure", "likely", "no tone"]
    rival_hz: HalfWidth | None = Field(None, description="Another tone that could be the fan.")
    too_loud: bool = False


class LiningUp(Document):
    """By what runs are lined up; a moment set by hand for a run wins over it."""

    way: Literal["automatic", "level", "likeness", "first_row"] = "automatic"
    channel: Annotated[str, Field(max_length=40)] = Field("bed", description="Whose level or likeness counts.")
    level_c: Annotated[float, Field(ge=-50, le=500)] = Field(30.0, description="Passed on the way up, °C.")


class Measured(Document):
    """Runs and pictures of a job, and how they are compared."""

    runs: Annotated[dict[str, Run], Field(max_length=MOST_RUNS)] = Field(default_factory=dict)
    pictures: Annotated[dict[str, Picture], Field(max_length=MOST_RUNS)] = Field(default_factory=dict)
    heard: Annotated[list[Heard], Field(max_length=MOST_RUNS)] = Field(default_factory=list)
    laid: str | None = Field(None, description="The run that is laid over the model, by id.")
    hidden: list[str] = Field(default_factory=list, description="Runs that are not compared, by id.")
    line_up: LiningUp = LiningUp()
    purpose: list[str] = Field(default_factory=list, description="Conditions that were changed on purpose.")
    same_instruments: bool = Field(True, description="Whether every run was taken with the same instruments.")
    normalise: bool = Field(False, description="Whether to compare as if in the first run's room, from its start.")

    def logged(self) -> dict[str, Run]:
        """The runs that were measured, without locked forecasts."""
        return {key: run for key, run in self.runs.items() if not run.forecast}

    tariff: Annotated[float, Field(ge=0, le=1000)] | None = Field(None, description="Money for a kWh.")
    protocol: str | None = Field(None, description="The guided test that is followed.")
    ticked: list[Annotated[int, Field(ge=0)]] = Field(default_factory=list, description="Its steps that are done.")

    def model_post_init(self, _context: object) -> None:
        """Refuse what speaks of runs that are not there."""
        for name, keys in (("laid", [self.laid] if self.laid is not None else []), ("hidden", self.hidden)):
            missing = [key for key in keys if key not in self.runs]
            if missing:
                raise ValueError(f"{name} names {missing[0]}, which is no run; take it out")

    def shown(self) -> dict[str, Run]:
        """The runs that are compared, in order."""
        return {key: run for key, run in self.runs.items() if key not in self.hidden}
