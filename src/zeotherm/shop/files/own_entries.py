"""The shop's own causes and procedures: files beside the workshop that say what differs from the shipped catalogue."""

from __future__ import annotations

import re
from dataclasses import dataclass
from importlib.resources import files
from pathlib import Path
from typing import Any

import tomli
from pydantic import ValidationError

from zeotherm.core.catalogue import Catalogue, shipped
from zeotherm.core.machine.patches import Patch, composed
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files.job_files import write_text
from zeotherm.shop.files.reading import utf8_of

LARGEST = 4_000_000  # bytes of an own file


@dataclass(frozen=True)
class OwnFile:
    """One such file: its name, the shelves it may speak of, and what it begins with."""

    name: str
    what: str
    shelves: tuple[str, ...]
    head: str
    shown: str  # shipped entries that follow as comments, a path below the catalogue's data
    under: str  # the table they stand in

    def beside(self, workshop: Path) -> Path:
        """Where it stands."""
        return workshop.parent / self.name


CAUSES = OwnFile(
    "causes.toml",
    "causes",
    ("questions", "checks", "domains", "causes", "contradictions"),
    """# The shop's own causes. What is written here goes over the catalogue that ships with Zeotherm: a number that
# differs, a cause of your own. Take the # away from a line below and change it; the shipped causes follow, to copy.
#
# [causes.clog]
# common = 12.0
#
# [causes.clog.shows]
# "needle.frees" = [0.8, "our needles are fine ones"]

""",
    "causes.toml",
    "causes",
)
WORK = OwnFile(
    "procedures.toml",
    "procedures",
    ("procedures", "transitions", "rechecks", "choices", "cautions", "heat_rules"),
    """# The shop's own procedures. What is written here goes over the catalogue that ships with Zeotherm. Every step
# has tools, signs (burn, mains, fumes, flame; [] where nothing hurts), gates, record, exits and failing: what to do
# when it fails. `needs` names the state the machine must be in; what leads there is put before it. One to copy follows.

""",
    "procedures/fan_cleaning.toml",
    "procedures.fan_cleaning_ours",
)
ALL = (CAUSES, WORK)


def catalogue_beside(workshop: Path, own: Patch) -> Catalogue:
    """The shipped catalogue with the shop's own files that lie beside a workshop, and a job's own entries over both.

    Raises ShopError where an own file is wrong, or where a job's entries do not fit it.
    """
    patch: Patch = {}
    for kind in ALL:
        patch = composed(patch, read_own(kind, kind.beside(workshop)))
    try:
        return shipped().with_own(composed(patch, own))
    except ValidationError as wrong:
        fault = wrong.errors(include_url=False)[0]
        where = ".".join(str(step) for step in fault["loc"])
        raise ShopError(
            f"The job's own entries do not fit: {where} {fault['msg']}. Correct the job's catalogue."
        ) from None


def begin_own(kind: OwnFile, path: Path) -> None:
    """Write a file to begin with, shipped entries in it as comments; an existing one is left alone.

    Raises ShopError.
    """
    if path.exists():
        return
    text = (files("zeotherm.core.catalogue") / "data" / kind.shown).read_text(encoding="utf-8")
    lines = [re.sub(r"^(\[+)", rf"\1{kind.under}.", line) for line in text.splitlines()]
    lines = lines if kind is CAUSES else [f"[{kind.under}]", *lines]
    write_text(path, kind.head + "\n".join(f"# {line}".rstrip() for line in lines) + "\n")


def read_own(kind: OwnFile, path: Path) -> Patch:
    """What the shop's own file changes; nothing where there is none.

    Raises ShopError that names the line, the step and the field; the shipped catalogue then stands alone.
    """
    if not path.exists():
        return {}
    stands = f"the shipped {kind.what} are used."
    try:
        text = utf8_of(path, LARGEST)
    except ShopError as wrong:
        raise ShopError(f"{wrong} Until then {stands}") from None
    try:
        patch: dict[str, Any] = tomli.loads(text)
    except tomli.TOMLDecodeError as wrong:
        raise ShopError(f"{path.name}: {wrong}. Correct that line; until then {stands}") from None
    for shelf in patch:
        if shelf not in kind.shelves:
            raise ShopError(
                f"{path.name}, line {_line_of(text, [shelf])}: '{shelf}' is no shelf of it; known are "
                f"{', '.join(kind.shelves)}. {stands.capitalize()}"
            )
    try:
        shipped().with_own(patch)
    except ValidationError as wrong:
        fault = wrong.errors(include_url=False)[0]
        where = [str(step) for step in fault["loc"]]
        message = fault["msg"].removeprefix("Value error, ").removeprefix("Input ")
        told = re.match(r"([\w.]+)(?:, '[^']*')?: ", message)
        if told is not None and (not where or told.group(1).startswith(("steps.", "procedures."))):
            where += told.group(1).split(
                "."
            )  # told by a whole procedure, or the catalogue, with the place in its words
        line = _line_of(text, where)
        raise ShopError(
            f"{path.name}, line {line}, {'.'.join(where)}{_step_named(patch, where)}: {message}. "
            f"Correct it; until then {stands}"
        ) from None
    return patch


def _step_named(patch: dict[str, Any], where: list[str]) -> str:
    """The step that a place lies in, by its label or its key."""
    found: Any = patch
    named = ""
    for word in where:
        found = found[int(word)] if isinstance(found, list) and word.isdigit() and int(word) < len(found) else (
            found.get(word) if isinstance(found, dict) else None
        )  # fmt: skip
        if isinstance(found, dict) and ("gates" in found or "text" in found):
            named = str(found.get("label") or found.get("key") or "")
    return f" ('{named}')" if named else ""


def _line_of(text: str, where: list[str]) -> int:
    """The line in which a field stands: below its table's head, as far as its names are found in order."""
    line, lines = 0, text.splitlines()
    for index, name in enumerate(where):
        if name.isdigit() and index:  # the so-manyth table of an array
            word = re.compile(rf"^\s*\[\[.*(?<!\w){re.escape(where[index - 1])}\s*\]\]")
            heads = [n for n in range(line, len(lines)) if word.search(lines[n])]
            line = heads[int(name)] if int(name) < len(heads) else line
            continue
        word = re.compile(rf"(?<!\w){re.escape(name)}(?!\w)")
        here = [n for n in range(line, len(lines)) if not lines[n].lstrip().startswith("#") and word.search(lines[n])]
        line = here[0] if here else line
    return line + 1
