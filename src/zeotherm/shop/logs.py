"""The log: a rotating file that only its owner reads."""

from __future__ import annotations

import logging
import os
from logging.handlers import RotatingFileHandler
from typing import Any

from zeotherm.shop.places import log_file

OWNER_ONLY = 0o600


class _OwnersFile(RotatingFileHandler):
    """A rotating file that nobody else may read."""

    def _open(self) -> Any:
        handle = os.open(self.baseFilename, os.O_CREAT | os.O_APPEND | os.O_WRONLY, OWNER_ONLY)
        os.fchmod(handle, OWNER_ONLY)
        return os.fdopen(handle, "a", encoding=self.encoding)


def start_log() -> None:
    """Log to the state directory; without one, to nowhere."""
    target = log_file()
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        handler: logging.Handler = _OwnersFile(target, maxBytes=500_000, backupCount=2, encoding="utf-8")
    except OSError:
        handler = logging.NullHandler()
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    root = logging.getLogger("zeotherm")
    root.addHandler(handler)
    root.setLevel(logging.INFO)
