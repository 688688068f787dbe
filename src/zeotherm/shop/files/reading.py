"""Opening files that come from anywhere: only real ones, only so large, never one that would have to be unpacked."""

from __future__ import annotations

import os
import stat
from collections.abc import Callable
from pathlib import Path

from zeotherm.core.solver.axisymmetric import CancelledError
from zeotherm.shop.errors import ShopError

PACKED = {
    b"PK\x03\x04": "a packed archive or a workbook", b"\x1f\x8b": "packed", b"BZh": "packed", b"\xfd7zXZ": "packed",
    b"7z\xbc\xaf": "a packed archive", b"Rar!": "a packed archive", b"\x28\xb5\x2f\xfd": "packed",
}  # fmt: skip
PIECE = 8_000_000  # bytes between two looks at whether the answer is still wanted
Cancelled = Callable[[], bool]


def never() -> bool:
    """The answer stays wanted."""
    return False


def content_of(path: Path, largest: int, cancelled: Cancelled = never) -> bytes:
    """All of a regular file. Raises ShopError that says what it is instead and what to do, or CancelledError.

    A pipe or a device is refused before it is opened for reading, so nothing ever waits for it; a file that says it is
    larger than allowed is not read, however little of it lies on the disk.
    """
    name = path.name or str(path)
    try:
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK)
    except FileNotFoundError:
        raise ShopError(f"There is no file {path}. Check the name.") from None
    except PermissionError:
        raise ShopError(f"{name} may not be read. Change its permissions, or copy it elsewhere.") from None
    except (OSError, ValueError) as wrong:
        raise ShopError(f"{name} could not be read: {getattr(wrong, 'strerror', None) or wrong}.") from None
    try:
        _check(os.fstat(handle), largest, name)
        return _pieces(lambda size: os.read(handle, size), largest, name, cancelled)
    finally:
        os.close(handle)


def _check(about: os.stat_result, largest: int, name: str) -> None:
    if stat.S_ISDIR(about.st_mode):
        raise ShopError(f"{name} is a folder. Choose a file in it.")
    if not stat.S_ISREG(about.st_mode):
        raise ShopError(f"{name} is a pipe or a device, no file. Save what it gives to a file first.")
    if about.st_size > largest:
        raise ShopError(
            f"{name} has {about.st_size / 1e6:.0f} MB; up to {largest / 1e6:.0f} MB are read. "
            "Split it, or log less often."
        )


def _pieces(read: Callable[[int], bytes], largest: int, name: str, cancelled: Cancelled) -> bytes:
    found = []
    total = 0
    try:
        while piece := read(PIECE):
            total += len(piece)
            if cancelled():
                raise CancelledError
            if total > largest:
                raise ShopError(f"{name} grew while it was read. Stop the logger, then read it again.")
            found.append(piece)
    except OSError as wrong:
        raise ShopError(f"{name} could not be read: {wrong.strerror}.") from None
    return b"".join(found)


def utf8_of(path: Path, largest: int) -> str:
    """All of a text file in UTF-8; raises ShopError for any other."""
    data = content_of(path, largest)
    _refuse_packed(data, path.name)
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as wrong:
        raise ShopError(f"{path.name} is no text: byte {wrong.start} is not UTF-8. Choose another file.") from None


def _refuse_packed(data: bytes, name: str) -> None:
    for start, what in PACKED.items():
        if data.startswith(start):
            raise ShopError(f"{name} is {what}. Unpack it, or export it as CSV, and choose that.")


def text_of(path: Path, largest: int, cancelled: Cancelled = never) -> str:
    """All of a text file, in whichever of the usual encodings it is. Raises ShopError or CancelledError."""
    name = path.name or str(path)
    data = content_of(path, largest, cancelled)
    _refuse_packed(data, name)
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        try:
            return data.decode("utf-16")
        except UnicodeDecodeError:
            raise ShopError(f"{name} breaks off in the middle of a character. Export it again as CSV.") from None
    wide = _wide(data[:4096])
    if wide:
        try:
            return data.decode(wide)
        except UnicodeDecodeError:
            raise ShopError(f"{name} breaks off in the middle of a character. Export it again as CSV.") from None
    if b"\x00" in data[:4096]:
        raise ShopError(f"{name} is no text. Export the log as CSV.")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("cp1252", errors="replace")


def _wide(head: bytes) -> str:
    """The encoding of a text of two bytes a character that says nothing of it; nothing for any other."""
    if len(head) < 8:
        return ""
    even, odd = head[0::2].count(0) / len(head[0::2]), head[1::2].count(0) / len(head[1::2])
    if odd > 0.7 and even < 0.05:
        return "utf-16-le"
    return "utf-16-be" if even > 0.7 and odd < 0.05 else ""
