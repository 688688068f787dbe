"""Numbers as a bench reads them: real minus, space before the unit, one decimal for K and mm."""

from __future__ import annotations

from zeotherm.core.judgement.bands import Band
from zeotherm.wording.language import _

MINUS = "\N{MINUS SIGN}"
DECIMALS = {
    "°C": 1,
    "K": 1,
    "mm": 1,
    "mm³": 1,
    "V": 1,
    "W": 1,
    "%": 0,
    "mm³/s": 1,
    "kPa": 1,
    "x": 2,
    "min": 0,
    "1/min": 0,
}


def plain(value: float, decimals: int = 1) -> str:
    """A number with a real minus; minus zero is zero."""
    text = f"{value:.{decimals}f}" if abs(value) < 1e7 else f"{value:.3g}"
    if float(text) == 0.0:
        text = text.lstrip("-")
    return text.replace("-", MINUS)


def with_unit(value: float | None, unit: str, decimals: int | None = None) -> str:
    """A number and its unit, or a word for an unknown one."""
    if value is None:
        return "not known"
    if unit == "h":
        return clock(value)
    places = DECIMALS.get(unit, 1) if decimals is None else decimals
    return plain(value, places) if unit in ("", "x") else f"{plain(value, places)} {unit}"


def signed(value: float, unit: str) -> str:
    """A difference with its sign."""
    text = with_unit(value, unit)
    return text if value < 0 else f"+{text}"


def clock(hours: float) -> str:
    """A clock time: '12:50'; past midnight it begins again."""
    minutes = round(hours * 60.0) % (24 * 60)
    return f"{minutes // 60}:{minutes % 60:02d}"


def share(value: float) -> str:
    """A probability, no surer than the model can be."""
    if value > 0.985:
        return _("over 98 %")
    return f"{round(value * 100)} %" if value >= 0.015 else _("under 2 %")


def difference_unit(unit: str) -> str:
    """The unit of a difference of two values."""
    return "K" if unit == "°C" else unit


def band(width: Band, unit: str) -> str:
    """A 95 % band: ± when even, two signs when not."""
    widest = max(width.up, width.down)
    places = 2 if unit == "mm" and widest < 0.1 else 0 if widest >= 20 else DECIMALS.get(unit, 1)
    if width.even:
        return f"±{plain(max(width.up, width.down), places)} {unit}"
    return f"+{plain(width.up, places)}/{MINUS}{plain(width.down, places)} {unit}"


def give_or_take(value: float, half: float, unit: str, decimals: int = 0) -> str:
    """A number with its 95 % half-width; alone where that is nothing."""
    if float(f"{half:.{decimals}f}") <= 0.0:
        return with_unit(value, unit, decimals)
    return f"{plain(value, decimals)} ±{plain(half, decimals)}{unit and ' ' + unit}"


def ohms(value: float | None) -> str:
    """A resistance."""
    if value is None:
        return "–"
    for size, unit in ((1e6, "MΩ"), (1e3, "kΩ")):
        if value >= size:
            return f"{value / size:.3g} {unit}"
    return f"{value:.3g} Ω"
