"""What was told and tried at the bench before anything is decided."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from zeotherm.core.machine.quantity import Document


class Ohms(Document):
    """Readings of a multimeter, power off and cold; unknown is null."""

    heater: Annotated[float, Field(ge=0, le=1e8)] | None = None
    sensor: Annotated[float, Field(ge=0, le=1e8)] | None = None
    bed: Annotated[float, Field(ge=0, le=1e8)] | None = None
    at_c: Annotated[float, Field(ge=-20, le=60)] = 22.0


class Attachment(Document):
    """A photograph or another file that belongs to the job; its bytes are in the workshop file."""

    name: Annotated[str, Field(min_length=1, max_length=200)]
    digest: Annotated[str, Field(pattern="^[0-9a-f]{64}$")]
    size: Annotated[int, Field(ge=0)]


class Intake(Document):
    """Answers by what was asked; what is not there is unknown, which never counts as no."""

    trouble: Annotated[str, Field(min_length=1, max_length=60)] = Field(
        "hotend", description="What it shows at, by the id of a trouble of the catalogue: its causes are looked at."
    )
    answers: dict[str, list[str]] = Field(
        default_factory=dict, description="Options told, by the id of a question or a check of the catalogue."
    )
    skipped: list[str] = Field(default_factory=list, description="Checks that are not to be offered again.")
    ohms: Ohms = Ohms()
    decided: str | None = Field(None, description="The cause that was decided on, by id.")
    attachments: list[Attachment] = Field(default_factory=list)
