"""The work on a machine: what is to be done, what was done step by step, and how the step that is open stands."""

from __future__ import annotations

import itertools
from typing import Annotated, Literal

from pydantic import Field

from zeotherm.core.machine.intake import Attachment
from zeotherm.core.machine.quantity import Document

MOST_STEPS = 400
Stamp = Annotated[str, Field(pattern=r"^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d$")]  # local clock
Text = Annotated[str, Field(max_length=500)]
Way = Literal["probe", "console", "camera"]


class HoldReading(Document):
    """A temperature that was read while a step is held."""

    after_s: Annotated[float, Field(ge=0, le=1e10)] = Field(description="Seconds after the heat was turned off, or on.")
    value: Annotated[float, Field(ge=-50, le=1500)]
    tolerance: Annotated[float, Field(gt=0, le=50)] = 2.0
    way: Way = Field("probe", description="A contact probe, the machine's own sensor, or a camera.")


class OpenStep(Document):
    """How the step at hand stands."""

    step: Annotated[str, Field(min_length=1, max_length=120)]
    begun: Stamp
    held_from: Stamp | None = Field(None, description="When its hold began.")
    before_s: Annotated[float, Field(ge=0, le=1e6)] = Field(
        0.0, description="How long the heat was off, or on, when its hold began."
    )
    ticks: list[Annotated[int, Field(ge=0)]] = Field(default_factory=list, description="Gates that were confirmed.")
    values: dict[str, float | Text] = Field(default_factory=dict)
    photos: dict[str, Attachment] = Field(default_factory=dict)
    readings: Annotated[list[HoldReading], Field(max_length=2000)] = Field(default_factory=list)

    def model_post_init(self, _context: object) -> None:
        """Refuse readings that run backwards."""
        for one, other in itertools.pairwise(self.readings):
            if other.after_s < one.after_s:
                raise ValueError(f"readings: one at {other.after_s:g} s stands after one at {one.after_s:g} s")


class DoneStep(OpenStep):
    """A step that is behind."""

    ended: Stamp
    exit: Annotated[str, Field(min_length=1, max_length=40)]
    heat_c: float | None = Field(None, description="The temperature it was done at, where it had one.")


class Doing(Document):
    """The work order of a job."""

    procedures: Annotated[list[str], Field(max_length=24)] = Field(default_factory=list, description="In order, by id.")
    choices: dict[str, str] = Field(default_factory=dict, description="Facts and schools that were settled, by id.")
    written: Stamp | None = None
    done: Annotated[list[DoneStep], Field(max_length=MOST_STEPS)] = Field(default_factory=list)
    open: OpenStep | None = None
    left_out: dict[str, Annotated[str, Field(min_length=3, max_length=200)]] = Field(
        default_factory=dict, description="Re-checks that were left out, and why."
    )
    failed_after_min: Annotated[float, Field(ge=0, le=1e5)] | None = Field(
        None, description="How long it printed before it failed, as told; null: from the model."
    )
    closed: Stamp | None = None
