"""Thermal pictures in words."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
import numpy.typing as npt

from zeotherm.core.runs.thermal_picture import Box, Spread, ThermalPicture, corrected, regions_of, spread_changes
from zeotherm.wording import numbers
from zeotherm.wording.language import _
from zeotherm.wording.power import PARTS

CAMERA_K = 2.0  # 95 % half-width of a usual camera
SHINY = 0.6
JOINTS = {label.lower() for label in PARTS.values()}


def region(name: str, found: Spread) -> str:
    """The figures of one region; of a joint its warmest spot, which tells its milliohms."""
    if name.lower() in JOINTS:
        return _("{name}: warmest {high} ± {half} °C, mean {mean}; see Explain, Power").format(
            name=name, high=numbers.plain(found.highest), half=numbers.plain(found.mean.half),
            mean=numbers.plain(found.mean.value),
        )  # fmt: skip
    text = _(
        "{name}: mean {mean} ± {half} °C, {low} to {high}; "
        "below the centre: edge {apart} ± {doubt} K, coldest corner {corner} K"
    ).format(
        name=name, mean=numbers.plain(found.mean.value), half=numbers.plain(found.mean.half),
        low=numbers.plain(found.lowest), high=numbers.plain(found.highest),
        apart=numbers.plain(found.below_centre.value), doubt=numbers.plain(found.below_centre.half),
        corner=numbers.plain(found.corner.value),
    )  # fmt: skip
    if found.share_known < 0.995:
        text += "; " + _("{share} of it left out").format(share=numbers.share(1.0 - found.share_known))
    return text


def left_out(picture: ThermalPicture) -> str:
    """What of a picture was not used; nothing where all of it was."""
    parts = []
    if picture.over_range:
        parts.append(_("{count} pixels over range").format(count=picture.over_range))
    if picture.unreadable:
        parts.append(_("{count} pixels that no colour of the scale fits").format(count=picture.unreadable))
    return _("Left out: {parts}").format(parts=", ".join(parts)) if parts else ""


def spread_changed(name: str, before: Spread, after: Spread) -> list[str]:
    """How the falls to the edge and to the coldest corner changed, and whether that is real."""
    lines = []
    for part, one in zip((_("edge"), _("coldest corner")), spread_changes(before, after), strict=True):
        lines.append(
            _("{name}, {part} below centre: {value} ± {half} K: {real}").format(
                name=name, part=part, value=numbers.signed(one.value, "K").removesuffix(" K"),
                half=numbers.plain(one.half), real=_("yes") if one.real else _("too close to call"),
            )
        )  # fmt: skip
    return lines


def against_model(by: npt.NDArray[np.float64]) -> str:
    """How a picture stands to the computed face, pixel by pixel [K]."""
    known = by[np.isfinite(by)]
    if not len(known):
        return _("nothing to hold against it")
    low, high = np.percentile(known, (2.5, 97.5))
    return _("camera less model: {mean} in the mean, {low} to {high} over 95 % of the face").format(
        mean=numbers.signed(float(known.mean()), "K"), low=numbers.signed(float(low), "K"),
        high=numbers.signed(float(high), "K"),
    )  # fmt: skip


def caution(emissivity: float) -> str:
    """What a shiny surface does to a reading; nothing for a matt one."""
    if emissivity >= SHINY:
        return ""
    return _("A surface of {emissivity} shows mostly its surroundings: tape or paint the spot matt.").format(
        emissivity=numbers.plain(emissivity, 2)
    )


def of_pictures(
    pictures: Sequence[ThermalPicture], names: Sequence[str], emissivity: float, reflected_c: float, camera_at: float,
    shares: Mapping[str, Sequence[float]],
) -> list[str]:  # fmt: skip
    """Lines that tell pictures and, of two, what changed. Raises ValueError for an emissivity that cannot be."""
    lines: list[str] = []
    found: list[dict[str, Spread]] = []
    for picture, name in zip(pictures, names, strict=True):
        field = corrected(
            ThermalPicture(picture.apparent, picture.over_range, picture.unreadable, camera_at), emissivity, reflected_c
        )
        boxes = {key: boxed(share, field.shape) for key, share in (shares or {"picture": (0, 0, 1, 1)}).items()}
        found.append(regions_of(boxes, field, CAMERA_K))
        lines.append(name)
        lines += [f"  {region(key, one)}" for key, one in found[-1].items()]
        lines += [f"  {text}" for text in (left_out(picture), caution(emissivity)) if text]
    if len(found) > 1:
        shared = [key for key in found[0] if key in found[-1]]
        lines += [line for key in shared for line in spread_changed(key, found[0][key], found[-1][key])]
    return lines


def boxed(share: Sequence[float], shape: tuple[int, ...]) -> Box:
    """A region given in shares of width and height, in pixels; at least one."""
    rows, columns = shape[0], shape[1]
    left, top, right, bottom = share
    x, y = int(left * columns), int(top * rows)
    return x, y, max(x + 1, round(right * columns)), max(y + 1, round(bottom * rows))
