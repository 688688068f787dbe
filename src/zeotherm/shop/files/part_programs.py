"""Part programs from files."""

from __future__ import annotations

import hashlib
from pathlib import Path

from zeotherm.core.runs.part_program import Program, lines_of, read_program
from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files.reading import Cancelled, never, text_of

LARGEST = 300_000_000  # bytes
ENDINGS = (".gcode", ".gco", ".g", ".nc")


def read_part_program(path: Path, cancelled: Cancelled = never, diameter_mm: float = 1.75) -> Program:
    """What a part program asks for. Raises ShopError for what is no program, or CancelledError."""
    name = path.name or str(path)
    text = text_of(path, LARGEST, cancelled)
    digest = hashlib.sha256(text.encode("utf-8", errors="surrogatepass")).hexdigest()
    try:
        program = read_program(lines_of(text), digest, diameter_mm, cancelled)
    except (ValueError, OverflowError) as wrong:
        raise ShopError(f"{name} is no part program: {wrong}. Choose plain G-code.") from None
    if cancelled():
        raise CancelledError
    return program
