"""Thermal pictures: true temperatures from apparent ones, regions, spread, and differences on one scale."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from zeotherm.core.machine.measured import LEAST_EMISSIVITY, Picture
from zeotherm.core.runs.estimates import Change, Estimate, Mean, change

Array = npt.NDArray[np.float64]
ZERO = 273.15
EXPONENT = 4.0
EDGE, CORNER = 0.12, 0.15  # of a region's shorter side that counts as its edge, and as a corner
REPEAT = 0.3  # K by which aim and hold move a spread from picture to picture, standard deviation; an estimate
Box = tuple[int, int, int, int]  # left, top, right, bottom [pixels], right and bottom beyond the last


@dataclass(frozen=True)
class ThermalPicture:
    """Apparent temperatures as the camera gave them; nan where over its range or unreadable."""

    apparent: Array  # (rows, columns) [°C], read with `read_emissivity`
    over_range: int  # pixels that were beyond the camera's scale
    unreadable: int  # pixels that no colour of the scale fits
    read_emissivity: float = 1.0  # what the camera was set to
    read_reflected_c: float = 20.0
    label: str = ""  # that the file states
    regions: Mapping[str, tuple[float, ...]] | None = None  # shares of width and height, that the file states
    emissivity: float | None = None  # of the surface, that the file states
    reflected_c: float | None = None


@dataclass(frozen=True, slots=True)
class Spread:
    """Figures of a region."""

    mean: Estimate
    lowest: float
    highest: float
    below_centre: Estimate  # centre less edge [K]
    corner: Estimate  # centre less the coldest corner [K]
    share_known: float


def corrected(picture: ThermalPicture, emissivity: float, reflected_c: float) -> Array:
    """True temperatures [°C] of a surface of this emissivity that mirrors surroundings of a temperature.

    The camera sees M = e T^4 + (1 - e) Tr^4 (grey surface, air between neglected; Vollmer and Möllmann, Infrared
    Thermal Imaging, 2nd ed., section 2.3; the fourth power over-corrects by less than 1 K up to 150 °C for cameras of
    8 to 14 µm at e > 0.8). What the camera was set to is undone first. Valid for 0.3 <= e <= 1. Raises ValueError
    outside. Cells that would have to be below absolute zero become nan.
    """
    if not LEAST_EMISSIVITY <= emissivity <= 1.0:
        raise ValueError(
            f"An emissivity of {emissivity:g} cannot be read with a camera: it shows the room. "
            f"Tape or paint the spot matt, and use {LEAST_EMISSIVITY:g} to 1."
        )
    seen = picture.read_emissivity * (picture.apparent + ZERO) ** EXPONENT
    seen = seen + (1.0 - picture.read_emissivity) * (picture.read_reflected_c + ZERO) ** EXPONENT
    true = (seen - (1.0 - emissivity) * (reflected_c + ZERO) ** EXPONENT) / emissivity
    with np.errstate(invalid="ignore"):
        return np.asarray(np.where(true > 0.0, np.abs(true) ** (1.0 / EXPONENT) - ZERO, np.nan))


def region(field: Array, box: Box) -> Array:
    """The part of a picture inside a box, cut to the picture; raises ValueError where nothing is left."""
    left, top, right, bottom = box
    rows, columns = field.shape
    part = field[max(0, top) : min(rows, bottom), max(0, left) : min(columns, right)]
    if right <= left or bottom <= top or part.size == 0:
        raise ValueError(
            f"The region {left},{top} to {right},{bottom} lies outside the picture of {columns} x {rows} pixels."
        )
    return part


def spread(part: Array, offset: float, noise: float = 0.1) -> Spread | None:
    """Mean, extremes, and how far the edge lies below the centre; None where nothing is known.

    offset: 95 % half-width of the camera's own error [K], which falls out of differences within a picture; noise: of a
    pixel, standard deviation [K]. Edge: the outer 12 % of the shorter side; corner: a square of 15 % of it; centre: the
    middle third both ways.
    """
    known = np.isfinite(part)
    if not known.any():
        return None
    rows, columns = part.shape
    rim = max(1, round(EDGE * min(rows, columns)))
    inner = np.zeros_like(known)
    inner[rim : rows - rim, rim : columns - rim] = True
    middle = np.zeros_like(known)
    middle[
        rows // 3 : max(rows // 3 + 1, rows - rows // 3), columns // 3 : max(columns // 3 + 1, columns - columns // 3)
    ] = True
    centre, edge = part[middle & known], part[~inner & known]
    size = max(1, round(CORNER * min(rows, columns)))
    corners = [part[y, x] for y in (slice(size), slice(-size, None)) for x in (slice(size), slice(-size, None))]
    told = [corner[np.isfinite(corner)] for corner in corners if np.isfinite(corner).mean() > 0.5]
    coldest = min(told, key=lambda corner: float(corner.mean()), default=edge)
    mean = Estimate(float(part[known].mean()), noise / np.sqrt(known.sum()), offset / 1.96)
    below, corner = _below(centre, edge, noise), _below(centre, coldest, noise)
    return Spread(mean, float(part[known].min()), float(part[known].max()), below, corner, float(known.mean()))


def _below(centre: Array, other: Array, noise: float) -> Estimate:
    """How far the mean of one set of pixels lies below that of the centre [K]; zero where either is empty."""
    if not len(centre) or not len(other):
        return Estimate(0.0, 0.0)
    doubt = float(np.hypot(_of_mean(centre, noise), _of_mean(other, noise)))
    return Estimate(float(centre.mean() - other.mean()), doubt)


def _third(count: int) -> slice:
    return slice(count // 3, max(count // 3 + 1, count - count // 3))


def _of_mean(values: Array, noise: float) -> float:
    """Standard deviation of a mean over pixels: the camera's pattern of a tenth of a kelvin does not average out."""
    return float(np.hypot(noise / np.sqrt(len(values)), 0.1))


def apart(before: Array, after: Array) -> Array:
    """After less before, pixel by pixel, the second drawn to the size of the first by nearest pixels [K]."""
    rows = np.clip((np.arange(before.shape[0]) + 0.5) * after.shape[0] / before.shape[0], 0, after.shape[0] - 1)
    columns = np.clip((np.arange(before.shape[1]) + 0.5) * after.shape[1] / before.shape[1], 0, after.shape[1] - 1)
    return np.asarray(after[np.ix_(rows.astype(int), columns.astype(int))] - before)


def spread_changes(before: Spread, after: Spread, repeat: float = REPEAT) -> tuple[Change, Change]:
    """How much further edge and coldest corner lie below the centre, of one camera. repeat: of aim and hold, sd [K]."""

    def changed(one: Estimate, other: Estimate) -> Change:
        first, last = (
            Mean(Estimate(each.value, float(np.hypot(each.scatter, repeat))), 1, 1.96, None) for each in (one, other)
        )
        return change(first, last)

    return changed(before.below_centre, after.below_centre), changed(before.corner, after.corner)


def regions_of(boxes: Mapping[str, Box], field: Array, offset: float) -> dict[str, Spread]:
    """The figures of each named region that lies in the picture."""
    found = {}
    for name, box in boxes.items():
        try:
            part = region(field, box)
        except ValueError:
            continue
        figures = spread(part, offset)
        if figures is not None:
            found[name] = figures
    return found


def spots_of(document: Picture) -> dict[str, float]:
    """The warmest true temperature of each named region [°C]; none of one outside the picture or without a reading."""
    field = corrected(as_picture(document), document.emissivity, document.reflected_c)
    rows, columns = field.shape
    found = {}
    for name, (left, top, right, bottom) in document.regions.items():
        part = field[int(top * rows) : max(int(np.ceil(bottom * rows)), 1),
                     int(left * columns) : max(int(np.ceil(right * columns)), 1)]  # fmt: skip
        if np.isfinite(part).any():
            found[name] = float(np.nanmax(part))
    return found


def as_picture(document: Picture) -> ThermalPicture:
    """What a job keeps of a picture, as numbers."""
    field = np.array([[np.nan if value is None else value for value in row] for row in document.cells], dtype=float)
    return ThermalPicture(
        field, document.over_range, document.unreadable, document.read_emissivity, document.read_reflected_c
    )
