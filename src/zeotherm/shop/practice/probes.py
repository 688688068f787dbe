"""Probes that tell a temperature: a simulated one that ships, and any instrument that writes lines to a serial port."""

from __future__ import annotations

import os
import re
import select
import termios
from collections.abc import Callable, Iterator
from itertools import islice
from pathlib import Path
from typing import Protocol

from zeotherm.core.machine.doing import Way
from zeotherm.shop.errors import ShopError
from zeotherm.shop.practice.virtual_printer import Setting, cooling_rows

NUMBER = re.compile(r"[-+]?\d+(?:[.,]\d+)?")
REPORT = re.compile(r"\bT\w*:\s*[\d.]+\s*/\s*[\d.]+")  # a printer's report: its own sensor, and what it is set to
PORTS = ("ttyUSB*", "ttyACM*")
SPEEDS = {9600: termios.B9600, 115200: termios.B115200}
MOST_WAITING = 65536  # bytes of lines that nobody has read yet


class Probe(Protocol):
    """What the bench asks of a probe."""

    name: str
    way: Way  # a contact probe, or the machine's own sensor

    def read(self) -> float | None:
        """The latest temperature [°C]; None where nothing has come since it was last asked. Raises ShopError."""

    def close(self) -> None:
        """Let go of it."""


class VirtualProbe:
    """A probe on the virtual printer's block, whose heat goes off when it is connected."""

    name = "simulated probe"
    way: Way = "probe"

    def __init__(self, steady: Callable[[], float], setting: Setting | None = None, seed: int = 4) -> None:
        self._steady = steady
        self._since = steady()
        self._rows: Iterator[float] = (row.hotend for row in cooling_rows(setting or Setting(), seed))
        self._at = -1
        self._last: float | None = None

    def read(self) -> float | None:
        """The block by now."""
        behind = int(self._steady() - self._since) - self._at
        if behind <= 0:
            return None
        for value in islice(self._rows, behind):
            self._last = value
        self._at += behind
        return self._last

    def close(self) -> None:
        """Nothing to let go of."""


class SerialProbe:
    """An instrument on a serial port, or anything that can be opened and writes a line for each reading.

    Of a line the number after `T:` counts, else the first one; a line without a number is passed over. A printer's own
    report (`T:61.5 /0.0`) is its own sensor, which opens no hold where a hand goes.
    """

    def __init__(self, path: Path, speed: int = 115200) -> None:
        self.name = path.name
        self.way: Way = "probe"
        self._path = path
        self._kept = b""
        try:
            self._port = os.open(path, os.O_RDONLY | os.O_NOCTTY | os.O_NONBLOCK)
            if os.isatty(self._port):
                self._set_up(speed)
        except (OSError, termios.error) as wrong:
            raise ShopError(
                f"{path} could not be opened: {wrong.args[-1]}. Is it plugged in, and may you read it?"
            ) from None

    def _set_up(self, speed: int) -> None:
        mode = termios.tcgetattr(self._port)
        mode[0], mode[1], mode[3] = 0, 0, 0  # raw: no translation in or out, no echo
        mode[2] = termios.CS8 | termios.CREAD | termios.CLOCAL
        mode[4] = mode[5] = SPEEDS[speed]
        termios.tcsetattr(self._port, termios.TCSANOW, mode)

    def read(self) -> float | None:
        """The last whole line's temperature, if one has come."""
        try:
            while select.select([self._port], [], [], 0)[0]:
                came = os.read(self._port, 4096)
                if not came:
                    break
                self._kept = (self._kept + came)[-MOST_WAITING:]
        except OSError as wrong:
            raise ShopError(f"{self._path} is gone: {wrong.strerror}. Measure by hand, or connect it again.") from None
        *lines, self._kept = self._kept.split(b"\n")
        texts = [line.decode("utf-8", "replace") for line in lines]
        told = [(value, text) for text in texts if (value := temperature_in(text)) is not None]
        if not told:
            return None
        value, text = told[-1]
        self.way = "console" if REPORT.search(text) else "probe"
        return value

    def close(self) -> None:
        """Close the port."""
        os.close(self._port)


def temperature_in(line: str) -> float | None:
    """The temperature in a line of an instrument [°C].

    >>> temperature_in("ok T:61.5 /0.0 B:40.1"), temperature_in("+0048,2 C"), temperature_in("ready")
    (61.5, 48.2, None)
    """
    after = re.search(r"\bT\w*\s*[:=]\s*(.*)", line)
    found = NUMBER.search(after.group(1) if after else line)
    return float(found.group(0).replace(",", ".")) if found else None


def ports() -> list[Path]:
    """Serial ports that are there."""
    return sorted(port for pattern in PORTS for port in Path("/dev").glob(pattern))
