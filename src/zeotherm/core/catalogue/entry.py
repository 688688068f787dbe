"""What everything on a shelf has in common: entries, figures with their doubt, layers."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field


class Entry(BaseModel):
    """Frozen and strict; one thing on a shelf."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Alike(Entry):
    """One of a shelf on which entries may be like another one."""

    like: str = ""  # the entry that it is a kind of, which fills up what it does not state


class Figure(Entry):
    """A number with its doubt and where it comes from."""

    value: float
    tolerance: Annotated[float, Field(ge=0)]
    source: Literal["handbook", "data sheet range", "estimate", "own measurement"]
    confidence: Literal["high", "medium", "low"]


class Positive(Figure):
    """A figure above zero."""

    value: Annotated[float, Field(gt=0)]


class NotNegative(Figure):
    """A figure of zero or more."""

    value: Annotated[float, Field(ge=0)]


class Layer(Entry):
    """One layer of a bed or a wall."""

    name: str
    material: str
    mm: Annotated[float, Field(gt=0, le=60)]
