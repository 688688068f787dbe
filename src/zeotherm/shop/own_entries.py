"""The shop's own causes: a file beside the workshop that says what differs from the shipped catalogue."""

from __future__ import annotations

import re
import tomllib
from importlib.resources import files
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.patches import Patch
from zeotherm.shop.errors import ShopError
from zeotherm.shop.job_files import write_text

SHELVES = ("questions", "checks", "domains", "causes", "contradictions")
HEAD = """# The shop's own causes. What is written here goes over the catalogue that ships with Zeotherm: a number that
# differs, a cause of your own. Take the # away from a line below and change it; the shipped causes follow, to copy.
#
# [causes.clog]
# common = 12.0
#
# [causes.clog.shows]
# "needle.frees" = [0.8, "our needles are fine ones"]

"""


def own_file(workshop: Path) -> Path:
    """Where the shop's own causes stand."""
    return workshop.parent / "causes.toml"


def begin_own(path: Path) -> None:
    """Write a file to begin with, the shipped causes in it as comments; an existing one is left alone.

    Raises ShopError.
    """
    if path.exists():
        return
    text = (files("zeotherm.core.catalogue") / "data" / "causes.toml").read_text(encoding="utf-8")
    lines = [re.sub(r"^\[", "[causes.", line) for line in text.splitlines()]
    write_text(path, HEAD + "\n".join(f"# {line}".rstrip() for line in lines) + "\n")


def read_own(path: Path) -> Patch:
    """What the shop's own file changes; nothing where there is none.

    Raises ShopError that names the line and the field; the shipped catalogue then stands alone.
    """
    if not path.exists():
        return {}
    try:
        text = path.read_text(encoding="utf-8-sig")
    except (OSError, UnicodeDecodeError) as wrong:
        raise ShopError(f"{path.name} could not be read: {wrong}. The shipped causes are used.") from None
    try:
        patch: dict[str, Any] = tomllib.loads(text)
    except tomllib.TOMLDecodeError as wrong:
        raise ShopError(f"{path.name}: {wrong}. Correct that line; until then the shipped causes are used.") from None
    for shelf in patch:
        if shelf not in SHELVES:
            line = _line_of(text, [shelf])
            raise ShopError(
                f"{path.name}, line {line}: '{shelf}' is no shelf of it; known are {', '.join(SHELVES)}. "
                "The shipped causes are used."
            )
    try:
        shipped().with_own(patch)
    except ValidationError as wrong:
        fault = wrong.errors(include_url=False)[0]
        where = [str(step) for step in fault["loc"]]
        message = fault["msg"].removeprefix("Value error, ").removeprefix("Input ")
        if not where:  # told by the whole catalogue, with the field in its words
            where = message.split(":")[0].split(".")
        line = _line_of(text, where)
        raise ShopError(
            f"{path.name}, line {line}, {'.'.join(where)}: {message}. "
            "Correct it; until then the shipped causes are used."
        ) from None
    return patch


def _line_of(text: str, where: list[str]) -> int:
    """The line in which a field stands: below its table's head, as far as its names are found in order."""
    line, lines = 0, text.splitlines()
    for name in where:
        word = re.compile(rf"(?<!\w){re.escape(name)}(?!\w)")
        here = [n for n in range(line, len(lines)) if not lines[n].lstrip().startswith("#") and word.search(lines[n])]
        line = here[0] if here else line
    return line + 1
