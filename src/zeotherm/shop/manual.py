"""The manual that ships with the program: its pages, and where a word stands in them."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

INDEX = "index"
PICTURE = re.compile(r"!\[[^\]]*\]\([^)]*\)\n*")
LINKED = re.compile(r"\]\((\w+)\.md\)")


@dataclass(frozen=True, slots=True)
class ManualPage:
    """One page."""

    name: str  # as pages call each other
    title: str
    text: str  # as Markdown, without pictures: what they show is the window itself


@cache
def pages() -> dict[str, ManualPage]:
    """Every page by its name, in the order of the index."""
    place = files("zeotherm") / "manual"
    found = {}
    for one in place.iterdir():
        if one.name.endswith(".md"):
            text = PICTURE.sub("", one.read_text(encoding="utf-8"))
            name = one.name.removesuffix(".md")
            found[name] = ManualPage(name, text.partition("\n")[0].lstrip("# "), text)
    order = [INDEX, *LINKED.findall(found[INDEX].text)]
    return {name: found[name] for name in dict.fromkeys([*order, *sorted(found)])}


def find(words: str) -> list[tuple[ManualPage, int]]:
    """Pages that hold all of these words, most often first, with how often. Nothing for no words."""
    wanted = words.lower().split()
    if not wanted:
        return []
    counts = [(one, [one.text.lower().count(word) for word in wanted]) for one in pages().values()]
    hits = [(one, sum(each)) for one, each in counts if all(each)]
    return sorted(hits, key=lambda hit: -hit[1])
