"""The face of each part of a machine: what tells of it in Explain, and its page of sizes in Choose; each is a module of
the part's folder, loaded when it is first asked for."""

from __future__ import annotations

from importlib import import_module
from importlib.util import find_spec
from typing import Any

from zeotherm.core.parts.part import Part
from zeotherm.core.parts.registry import PARTS
from zeotherm.desk.bench import Bench
from zeotherm.desk.parts.hotend.teller import HotendTeller
from zeotherm.desk.parts.whole.teller import WholeTeller
from zeotherm.desk.views.explain.page import ExplainPage
from zeotherm.desk.views.explain.teller import Teller


def tellers(bench: Bench, view: ExplainPage) -> tuple[Teller, ...]:
    """What tells of the whole machine, of the hotend, and of each part beside it, in the order of their tabs."""
    beside = (_module(part, "teller").TELLER(bench, view, part) for part in PARTS.values())
    return (WholeTeller(bench, view), HotendTeller(bench, view), *beside)


def size_pages(bench: Bench) -> dict[str, Any]:
    """The page of sizes, a SizePage, of each part that has one, by the part's key."""
    with_sizes = [part for part in PARTS.values() if find_spec(_name(part, "size")) is not None]
    return {part.key: _module(part, "size").PAGE(bench) for part in with_sizes}


def _module(part: Part[Any], name: str) -> Any:
    return import_module(_name(part, name))


def _name(part: Part[Any], name: str) -> str:
    return f"{part.home}.desk.parts.{part.module}.{name}"
