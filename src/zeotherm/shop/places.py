"""Where files live."""

from __future__ import annotations

import os
import re
from hashlib import blake2b
from importlib.resources import files
from pathlib import Path


def workshop_file() -> Path:
    """The person's own workshop file."""
    return _data() / "workshop.zeotherm"


def demo_file() -> Path:
    """The workshop file that the demo fills and goes on with."""
    return _data() / "demo.zeotherm"


def log_file() -> Path:
    """The log."""
    from platformdirs import user_state_path

    return Path(os.environ.get("ZEOTHERM_STATE") or user_state_path("zeotherm")) / "zeotherm.log"


def demo_jobs() -> list[Path]:
    """The demo workshop's jobs, in the order they came in."""
    folder = Path(str(files("zeotherm") / "demo"))
    return sorted(folder.glob("*.json"))


def file_stem(words: str) -> str:
    """What a file is proposed to be called, from words that anyone may have typed: no path, no odd characters."""
    return re.sub(r"[^\w.]+", "-", words).strip("-._")[:80] or "job"


def last_view_file(workshop: Path) -> Path:
    """Where the picture of what a workshop's window showed last is kept, for the next start."""
    from platformdirs import user_cache_path

    folder = Path(os.environ.get("ZEOTHERM_CACHE") or user_cache_path("zeotherm"))
    return folder / f"last-{blake2b(str(workshop.absolute()).encode(), digest_size=8).hexdigest()}.png"


def _data() -> Path:
    from platformdirs import user_data_path

    return Path(os.environ.get("ZEOTHERM_DATA") or user_data_path("zeotherm"))
