"""A name says one thing in the whole program."""

from __future__ import annotations

import ast
from collections import defaultdict
from pathlib import Path

import zeotherm

SOURCE = Path(zeotherm.__file__).parent


def test_no_two_public_classes_share_a_name():
    places: dict[str, list[str]] = defaultdict(list)
    for path in SOURCE.rglob("*.py"):
        for node in ast.parse(path.read_text(encoding="utf-8")).body:
            if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
                places[node.name].append(str(path.relative_to(SOURCE)))
    assert not {name: found for name, found in places.items() if len(found) > 1}


def test_explain_knows_no_part_by_name():
    text = (SOURCE / "desk" / "views" / "explain" / "view.py").read_text(encoding="utf-8")
    compared = [ast.unparse(node) for node in ast.walk(ast.parse(text)) if isinstance(node, ast.Compare)]
    assert not [one for one in compared if any(name in one for name in ("hotend", "'bed'", "'case'", "'power'"))]


def test_every_law_has_a_worked_example():
    without = []
    for path in sorted((SOURCE / "core" / "physics").glob("*.py")):
        for node in ast.parse(path.read_text(encoding="utf-8")).body:
            public = isinstance(node, ast.FunctionDef) and not node.name.startswith("_")
            if public and ">>>" not in (ast.get_docstring(node) or ""):
                without.append(f"{path.stem}.{node.name}")
    assert not without
