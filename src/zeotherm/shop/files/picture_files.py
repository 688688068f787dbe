"""Thermal pictures from files: tables of temperatures, 16-bit grey pictures, and false-colour ones by their own bar."""

from __future__ import annotations

import io
import math
import re
import warnings
from contextlib import suppress
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
import numpy.typing as npt

from zeotherm.core.machine.measured import LEAST_EMISSIVITY, MOST_CELLS, Picture
from zeotherm.core.runs.thermal_picture import ThermalPicture
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files.number_style import MISSING
from zeotherm.shop.files.reading import Cancelled, content_of, never, text_of
from zeotherm.shop.files.tables import COMMENTS, SEPARATORS, number

if TYPE_CHECKING:
    from PIL import Image

Array = npt.NDArray[np.float64]
LARGEST = 60_000_000  # bytes
MOST_PIXELS = 12_000_000
LEAST_SIDE, LONGEST_SIDE = 3, 6000
IMAGES = {b"\x89PNG": "PNG", b"II*\x00": "TIFF", b"MM\x00*": "TIFF", b"\xff\xd8\xff": "JPEG", b"BM": "BMP"}
PLAIN = re.compile(r"[-+.\d\s]+", re.ASCII)  # numbers without words, exponents, quotes or commas
OVER = {"ol", "over", "+ol", "-ol", "sat", "inf", "+inf", "-inf", "****"}
FULL = 65535
COLDEST, HOTTEST = -80.0, 1500.0  # °C that a camera may show
SCALE = re.compile(r"(gain|offset|low|high)\s*[=:]\s*(-?\d+(?:\.\d+)?(?:e[+-]?\d+)?)", re.IGNORECASE)
NUMBER = re.compile(r"-?\d+(\.\d+)?")
REGION = re.compile(r"region\s+([^:\n]{1,40}):\s*(\d+(?:\.\d+)?(?:\s+\d+(?:\.\d+)?){3})\s*$", re.MULTILINE)
MOST_STRANGE = 0.6  # of a picture that no colour of its bar fits
STRANGE = 26.0  # distance in 8-bit colour beyond which no colour of the bar fits
ALIKE, FAR = 9.0, 0.12  # colours this near, at places of the bar this share apart, cannot be told apart
BAR_ALIKE, BAR_APART = 8.0, 25.0  # colour distance within a bar, and to what is beside it
COARSE = 10  # rows between two looks along a bar
SMOOTH, LEAST_PATH = 26.0, 230.0  # largest step along a bar, and least way through colour
Box = tuple[int, int, int, int]


@dataclass(frozen=True, slots=True)
class PictureScale:
    """What a picture's values mean: °C = counts x gain + offset, or the ends of a colour bar, or nothing stated."""

    gain: float | None = None
    offset: float = 0.0
    low: float | None = None  # °C at the bar's cold end, or at count zero
    high: float | None = None
    bar: Box | None = None  # where the bar is [pixels]; None: it is looked for
    unit: str = ""  # of a table: c, f or k; nothing: as its head says, else c


class NoScaleError(ShopError):
    """A picture whose values mean nothing without a scale."""


def read_picture(path: Path, scale: PictureScale | None = None, cancelled: Cancelled = never) -> ThermalPicture:
    """A thermal picture from a file. Raises ShopError, and NoScaleError where a scale is to be typed."""
    scale = scale or PictureScale()
    name = path.name or str(path)
    data = content_of(path, LARGEST, cancelled)
    kind = next((kind for start, kind in IMAGES.items() if data.startswith(start)), None)
    if kind is None:
        return _from_table(text_of(path, LARGEST, cancelled), name, scale.unit)
    return _from_image(_opened(data, name), name, scale)


def _from_table(text: str, name: str, unit: str) -> ThermalPicture:
    """A matrix of temperatures; lines before it are its head."""
    rows: list[list[float]] = []
    head: list[str] = []
    over = 0
    for at, line in enumerate(text.splitlines(), start=1):
        if not line.strip() or line.lstrip().startswith(COMMENTS):
            head.append(line)
            continue
        cells = line.rstrip(";,\t ").split(_mark(line))
        if rows and len(cells) != len(rows[0]):
            raise ShopError(f"{name}, line {at}: {len(cells)} cells where the lines before have {len(rows[0])}.")
        values, beyond = _row(cells)
        if values is None:
            if rows:
                raise ShopError(f"{name}, line {at}: not all of its cells are temperatures. Export the matrix again.")
            head.append(line)
            continue
        over += beyond
        rows.append(values)
        if len(rows) > LONGEST_SIDE or len(values) > LONGEST_SIDE:
            raise ShopError(f"{name} is larger than {LONGEST_SIDE} pixels a side. Export a smaller matrix.")
    if len(rows) < LEAST_SIDE or len(rows[0]) < LEAST_SIDE:
        raise ShopError(f"{name} holds no matrix of temperatures. Export the picture as CSV, a row a line.")
    unit = unit or _unit_of(head)
    rows, _gone = _without_index(rows)
    field = np.array(rows)
    field = (field - 32.0) / 1.8 if unit == "f" else field - 273.15 if unit == "k" else field
    label = next((line.partition("label:")[2].strip() for line in head if "label:" in line), "")
    surface = [_stated(head, word) for word in ("emissivity", "mirrors")]
    return replace(
        _sound(field, over, 0, name), label=label, regions=_stated_regions(head), emissivity=surface[0],
        reflected_c=surface[1],
    )  # fmt: skip


def _stated(head: list[str], word: str) -> float | None:
    """A number that the lines before a matrix state: '# emissivity: 0.92'."""
    for line in head:
        name, _colon, text = line.strip("# ").partition(":")
        if name.strip() == word and NUMBER.fullmatch(text.strip()):
            return float(text)
    return None


def _stated_regions(head: list[str]) -> dict[str, tuple[float, ...]]:
    """Regions that the lines before a matrix name: '# region bed: 8 8 92 90', in % from the left and the top."""
    found: dict[str, tuple[float, ...]] = {}
    for name, text in REGION.findall("\n".join(head)):
        left, top, right, bottom = (min(float(one) / 100.0, 1.0) for one in text.split())
        if left < right and top < bottom:
            found[name.strip()] = (left, top, right, bottom)
    return found


def _mark(line: str) -> str | None:
    return next((mark for mark in SEPARATORS if mark in line), None)


def _row(cells: list[str]) -> tuple[list[float] | None, int]:
    """The cells as temperatures with how many are over range; None where they are words."""
    if len(cells) >= LEAST_SIDE and PLAIN.fullmatch("".join(cells)):  # nearly every row of nearly every file
        with suppress(ValueError):  # an empty cell, or a sign in the wrong place
            plain = [float(cell) for cell in cells]
            if all(map(math.isfinite, plain)):
                return plain, 0
    values, over = [], 0
    for cell in cells:
        word = cell.strip().strip('"').lower()
        value = number(word)
        if word in OVER or word.startswith((">", "<")):
            over += 1
            value = float("nan")
        elif value is None:
            if word not in MISSING:
                return None, 0
            value = float("nan")
        values.append(value)
    known = sum(value == value for value in values)
    return (values, over) if len(values) >= LEAST_SIDE and (known or over) else (None, 0)


UNIT_SAID = re.compile(
    r"(?:\b(?:units?|temperatures?|temp|scale|values?|data)\b[^:=\[(\n]{0,20}[:=\[(]|^\W*[\[(]?)\s*"
    r"(°\s?[fck]|º\s?[fck]|deg(?:rees)?\.?\s?[fck]\b|fahrenheit|celsius|kelvin|[fk](?=\W*$))",
    re.IGNORECASE,
)
WORDY = ("label", "region", "source", "name", "title", "comment", "note", "place", "operator")


def _unit_of(head: list[str]) -> str:
    """The unit that the lines before a matrix state as such: what a label says of temperatures is no unit."""
    for line in head:
        plain = line.strip("#/% ;,\t")
        if plain.lower().startswith(WORDY):
            continue
        found = UNIT_SAID.search(plain)
        if found:
            return next(one for one in "fkc" if one in found.group(1).lower().replace("deg", "").replace("celsius", "c")
                        .replace("kelvin", "k").replace("fahrenheit", "f"))  # fmt: skip
    return "c"


def _without_index(rows: list[list[float]]) -> tuple[list[list[float]], int]:
    """A matrix without a first row or column that only counts its pixels; and how many were left out."""
    field, gone = np.array(rows), 0
    if field.shape[0] > LEAST_SIDE and _counts_up(field[0, 1:]) and not _counts_up(field[1, 1:]):
        field, gone = field[1:], gone + 1
    if field.shape[1] > LEAST_SIDE and _counts_up(field[:, 0]) and not _counts_up(field[:, 1]):
        field, gone = field[:, 1:], gone + 1
    return field.tolist(), gone


def _counts_up(cells: Array) -> bool:
    return bool(cells[0] in (0.0, 1.0) and (np.diff(cells) == 1.0).all())


def _opened(data: bytes, name: str) -> Image.Image:
    from PIL import Image

    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            picture = Image.open(io.BytesIO(data), formats=("PNG", "TIFF", "JPEG", "BMP"))
            width, height = picture.size
            if width * height > MOST_PIXELS:
                raise ShopError(
                    f"{name} has {width} x {height} pixels; up to {MOST_PIXELS / 1e6:.0f} million are read. "
                    "Scale it down."
                )
            picture.load()
    except ShopError:
        raise
    except Image.DecompressionBombError:
        raise ShopError(f"{name} says it has over a hundred million pixels. Scale it down.") from None
    except Exception as wrong:  # the library raises whatever its decoders do
        raise ShopError(f"{name} is damaged or no picture: {str(wrong)[:80]}. Export it again.") from None
    if min(picture.size) < LEAST_SIDE:
        raise ShopError(f"{name} has {picture.size[0]} x {picture.size[1]} pixels; that is no picture of a part.")
    return picture


def _from_image(picture: Image.Image, name: str, scale: PictureScale) -> ThermalPicture:
    if picture.mode == "F":
        return _sound(np.array(picture, dtype=np.float64), 0, 0, name)
    if picture.mode.startswith("I"):
        return _from_counts(picture, name, scale)
    if picture.mode == "L" or picture.mode == "1":
        raise NoScaleError(
            f"{name} is grey with 8 bits: 256 steps, its scale lost. Export 16 bits or the matrix, or a false-colour "
            "picture with its bar."
        )
    if scale.low is None or scale.high is None:
        raise NoScaleError(f"{name} is a false-colour picture. Type what its bar says at its cold and its hot end.")
    if not scale.high > scale.low:
        raise ShopError(f"{name}: the bar runs from {scale.low:g} to {scale.high:g} °C; the hot end must be higher.")
    return _from_colours(np.array(picture.convert("RGB"), dtype=np.float64), name, scale)


def _from_counts(picture: Image.Image, name: str, scale: PictureScale) -> ThermalPicture:
    counts = np.array(picture, dtype=np.float64)
    gain, offset = scale.gain, scale.offset
    if gain is None and scale.low is not None and scale.high is not None:
        gain, offset = (scale.high - scale.low) / FULL, scale.low
    if gain is None:
        gain, offset = _stated_scale(picture)
    if gain is None:
        raise NoScaleError(f"{name} holds counts. Type what they mean: gain and offset, such as 0.01 and -273.15.")
    beyond = (counts >= FULL) | (counts <= 0)
    return _sound(np.where(beyond, np.nan, counts * gain + offset), int(beyond.sum()), 0, name)


def _stated_scale(picture: Image.Image) -> tuple[float | None, float]:
    """Gain and offset from the picture's own text: 'gain=0.01 offset=-273.15' or 'low=20 high=120'."""
    info: dict[Any, Any] = dict(picture.info)
    exif = picture.getexif() if hasattr(picture, "getexif") else {}
    words = " ".join([*(f"{key}={value}" for key, value in info.items() if isinstance(value, str)),
                      str(exif.get(270, ""))])  # fmt: skip
    told = {key.lower(): float(value) for key, value in SCALE.findall(words)}
    if "gain" in told:
        return told["gain"], told.get("offset", 0.0)
    if "low" in told and "high" in told:
        return (told["high"] - told["low"]) / FULL, told["low"]
    return None, 0.0


def _from_colours(pixels: Array, name: str, scale: PictureScale) -> ThermalPicture:
    from scipy.spatial import cKDTree

    assert scale.low is not None
    assert scale.high is not None
    box = scale.bar or find_bar(pixels)
    if box is None:
        raise NoScaleError(f"{name}: no colour bar was found. Mark where it is: left, top, right, bottom in pixels.")
    left, top, right, bottom = box
    rows, columns, _three = pixels.shape
    if not (0 <= left < right <= columns and 0 <= top < bottom <= rows):
        raise ShopError(f"{name}: the bar {left},{top} to {right},{bottom} lies outside {columns} x {rows} pixels.")
    bar = pixels[top:bottom, left:right]
    upright = bottom - top >= right - left
    colours = np.median(bar, axis=1)[::-1] if upright else np.median(bar, axis=0)  # from cold to hot
    if len(colours) < 12:
        raise ShopError(f"{name}: the bar is only {len(colours)} pixels long. Export a larger picture.")
    tree = cKDTree(colours)
    apart, at = tree.query(pixels.reshape(-1, 3))
    apart, at = apart.reshape(rows, columns), at.reshape(rows, columns)
    strange = (apart > STRANGE) | _ambiguous(colours)[at]
    margin = max(1, round(0.012 * len(colours)))
    beyond = ((at >= len(colours) - margin) | (at < margin)) & ~strange
    around = np.zeros((rows, columns), dtype=bool)
    around[max(0, top - 4) : bottom + 4, max(0, left - 4) : right + 4] = True
    unlike = float((strange & ~around).mean())
    if unlike > MOST_STRANGE:
        raise NoScaleError(
            f"{name}: {100 * unlike:.0f} % of its colours are not on its bar. Is it a thermal picture? "
            "Mark where the bar is: left, top, right, bottom in pixels."
        )
    field = scale.low + (at + 0.5) / len(colours) * (scale.high - scale.low)
    field = np.where(strange | beyond | around, np.nan, field)
    return _sound(field, int((beyond & ~around).sum()), int((strange & ~around).sum()), name)


def _ambiguous(colours: Array) -> npt.NDArray[np.bool_]:
    """Which colours of a bar also stand elsewhere on it."""
    far = np.abs(np.arange(len(colours))[:, None] - np.arange(len(colours))[None, :]) > FAR * len(colours)
    near = np.linalg.norm(colours[:, None, :] - colours[None, :, :], axis=2) < ALIKE
    return np.asarray((far & near).any(axis=1))


def find_bar(pixels: Array) -> Box | None:
    """The colour bar of a false-colour picture: a strip at a side along which colour runs smoothly a long way."""
    upright = _upright_bar(pixels)
    if upright is not None:
        return upright
    lying = _upright_bar(np.transpose(pixels, (1, 0, 2)))
    return (lying[1], lying[0], lying[3], lying[2]) if lying is not None else None


def _upright_bar(pixels: Array) -> Box | None:
    columns = pixels.shape[1]
    side = max(4, columns // 5)
    best: tuple[float, Box] | None = None
    for begin, end in ((columns - side, columns), (0, side)):
        runs = [_run(pixels[:, x]) for x in range(begin, end)]
        x = begin
        while x < end:
            first = runs[x - begin]
            stop = x + 1
            while stop < end and _same_run(first, runs[stop - begin]):
                stop += 1
            wide = first is not None and stop - x >= 3 and (best is None or first[2] * (stop - x) > best[0])
            if wide and first is not None and _stands_apart(pixels, x, stop, first):
                best = (first[2] * (stop - x), (x, first[0], stop, first[1]))
            x = stop
    return best[1] if best is not None else None


def _stands_apart(pixels: Array, left: int, right: int, run: tuple[int, int, float]) -> bool:
    """Whether columns are alike among themselves and unlike what is beside them: a bar, no part of the picture."""
    rows = slice(run[0], run[1])
    middle = pixels[rows, (left + right) // 2]
    inside = np.linalg.norm(pixels[rows, left + 1 : right - 1] - middle[:, None, :], axis=2)
    beside = [x for x in (left - 2, right + 1) if 0 <= x < pixels.shape[1]]
    outside = [np.linalg.norm(pixels[rows, x] - middle, axis=1).mean() for x in beside]
    return bool((inside.size == 0 or inside.mean() < BAR_ALIKE) and min(outside, default=np.inf) > BAR_APART)


def _run(column: Array) -> tuple[int, int, float] | None:
    """The longest smooth run of colour in a column: begin, end, way through colour; None where there is no bar."""
    steps = np.linalg.norm(np.diff(column, axis=0), axis=1)
    breaks = np.concatenate([[-1], np.flatnonzero(steps > SMOOTH), [len(steps)]])
    at = int(np.argmax(np.diff(breaks)))
    begin, end = int(breaks[at]) + 1, int(breaks[at + 1]) + 1
    coarse = column[begin:end:COARSE]  # so that the noise of an even ground is no way
    way = float(np.linalg.norm(np.diff(coarse, axis=0), axis=1).sum())
    return (begin, end, way) if end - begin >= 0.3 * len(column) and way > LEAST_PATH else None


def _same_run(one: tuple[int, int, float] | None, other: tuple[int, int, float] | None) -> bool:
    return one is not None and other is not None and abs(one[0] - other[0]) <= 1 and abs(one[1] - other[1]) <= 1


def _sound(field: Array, over: int, strange: int, name: str) -> ThermalPicture:
    field = np.where(np.isinf(field), np.nan, field)
    known = field[np.isfinite(field)]
    if not len(known):
        raise ShopError(f"{name}: not one pixel has a temperature. Check the scale.")
    if known.max() > HOTTEST or known.min() < COLDEST:
        raise ShopError(
            f"{name}: its pixels run from {known.min():.0f} to {known.max():.0f} °C, beyond any camera. "
            "Check the scale."
        )
    return ThermalPicture(field, over, strange)


def as_document(picture: ThermalPicture, name: str) -> Picture:
    """What a job keeps of a picture, its full pixels left out."""
    rows, columns = picture.apparent.shape
    every = 1
    while -(-rows // every) * -(-columns // every) > MOST_CELLS:
        every += 1
    small = _averaged(picture.apparent, every)
    cells = [[round(value, 2) if value == value else None for value in row] for row in small.tolist()]
    stated = {name: list(box) for name, box in (picture.regions or {}).items()}
    surface = {"emissivity": picture.emissivity, "reflected_c": picture.reflected_c}
    known = {key: value for key, value in surface.items() if value is not None}
    if not LEAST_EMISSIVITY <= known.get("emissivity", 1.0) <= 1.0:
        known = {}
    return Picture(
        **known, label=(picture.label or Path(name).stem)[:60] or "picture", source=name[:200], width=columns,
        height=rows,
        over_range=picture.over_range, unreadable=picture.unreadable, cells=cells,
        regions=stated or {"picture": [0.0, 0.0, 1.0, 1.0]},
    )  # fmt: skip


def _averaged(field: Array, every: int) -> Array:
    """Means over squares, cut at the far edges; nan where a square has nothing."""
    if every == 1:
        return field
    rows, columns = -(-field.shape[0] // every), -(-field.shape[1] // every)
    padded = np.full((rows * every, columns * every), np.nan)
    padded[: field.shape[0], : field.shape[1]] = field
    blocks = padded.reshape(rows, every, columns, every).swapaxes(1, 2).reshape(rows, columns, -1)
    known = np.isfinite(blocks)
    count = known.sum(2)
    with np.errstate(invalid="ignore"):
        return np.where(count > 0, np.where(known, blocks, 0.0).sum(2) / np.maximum(count, 1), np.nan)
