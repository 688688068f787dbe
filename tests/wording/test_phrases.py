"""Plain words on the entry line: phrases that were written down before the words were taught."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.quantity import declared
from zeotherm.wording.entry import FactAnswer, PinnedReading, SetSeveral, SetValue, Unclear, understand

LINES = [one for one in (Path(__file__).with_name("phrases.txt")).read_text(encoding="utf-8").splitlines()
         if one and not one.startswith("#")]  # fmt: skip
ASIDE = LINES[2::3]  # were not looked at until the rest was done
SHARE = 0.95  # that is to be understood


def wanted(line: str) -> tuple[str, dict[str, float | str] | None]:
    """What is typed, and what it must mean; None: it asks back."""
    typed, _bar, meant = (part.strip() for part in line.partition("|"))
    facts = dict(one.strip().split("=") for one in meant.split(";") if "=" in one)
    if "?" in facts.values() or not facts:
        return typed, None
    return typed, {path: _value(value) for path, value in facts.items()}


def _value(text: str) -> float | str:
    try:
        return float(text)
    except ValueError:
        return text


def told(typed: str) -> dict[str, float | str] | None:
    meant = understand(typed, Setup(), shipped())
    if isinstance(meant, Unclear):
        return None
    if isinstance(meant, PinnedReading):
        return {f"read {meant.station}": meant.value}
    if isinstance(meant, FactAnswer):
        return {f"tell {meant.asked}": meant.option}
    assert isinstance(meant, SetValue | SetSeveral), meant
    return {one.path: one.value for one in (meant.values if isinstance(meant, SetSeveral) else (meant,))}


def fares(lines: list[str]) -> tuple[list[str], list[str]]:
    """Phrases that are not understood, and those that are understood wrongly."""
    missed, wrong = [], []
    for line in lines:
        typed, meant = wanted(line)
        found = told(typed)
        if found is None and meant is not None:
            missed.append(typed)
        elif found is not None and (meant is None or found != pytest.approx(meant, abs=2e-3)):
            wrong.append(f"{typed}: {found} where {meant} is meant")
    return missed, wrong


@pytest.mark.parametrize("lines", [[one for one in LINES if one not in ASIDE], ASIDE], ids=["taught", "kept aside"])
def test_phrases_of_the_bench_are_understood_and_none_wrongly(lines):
    missed, wrong = fares(lines)
    assert wrong == []
    assert len(missed) <= (1.0 - SHARE) * len(lines), missed


@pytest.mark.parametrize(
    ("typed", "told"),
    [("40 W bed", "Bed heater: 40 W"), ("bed 24 V 220 W", "Supply's output: 24 V; Bed heater: 220 W"),
     ("heater relay", "No part is called 'heater relay'"), ("titaniun break", "Did you mean"),
     ("fan -- 3", "is no number"), ("60x50 cm case", "of what?"), ("bed 1e9", "is outside")],
)  # fmt: skip
def test_what_is_understood_and_what_is_asked_is_said(typed, told):
    assert told in understand(typed, Setup(), shipped()).text


@given(st.lists(st.sampled_from(sorted({word for line in LINES for word in wanted(line)[0].split()})), max_size=9))
@settings(max_examples=150, deadline=None)
def test_any_words_are_understood_or_asked_about(words):
    meant = understand(" ".join(words), Setup(), shipped())
    assert meant.text
    for one in meant.values if isinstance(meant, SetSeveral) else ():
        assert one.path in declared(Setup)
