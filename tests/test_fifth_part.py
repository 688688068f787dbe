"""A part that the product does not have plugs in by a folder in core and desk, a module of words and one line."""

from __future__ import annotations

import json
from collections.abc import Iterator

import pytest
from click.testing import CliRunner

from tests.fifth.core.parts.dryer.part import PART
from tests.window import open_window
from zeotherm.cli import main
from zeotherm.core.catalogue import shipped
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.core.machine.quantity import declared
from zeotherm.core.parts import registry
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files.job_files import dumps, loads
from zeotherm.wording.entry import SetValue, understand

__all__ = ["open_window"]


@pytest.fixture
def plugged() -> Iterator[None]:
    registry.add(PART)
    yield
    registry.remove(PART)


def with_dryer(**dryer: float) -> Job:
    return Job(found=Setup.model_validate({"dryer": {"heater_w": 60.0, "target_c": 75.0, **dryer}}))


def test_it_is_read_written_and_refused_as_any_other_field(plugged):
    job = with_dryer()
    assert loads(dumps(job)).found.dryer == job.found.dryer
    assert declared(Setup)["dryer.heater_w"].unit == "W"
    with pytest.raises(ShopError, match=r"dryer\.target_c"):
        loads(dumps(job).replace("75.0", "750.0"))
    with pytest.raises(ValueError, match="there is a part 'dryer' already"):
        registry.add(PART)


def test_without_it_the_document_is_as_it_was():
    assert "dryer" not in Setup.model_fields
    with pytest.raises(ShopError, match="dryer"):
        loads('{"format": "zeotherm-job", "found": {"dryer": {"heater_w": 10}}}')
    assert "dryer_spool" not in shipped().limits
    assert "dryer" not in main.list_commands(None)


def test_the_entry_line_knows_its_words(plugged):
    found = understand("dryer temperature 60", with_dryer().found, shipped())
    assert isinstance(found, SetValue)
    assert (found.path, found.value) == ("dryer.target_c", 60.0)


def test_schema_and_command_line_have_it(plugged, tmp_path):
    schema = json.loads(CliRunner().invoke(main, ["schema"]).stdout)
    assert schema["$defs"]["Dryer"]["properties"]["target_c"]["maximum"] == 90
    assert "dryer" in schema["$defs"]["Setup"]["properties"]
    file = tmp_path / "job.json"
    file.write_text(dumps(with_dryer()))
    found = CliRunner().invoke(main, ["dryer", str(file)])
    assert found.stdout.splitlines()[0] == "The dryer is 75.0 °C; spool 16.0 K over"
    told = json.loads(CliRunner().invoke(main, ["dryer", str(file), "--json"]).stdout)
    assert told["stations"] == {"dryer_air": 75.0}
    assert told["heater_w"] == 60.0
    assert [(one["limit"], one["state"]) for one in told["margins"]] == [("dryer_spool", "over")]
    file.write_text(dumps(Job()))
    none = CliRunner().invoke(main, ["dryer", str(file)])
    assert none.exit_code == 1
    assert "no dryer in it. Set dryer.heater_w." in none.stderr
    assert "Print how warm a job's dryer gets." in CliRunner().invoke(main, ["--help"]).stdout


def test_the_window_and_the_report_have_it(plugged, open_window, qtbot):
    window = open_window()
    explain = window.explain
    assert explain.tabs["dryer"].text() == "Dryer"
    explain.turn_to("dryer")
    qtbot.waitUntil(lambda: "No dryer here" in explain.verdict.accessibleName())
    window.bench.set_value("dryer.heater_w", 60.0)
    window.bench.set_value("dryer.target_c", 75.0)
    qtbot.waitUntil(lambda: explain.of("dryer").found.answer is not None, timeout=60_000)
    qtbot.waitUntil(lambda: explain.of("dryer").found.answer.strengths != [], timeout=60_000)
    assert "The dryer is 75.0 °C" in explain.verdict.accessibleName()
    assert [one.key for one in explain.ladder._view.markers] == ["dryer_air"]
    assert explain.margins._all[0].state is State.OVER
    assert [path for path, line in explain.levers._lines.items() if line.isVisible()] == ["dryer.target_c"]
    assert explain.picture.accessibleDescription() == "75 °C"
    window.show_report()
    qtbot.waitUntil(lambda: "Dryer" in window.report.page.toPlainText(), timeout=90_000)
    assert "The dryer is 75.0 °C; spool " in window.report.page.toPlainText()
