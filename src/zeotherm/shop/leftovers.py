"""What processes that were killed have left behind, and how it is told from what still runs."""

from __future__ import annotations

import os
import re
import shutil
import tempfile
from contextlib import suppress
from pathlib import Path

OWN = re.compile(r"^zeotherm-(\d+)-")


def own_prefix() -> str:
    """How the names of this process's folders begin."""
    return f"zeotherm-{os.getpid()}-"


def clean_leftovers() -> list[Path]:
    """Remove the folders of processes that are gone, of this user only; returns them."""
    gone = []
    for folder in Path(tempfile.gettempdir()).glob("zeotherm-*"):
        match = OWN.match(folder.name)
        with suppress(OSError):
            if match and folder.is_dir() and folder.stat().st_uid == os.getuid() and not _runs(int(match.group(1))):
                shutil.rmtree(folder, ignore_errors=True)
                gone.append(folder)
    return gone


def _runs(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except (OSError, OverflowError):
        return True
    return True
