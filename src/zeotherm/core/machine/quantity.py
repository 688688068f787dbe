"""One declaration a quantity: its unit, bounds, tolerance, step, label, names and help.

Files, validation, levers, the entry line and the bands all read the declaration that stands beside the field.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cache
from typing import Any

from pydantic import BaseModel, ConfigDict, Field, create_model
from pydantic.fields import FieldInfo


class Document(BaseModel):
    """Strict, frozen, without unknown fields, not-a-numbers or infinities."""

    model_config = ConfigDict(strict=True, frozen=True, extra="forbid", allow_inf_nan=False)


@dataclass(frozen=True, slots=True)
class Quantity:
    """A number of a document: `path` inside it, and all that is known of the number in general."""

    path: str
    label: str
    unit: str
    low: float
    high: float
    step: float
    tolerance: float  # 95 % half-width, in the unit
    relative: float  # 95 % half-width as a share of the value; the wider of the two holds
    help: str
    names: tuple[str, ...]

    def doubt(self, value: float) -> float:
        """The 95 % half-width of a typical value, in the unit."""
        return max(self.tolerance, self.relative * abs(value))


@dataclass(frozen=True, slots=True)
class Choice:
    """A part or way of fitting, chosen from one shelf of the catalogue."""

    path: str
    label: str
    shelf: str
    help: str
    names: tuple[str, ...]


Declared = Quantity | Choice


def quantity(
    default: float,
    label: str,
    unit: str,
    low: float,
    high: float,
    *,
    step: float,
    help: str,
    tolerance: float = 0.0,
    relative: float = 0.0,
    names: tuple[str, ...] = (),
) -> Any:
    """Declare a number of a document; the arguments are those of `Quantity`."""
    about: dict[str, Any] = {
        "label": label, "unit": unit, "step": step, "tolerance": tolerance, "relative_tolerance": relative,
        "names": list(names),
    }  # fmt: skip
    return Field(default, ge=low, le=high, allow_inf_nan=False, description=help, json_schema_extra=about)


def choice(default: str, label: str, shelf: str, *, help: str, names: tuple[str, ...] = ()) -> Any:
    """Declare a choice of a document; the arguments are those of `Choice`."""
    about: dict[str, Any] = {"label": label, "shelf": shelf, "names": list(names)}
    return Field(default, min_length=1, max_length=60, description=help, json_schema_extra=about)


def part(default: Document, label: str, *, names: tuple[str, ...]) -> Any:
    """Declare a part of which a document has several: its label and names go before those declared inside it.

    An inner name that is empty stands for the part's own.
    """
    return Field(default, json_schema_extra={"part": label, "names": list(names)})


def some_of(model: type[Document], names: tuple[str, ...], name: str, doc: str) -> type[Document]:
    """A document type of some of another's fields, as they are declared there."""
    fields: dict[str, Any] = {one: (model.model_fields[one].annotation, model.model_fields[one]) for one in names}
    made: type[Document] = create_model(name, __base__=Document, __doc__=doc, **fields)
    return made


@cache
def declared(model: type[BaseModel]) -> dict[str, Declared]:
    """Every declaration below a document type, by its dotted path."""
    found: dict[str, Declared] = {}
    for name, info in model.model_fields.items():
        kind = info.annotation
        if isinstance(kind, type) and issubclass(kind, BaseModel):
            about = info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {}
            for path, inner in declared(kind).items():
                found[f"{name}.{path}"] = _of_part(_moved(inner, f"{name}.{path}"), about)
        elif isinstance(info.json_schema_extra, dict):
            found[name] = _read(name, info, dict(info.json_schema_extra))
    return found


def _moved(item: Declared, path: str) -> Declared:
    values = {slot: getattr(item, slot) for slot in item.__slots__}
    return type(item)(**{**values, "path": path})


def _of_part(item: Declared, about: dict[str, Any]) -> Declared:
    if "part" not in about:
        return item
    names = tuple(f"{one} {inner}".strip() for one in about["names"] for inner in item.names)
    return replace(item, label=f"{about['part']}, {item.label[:1].lower()}{item.label[1:]}", names=names)


def _read(name: str, info: FieldInfo, about: dict[str, Any]) -> Declared:
    help_text, names = info.description or "", tuple(about["names"])
    if "shelf" in about:
        return Choice(name, about["label"], about["shelf"], help_text, names)
    bounds = {type(rule).__name__: rule for rule in info.metadata}
    return Quantity(
        name, about["label"], about["unit"], bounds["Ge"].ge, bounds["Le"].le, about["step"],
        about["tolerance"], about["relative_tolerance"], help_text, names,
    )  # fmt: skip
