"""The bench's smaller reckonings stay what they are, figure by figure, unless somebody means to change them."""

from __future__ import annotations

import json
from typing import Any

import pytest

from tests.golden.bench import FILE, KINDS, found

KEPT = json.loads(FILE.read_text(encoding="utf-8"))
TO = 1e-7  # as a share, on any processor


def apart(one: Any, other: Any, where: str) -> list[str]:
    """Where two told things differ."""
    if isinstance(one, float | int) and isinstance(other, float | int):
        return [] if one == pytest.approx(other, rel=TO, abs=TO) else [f"{where}: {one} where {other} was"]
    if isinstance(one, list) and isinstance(other, list) and len(one) == len(other):
        return [each for n, (a, b) in enumerate(zip(one, other, strict=True)) for each in apart(a, b, f"{where}[{n}]")]
    if isinstance(one, dict) and isinstance(other, dict) and set(one) == set(other):
        return [each for key in one for each in apart(one[key], other[key], f"{where}.{key}")]
    return [] if one == other and type(one) is type(other) else [f"{where}: {one} where {other} was"]


@pytest.mark.parametrize("kind", KINDS)
def test_the_bench_reckons_as_before(kind):
    assert apart(found(kind), KEPT[kind], kind) == []
