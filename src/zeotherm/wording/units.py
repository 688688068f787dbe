"""Reading a number and its unit as people type them."""

from __future__ import annotations

import re
from collections.abc import Callable

from zeotherm.core.physics.wiring import gauge_area

Convert = Callable[[float], float]
# unit as typed -> (unit of the documents, conversion)
UNITS: dict[str, tuple[str, Convert]] = {
    "°c": ("°C", lambda v: v), "c": ("°C", lambda v: v), "degc": ("°C", lambda v: v), "°": ("°C", lambda v: v),
    "°f": ("°C", lambda v: (v - 32.0) / 1.8), "f": ("°C", lambda v: (v - 32.0) / 1.8),
    "k": ("K", lambda v: v),
    "v": ("V", lambda v: v), "mv": ("V", lambda v: v / 1e3),
    "a": ("A", lambda v: v), "ma": ("A", lambda v: v / 1e3),
    "w": ("W", lambda v: v), "kw": ("W", lambda v: v * 1e3),
    "mm": ("mm", lambda v: v), "um": ("mm", lambda v: v / 1e3), "µm": ("mm", lambda v: v / 1e3),
    "cm": ("mm", lambda v: v * 10.0), "in": ("mm", lambda v: v * 25.4),
    "mm3/s": ("mm³/s", lambda v: v), "mm³/s": ("mm³/s", lambda v: v), "mm^3/s": ("mm³/s", lambda v: v),
    "m3/h": ("m³/h", lambda v: v), "m³/h": ("m³/h", lambda v: v), "ft3/min": ("m³/h", lambda v: v * 1.699),
    "%": ("%", lambda v: v), "pct": ("%", lambda v: v),
    "kpa": ("kPa", lambda v: v), "hpa": ("kPa", lambda v: v / 10.0), "mbar": ("kPa", lambda v: v / 10.0),
    "x": ("x", lambda v: v),
    "mm2": ("mm²", lambda v: v), "mm²": ("mm²", lambda v: v), "mm^2": ("mm²", lambda v: v),
    "awg": ("mm²", lambda v: 1e6 * gauge_area(v)), "gauge": ("mm²", lambda v: 1e6 * gauge_area(v)),
    "m": ("m", lambda v: v),
    "mohm": ("mΩ", lambda v: v), "mω": ("mΩ", lambda v: v), "ohm": ("mΩ", lambda v: v * 1e3),
    "pc": ("pc", lambda v: v), "years": ("years", lambda v: v), "y": ("years", lambda v: v),
    "min": ("min", lambda v: v), "minutes": ("min", lambda v: v), "s": ("min", lambda v: v / 60.0),
    "h": ("min", lambda v: v * 60.0), "hours": ("min", lambda v: v * 60.0),
    "o'clock": ("h", lambda v: v), "1/min": ("1/min", lambda v: v), "/min": ("1/min", lambda v: v),
}  # fmt: skip
KINDS = {
    "°C": "a temperature", "K": "a difference of temperature", "V": "a voltage", "A": "a current", "W": "a power",
    "mm": "a length", "mm³/s": "a flow", "m³/h": "a flow of air", "%": "a share", "kPa": "a pressure", "x": "a factor",
    "mm²": "a cross-section", "m": "a length", "mΩ": "a resistance", "pc": "a number of pieces", "years": "an age",
    "min": "a length of time", "h": "a clock time", "1/min": "a rate",
}  # fmt: skip

LENGTHS = {("mm", "m"): 1e-3, ("m", "mm"): 1e3}  # that may stand for each other
NUMBER = re.compile(r"[+\-\N{MINUS SIGN}]?(?:\d[\d.,' \N{NO-BREAK SPACE}]*\d|\d)(?:[eE][+\-]?\d+)?|[+\-]?[.,]\d+")


class NotANumberError(ValueError):
    """Text that is no number, or could be two."""


def read_number(text: str) -> float:
    """A number with a decimal point or comma.

    Marks that could group thousands as well as part decimals are refused. Raises NotANumberError with what to do.

    >>> read_number("9,1"), read_number("9.1")
    (9.1, 9.1)
    """
    cleaned = text.strip().replace("\N{MINUS SIGN}", "-")
    if re.search(r"[' \N{NO-BREAK SPACE}]", cleaned):
        raise NotANumberError(f"'{text.strip()}' has a gap in it. Type it without marks between thousands.")
    marks = re.findall(r"[.,]", cleaned)
    if len(marks) > 1 or (len(marks) == 1 and re.fullmatch(r"[+\-]?[1-9]\d{0,2}[.,]\d{3}", cleaned)):
        digits = re.sub(r"[.,]", "", cleaned)
        whole, decimal = digits, re.sub(r"[.,]", ".", cleaned, count=1)
        hint = f" Type {whole} or {decimal.rstrip('0')}." if len(marks) == 1 else f" Type {whole}."
        raise NotANumberError(f"'{cleaned}' could be two numbers.{hint}")
    try:
        value = float(cleaned.replace(",", "."))
    except ValueError:
        raise NotANumberError(f"'{text.strip()}' is no number.") from None
    if value in (float("inf"), float("-inf")) or value != value:
        raise NotANumberError(f"'{text.strip()}' is too large.")
    return value


def convert(value: float, typed: str, wanted: str) -> float:
    """A value in the wanted unit; raises NotANumberError where the typed unit measures something else.

    K on a °C field is not converted here: it is a difference, see `zeotherm.wording.entry`.
    """
    if not typed or typed.lower() == wanted.lower():
        return value
    known = UNITS.get(typed.lower())
    if known is None:
        near = ", ".join(sorted({unit for unit, _ in UNITS.values()}))
        raise NotANumberError(f"'{typed}' is no unit known here. Known: {near}.")
    unit, scale = known
    if (unit, wanted) in LENGTHS:
        return LENGTHS[unit, wanted] * scale(value)
    if unit != wanted:
        raise NotANumberError(f"{typed} is {KINDS[unit]}; this wants {KINDS.get(wanted, wanted)} in {wanted}.")
    try:
        return scale(value)
    except ValueError as wrong:
        raise NotANumberError(f"{wrong}.") from None


def number_in(text: str, wanted: str) -> float:
    """A number with its unit or without, in the wanted unit. Raises NotANumberError.

    >>> number_in("118 F", "°C"), number_in("3 Ω", "Ω")
    (47.77777777777778, 3.0)
    """
    found = NUMBER.match(text.strip())
    if found is None:
        raise NotANumberError(f"'{text.strip()}' is no number.")
    typed = text.strip()[found.end() :].strip()
    return convert(read_number(found.group(0)), typed, wanted)
