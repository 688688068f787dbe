"""The log: a rotating file that only we read."""

from __future__ import annotations

import logging
from logging.handlers import RotatingFileHandler

from zeotherm.shop.places import log_file


def start_log() -> None:
    """Log to the state directory; without one, to nowhere."""
    target = log_file()
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        handler: logging.Handler = RotatingFileHandler(target, maxBytes=500_000, backupCount=2, encoding="utf-8")
    except OSError:
        handler = logging.NullHandler()
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    root = logging.getLogger("zeotherm")
    root.addHandler(handler)
    root.setLevel(logging.INFO)
