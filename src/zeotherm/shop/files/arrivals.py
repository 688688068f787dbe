"""What a file is that somebody drops on the bench: told by what is in it, not by its name."""

from __future__ import annotations

import os
import re
import stat
from enum import Enum
from pathlib import Path

from zeotherm.shop.files.part_programs import ENDINGS
from zeotherm.shop.files.tables import COMMENTS, SEPARATORS, number

LOOKED = 65_536  # bytes
PICTURES = (b"\x89PNG", b"II*\x00", b"MM\x00*", b"\xff\xd8\xff", b"BM")
LEAST_MATRIX = 12  # cells in each of the first lines of a matrix
LOGS = (".csv", ".tsv", ".txt", ".log", ".dat")
CODE = re.compile(r"^\s*(N\d+\s*)?(G0?[0-3]|G28|G9[0-2]|M8[23]|M10[4679])\b", re.IGNORECASE | re.MULTILINE)


class Arrival(Enum):
    """A kind of file."""

    JOB = "job"
    SHELF = "shelf"
    RUN = "run"
    PICTURE = "picture"
    MATRIX = "matrix"
    PROGRAM = "program"
    SOUND = "sound"
    OTHER = "other"


OURS = {"zeotherm-run": Arrival.RUN, "zeotherm-shelf": Arrival.SHELF}  # JSON that says what it is


def kind_of(path: Path) -> Arrival:
    """What a file is by its beginning; one that cannot be looked at counts by its ending, and is refused on reading."""
    ending = path.suffix.lower()
    head = _head(path)
    if head.startswith(b"RIFF"):
        return Arrival.SOUND
    if head.startswith(PICTURES):
        return Arrival.PICTURE
    text = head.decode("utf-8", errors="replace").lstrip("\ufeff")
    if text.lstrip().startswith("{"):
        kinds = (kind for name, kind in OURS.items() if f'"{name}"' in text[:400])
        return next(kinds, Arrival.JOB)
    if ending == ".json":
        return Arrival.JOB
    if ending in ENDINGS or len(CODE.findall(text)) >= 3:
        return Arrival.PROGRAM
    if _is_matrix(text):
        return Arrival.MATRIX
    return Arrival.RUN if ending in LOGS else Arrival.OTHER


def _head(path: Path) -> bytes:
    try:
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK)
    except (OSError, ValueError):
        return b""
    try:
        return os.read(handle, LOOKED) if stat.S_ISREG(os.fstat(handle).st_mode) else b""
    except OSError:
        return b""
    finally:
        os.close(handle)


def _is_matrix(text: str) -> bool:
    """Whether lines of many numbers follow one another, as in a picture and in no log."""
    lines = [line for line in text.splitlines()[:60] if line.strip() and not line.lstrip().startswith(COMMENTS)]
    rows = 0
    for line in lines[:-1]:
        mark = next((mark for mark in SEPARATORS if mark in line), None)
        cells = line.rstrip(";,\t ").split(mark)
        known = sum(number(cell) is not None for cell in cells)
        rows = rows + 1 if len(cells) >= LEAST_MATRIX and known > 0.5 * len(cells) else 0
    return rows >= 3
