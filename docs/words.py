"""Hold displayed strings against the trade's words (`words.toml`), and sentences against being glued.

`python -m docs.words` is part of `./run lint`. Strings from before the table stand in `words_before.txt`, which only
ever grows shorter: one that was mended has to leave it (`--mended` takes them off).
"""

from __future__ import annotations

import ast
import re
import sys
import tomllib
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

HERE = Path(__file__).parent
SOURCE = HERE.parent / "src" / "zeotherm"
BEFORE = HERE / "words_before.txt"
UNSAID = {"names", "source", "kind", "unit", "key", "shelf", "station", "material", "confidence", "figure"}  # no prose
GLUED = "a sentence glued to another piece: make it one template with a named gap"
BUILT = "not a plain string: translators need whole templates with named gaps"


TYPED = {"bench_words.toml"}  # what people type, which nobody is told


class Said(NamedTuple):
    """A displayed string, where it stands, and what is wrong with how it is put together."""

    where: str
    text: str
    wrong: str = ""


def of_code(path: Path) -> Iterator[Said]:
    """Strings that a module marks as displayed."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    glued = {id(side) for one in ast.walk(tree) if isinstance(one, ast.BinOp) and isinstance(one.op, ast.Add)
             for side in (one.left, one.right)}  # fmt: skip
    for node in ast.walk(tree):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "_":
            where = f"{path.relative_to(SOURCE)}:{node.lineno}"
            given = node.args[0] if node.args else None
            if not isinstance(given, ast.Constant) or not isinstance(given.value, str):
                if not isinstance(given, ast.Name):
                    yield Said(where, ast.unparse(node), BUILT)
                continue
            yield Said(where, given.value, GLUED if id(node) in glued else "")


def of_data(path: Path) -> Iterator[Said]:
    """Prose of a data file: whatever has a space and is no name, unit or source."""

    def inside(value: object, key: str) -> Iterator[str]:
        if isinstance(value, dict):
            for name, one in value.items():
                yield from inside(one, name)
        elif isinstance(value, list):
            for one in value:
                yield from inside(one, key)
        elif isinstance(value, str) and " " in value and key not in UNSAID:
            yield value

    for text in inside(tomllib.loads(path.read_text(encoding="utf-8")), ""):
        yield Said(str(path.relative_to(SOURCE)), text)


def said() -> Iterator[Said]:
    """Every displayed string of the program."""
    for path in sorted(SOURCE.rglob("*.py")):
        yield from of_code(path)
    for path in sorted(SOURCE.rglob("*.toml")):
        if path.name not in TYPED:
            yield from of_data(path)


def faults(strings: Iterator[Said]) -> list[tuple[Said, str]]:
    """Strings with an old word, or put together from pieces, and what to do about each."""
    table = [(re.compile(one["word"], re.IGNORECASE), one["say"]) for one in _table()]
    found = []
    for one in strings:
        if one.wrong:
            found.append((one, one.wrong))
        for word, instead in table:
            hit = word.search(one.text)
            if hit:
                found.append((one, f'"{hit[0]}": say {instead}'))
    return found


def _table() -> list[dict[str, str]]:
    return list(tomllib.loads((HERE / "words.toml").read_text(encoding="utf-8"))["old"])


def line_of(text: str) -> str:
    """A string as it stands in the list of those from before."""
    return text.replace("\\", "\\\\").replace("\n", "\\n")


def main() -> int:
    """Tell what is new and wrong; --mended: take off the list what is no longer there."""
    found = faults(said())
    before = BEFORE.read_text(encoding="utf-8").splitlines() if BEFORE.exists() else []
    there = {line_of(one.text) for one, _what in found}
    if "--mended" in sys.argv[1:]:
        BEFORE.write_text("".join(f"{one}\n" for one in before if one in there), encoding="utf-8")
        return 0
    known = set(before)
    for one, what in found:
        if line_of(one.text) not in known:
            print(f"{one.where}: {what}\n    {one.text}")
    gone = [one for one in before if one not in there]
    for one in gone:
        print(f"docs/words_before.txt: mended, or gone: take it off (python -m docs.words --mended)\n    {one}")
    return 1 if gone or not there <= known else 0


if __name__ == "__main__":
    sys.exit(main())
