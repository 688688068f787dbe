"""How each fact of a machine is known: a fact that nobody told is assumed, and never counts as sound."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from zeotherm.core.machine.patches import value_at
from zeotherm.core.machine.quantity import Document, declared

How = Literal["assumed", "entered", "measured", "fitted"]
FITTED = "corrections."  # begins the paths that a measured curve tells


class Known(Document):
    """How the value at one path of the machine as found came to be known."""

    how: Literal["entered", "measured", "fitted"] = "entered"
    about: Annotated[str, Field(max_length=80)] = Field("", description="The instrument, the label or the run.")


def how_known(known: Mapping[str, Known], path: str) -> How:
    """How the value at a path is known; assumed where nobody told it."""
    return known[path].how if path in known else "assumed"


def told_by_older(found: object, tolerances: object, default: BaseModel) -> dict[str, dict[str, str]]:
    """What a job that was written before facts were told apart knows: what differs from the default was entered, or
    fitted; what has a tolerance of its own was measured. found, tolerances: as they are in the file.

    A value like the default's may be what somebody entered, or what nobody touched: it counts as assumed.
    """
    known: dict[str, dict[str, str]] = {}
    for path in declared(type(default)):
        value = _at(found, path)
        if value is not None and value != value_at(default, path):
            known[path] = {"how": "fitted" if path.startswith(FITTED) else "entered"}
        if isinstance(tolerances, dict) and path in tolerances and known.get(path, {}).get("how") != "fitted":
            known[path] = {"how": "measured"}
    return known


def _at(data: object, path: str) -> Any:
    """A value in plain data; None where it is not there."""
    for key in path.split("."):
        if not isinstance(data, dict) or key not in data:
            return None
        data = data[key]
    return data
