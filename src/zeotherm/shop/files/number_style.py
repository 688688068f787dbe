"""How a file writes its numbers: its decimal mark and what groups thousands, found from all that it holds, or asked."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from zeotherm.shop.files.asking import FileQuestion, unsure

MISSING = {"", "-", "--", "---", "nan", "n/a", "n.a.", "na", "#n/a", "null", "none", "err", "error", "open", "ol", "oL",
           "unavailable", "unknown", "fault", "*", "?", "nil"}  # fmt: skip
GROUPS = "'\u2019 \u00a0\u202f\u2009"  # that group thousands beside point and comma
PLAIN = re.compile(r"[-+\u2212]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][-+]?\d+)?")
MARKED = re.compile(r"[-+\u2212]?\d{1,3}(?:[.,'\u2019 \u00a0\u202f\u2009]\d{3})+(?:[.,]\d+)?")
GROUPED = {mark: re.compile(rf"[-+\u2212]?\d{{1,3}}(?:{re.escape(mark)}\d{{3}})+") for mark in ".,"}
LEAST_WHOLE = 100.0  # from which a number without a mark beside marked ones makes its marks doubtful


@dataclass(frozen=True, slots=True)
class Style:
    """A decimal mark, and whether the other one groups thousands."""

    decimal: str = "."
    grouped: bool = False

    @property
    def group(self) -> str:
        """The mark that may group thousands."""
        return "," if self.decimal == "." else "."

    def number(self, text: str) -> float | None:
        """A number so written; None for anything else, infinite ones included."""
        cleaned = text.strip().strip('"').strip().replace("\N{MINUS SIGN}", "-")
        if "_" in cleaned:
            return None
        if any(mark in cleaned for mark in GROUPS):
            if not MARKED.fullmatch(cleaned):
                return None
            cleaned = "".join(one for one in cleaned if one not in GROUPS)
        if self.group in cleaned:
            whole, mark, rest = cleaned.partition(self.decimal)
            if not self.grouped or not GROUPED[self.group].fullmatch(whole):
                return None
            cleaned = whole.replace(self.group, "") + mark + rest
        cleaned = cleaned.replace(self.decimal, ".") if self.decimal != "." else cleaned
        if not cleaned.isascii():
            return None
        try:
            value = float(cleaned)
        except ValueError:
            return None
        return value if math.isfinite(value) and len(cleaned) < 60 else None


def style_of(columns: Mapping[str, Iterable[str]], name: str, answers: Mapping[str, str]) -> Style:
    """How the numbers of these cells are written, by title. Raises UnsureError where it cannot be told."""
    told = answers.get("numbers")
    if told in (".", ","):
        return Style(told, grouped=True)
    sure: dict[str, str] = {}  # decimal mark that is certain, and a cell that shows it
    doubtful: dict[str, tuple[str, str]] = {}  # mark that may group thousands or part decimals: title, cell
    for title, cells in columns.items():
        seen = [one for one in cells if "." in one or "," in one]
        whole = [one for one in cells if one.isascii() and one.isdecimal() and float(one[:30]) >= LEAST_WHOLE]
        for cell in seen:
            text = cell.strip().strip('"').strip().replace("\N{MINUS SIGN}", "-")
            if not (PLAIN.fullmatch(text) or MARKED.fullmatch(text)):
                continue
            _look_at(text, title, bool(whole), sure, doubtful)
    if len(sure) > 1:
        both = " and ".join(f"'{cell}'" for cell in sure.values())
        raise unsure(
            name, "numbers", _question(f"{both} cannot both be right.", next(iter(doubtful.values()), ("", "1.234"))[1])
        )
    if sure:
        decimal = next(iter(sure))
        return Style(decimal, grouped=True)
    for title, cell in doubtful.values():
        raise unsure(name, title, _question(f"'{cell}' can be read in two ways:", cell))
    return Style()


def _look_at(
    text: str, title: str, whole: bool, sure: dict[str, str], doubtful: dict[str, tuple[str, str]]
) -> None:  # fmt: skip
    point, comma = text.rfind("."), text.rfind(",")
    if point >= 0 and comma >= 0:
        sure.setdefault("." if point > comma else ",", text)
        return
    mark = "." if point >= 0 else ","
    if text.count(mark) > 1:
        sure.setdefault("," if mark == "." else ".", text)  # it groups, so the other one is the decimal mark
    elif not GROUPED[mark].fullmatch(text):
        sure.setdefault(mark, text)
    elif mark == "," or whole:
        doubtful.setdefault(mark, (title, text))
    # three digits behind a single point, and no larger whole number beside it: a decimal point, as it mostly is


def _question(asked: str, cell: str) -> FileQuestion:
    digits = re.sub(r"[.,]", "", cell)
    at = max(cell.rfind("."), cell.rfind(","))
    parted = f"{cell[:at]}.{cell[at + 1 :]}".replace(",", "") if at > 0 else cell
    mark = cell[at] if at > 0 else "."
    other = "," if mark == "." else "."
    return FileQuestion(
        "numbers", asked, ((mark, f"the mark parts decimals, {parted}"), (other, f"it groups thousands, {digits}"))
    )
