"""What everything on a shelf has in common."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict


class Entry(BaseModel):
    """Frozen and strict; one thing on a shelf."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
