"""Displayed strings say what the trade says, and are whole sentences."""

from __future__ import annotations

from pathlib import Path

import pytest
from docs import words
from docs.words import Said, faults, of_code, of_data


def code(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, text: str) -> list[Said]:
    monkeypatch.setattr(words, "SOURCE", tmp_path)
    path = tmp_path / "one.py"
    path.write_text(text)
    return list(of_code(path))


@pytest.mark.parametrize(
    ("text", "instead"),
    [
        ("It comes to {value} at rest", "settles at"),
        ("The strand is soft", "filament"),
        ("Set value of the bed", "setpoint"),
        ("Open the case", "enclosure"),
        ("Heat the chamber", "heated chamber"),
        ("The sink is hot", "heatsink"),
    ],
)
def test_old_words_are_found(text, instead):
    (found,) = faults(iter([Said("here", text)]))
    assert instead in found[1]


@pytest.mark.parametrize(
    "text", ["Sink base", "Heated chamber", "The heatsink is hot", "Open the enclosure", "In case"]
)
def test_the_trades_own_words_pass(text):
    assert not faults(iter([Said("here", text)]))


def test_sentences_are_whole(tmp_path, monkeypatch):
    said = code(tmp_path, monkeypatch, 'a = _("It is ") + value\nb = _(f"It is {value}")\nc = _("It is {value}")\n')
    wrong = [what for _one, what in faults(iter(said))]
    assert sorted(wrong) == sorted([words.GLUED, words.BUILT])


def test_data_files_are_read(tmp_path, monkeypatch):
    monkeypatch.setattr(words, "SOURCE", tmp_path)
    path = tmp_path / "one.toml"
    path.write_text('[one]\nlabel = "The strand"\nnames = ["the strand"]\n[[one.steps]]\ntext = "Open the case."\n')
    assert [one.text for one in of_data(path)] == ["The strand", "Open the case."]


def test_nothing_new_is_said_in_old_words(capsys):
    assert words.main() == 0, capsys.readouterr().out
