"""A hotend that is being put together: what it is to do, and the parts that were put into its slots."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from zeotherm.core.machine.patches import Patch
from zeotherm.core.machine.quantity import Document

MOST_PLASTICS = 4
Name = Annotated[str, Field(min_length=1, max_length=60)]


class Build(Document):
    """What a hotend is wanted for; null: as the machine is set. The change is over the machine as found."""

    plastics: Annotated[list[Name], Field(max_length=MOST_PLASTICS)] = Field(
        default_factory=list, description="Plastics that it is to print, by id; none: the one that is printed."
    )
    nozzle_c: Annotated[float, Field(ge=150, le=480)] | None = None
    flow_mm3_s: Annotated[float, Field(ge=0.5, le=60)] | None = None
    flow_least_mm3_s: Annotated[float, Field(ge=0.1, le=60)] | None = Field(
        None, description="The least flow of a print; null: half the most."
    )
    hot_within_s: Annotated[float, Field(ge=20, le=1800)] = 180.0
    air_c: Annotated[float, Field(ge=5, le=150)] | None = Field(
        None, description="The warmest air at the print that it is to work in; null: what the job comes to."
    )
    part_fan_pct: Annotated[float, Field(ge=0, le=100)] | None = None
    sure_pct: Annotated[float, Field(ge=50, le=99)] = Field(
        80.0, description="The chance with which each limit is to hold in the cheapest build."
    )
    change: Patch = Field(default_factory=dict, description="Parts in its slots: a JSON merge patch over `found`.")
