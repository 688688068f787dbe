"""What is told at the bench: edits, the entry line, attachments, the shop's own causes."""

from __future__ import annotations

import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.documents import Job, Setup
from zeotherm.shop.editing import edits
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files.job_files import dumps, loads, unknown_answers
from zeotherm.shop.files.own_entries import CAUSES, begin_own, read_own
from zeotherm.shop.workshops.workshop import Workshop
from zeotherm.wording.entry import ColdOhms, FactAnswer, Unclear, understand


def told(job: Job) -> dict[str, list[str]]:
    return job.intake.answers


def test_an_answer_is_told_changed_and_taken_back():
    job = edits.with_answer(Job(), "when", "soak")
    assert told(job) == {"when": ["soak"]}
    job = edits.with_answer(job, "when", "at_once")
    assert told(job) == {"when": ["at_once"]}
    assert told(edits.with_answer(job, "when", "at_once")) == {}
    assert told(edits.with_answer(job, "when", None)) == {}


def test_questions_of_many_keep_their_other_answers():
    job = edits.with_answer(edits.with_answer(Job(), "changed", "nozzle"), "changed", "place")
    assert told(job) == {"changed": ["nozzle", "place"]}
    assert told(edits.with_answer(job, "changed", "nozzle")) == {"changed": ["place"]}


def test_what_is_never_asked_is_refused():
    with pytest.raises(edits.RefusedError, match=r"when\.someday"):
        edits.with_answer(Job(), "when", "someday")


@pytest.mark.parametrize(
    ("line", "meant"),
    [
        ("jams", FactAnswer("goes_wrong", "nothing", "What goes wrong: nothing comes out")),
        ("fan weak", FactAnswer("fan_sound", "weak", "Sink fan sounds: weak")),
        ("fan turns", FactAnswer("fan_turns", "turns", "Does the sink fan turn: turns")),
        ("afternoon", FactAnswer("depends", "hour", "Comes only with: some hour of day")),
        ("forget when", FactAnswer("when", None, "When: not known")),
        ("heater 14.2 ohm", ColdOhms("heater", 14.2, "heater, cold: 14.2 Ω")),
        ("sensor 104k ohm", ColdOhms("sensor", 104e3, "sensor, cold: 104 kΩ")),
        ("bed 1,9 Ω", ColdOhms("bed", 1.9, "bed, cold: 1.9 Ω")),
    ],
)
def test_facts_go_through_the_entry_line(line, meant):
    assert understand(line, Setup(), shipped()) == meant


@pytest.mark.parametrize("line", ["heater 900 Mohm", "heater -3 ohm", "sensor many ohm", "jamz"])
def test_unclear_facts_say_what_to_do(line):
    assert isinstance(understand(line, Setup(), shipped()), Unclear)


def test_a_fact_mistyped_is_guessed_at():
    assert "Did you mean jam?" in understand("jamz", Setup(), shipped()).text


def test_the_entry_line_still_sets_the_fan():
    assert edits.apply_line(Job(), "fan 9.1 V")[0].setup().fan.voltage_v == 9.1
    assert told(edits.apply_line(Job(), "fan weak")[0]) == {"fan_sound": ["weak"]}


def test_facts_of_the_machine_are_found_not_tried():
    tried = edits.apply_line(Job(), "guard 40 %")[0]
    job = edits.as_fact(tried, lambda now: edits.apply_line(now, "nozzle 215")[0])
    assert job.found.printing.nozzle_c == 215.0
    assert job.trial == {"fan": {"guard_blocked_pct": 40.0}}
    with pytest.raises(edits.RefusedError):
        edits.as_fact(job, lambda now: edits.apply_line(now, "nozzle 9000")[0])


def test_cold_ohms_answer_their_check():
    job = edits.with_ohms(Job(), "heater", 3.7)
    assert told(job) == {"cold_ohms": ["heater_off"]}
    job = edits.with_ohms(edits.with_ohms(job, "heater", 14.3), "sensor", 113e3)
    assert told(job) == {"cold_ohms": ["expected"]}
    assert told(edits.with_ohms(edits.with_ohms(job, "heater", None), "sensor", None)) == {}


def test_a_decided_cause_brings_its_remedies_to_the_board():
    job = edits.decided(Job(found=Setup.model_validate({"fan": {"guard_blocked_pct": 90.0}})), "lint")
    assert job.intake.decided == "lint"
    assert "clean_guard" in job.variants
    assert edits.decided(job, None).intake.decided is None
    with pytest.raises(edits.RefusedError, match="gremlins"):
        edits.decided(job, "gremlins")


def test_intake_outlives_its_file_and_older_files_are_read():
    job = edits.decided(edits.with_answer(Job(), "plug", "bulb"), "clog")
    assert loads(dumps(job)) == job
    older = dumps(Job()).replace('"version": "1.2"', '"version": "1.1"')
    assert loads(older).intake == Job().intake


def test_answers_of_another_catalogue_are_kept_and_named():
    job = loads(dumps(Job()).replace('"answers": {}', '"answers": {"wen": ["soak"], "when": ["soakk"]}'))
    assert unknown_answers(job, shipped()) == [
        "intake.answers.wen is never asked. Did you mean when?",
        "intake.answers.when has no answer 'soakk'. Did you mean soak?",
    ]


def test_attachments_are_kept_whole(tmp_path):
    workshop = Workshop(tmp_path / "w.zeotherm")
    photo = tmp_path / "plug.jpg"
    photo.write_bytes(b"\xff\xd8" + bytes(range(256)) * 40)
    kept = workshop.attach(photo)
    job = edits.with_attachment(Job(), kept)
    assert workshop.attached(job.intake.attachments[0]) == photo.read_bytes()
    assert edits.with_attachment(job, kept, keep=False).intake.attachments == []
    workshop.close()
    with pytest.raises(ShopError, match="another workshop"):
        Workshop(tmp_path / "other.zeotherm").attached(kept)


@pytest.mark.parametrize(("name", "why"), [("missing.jpg", "no file"), ("", "is a folder")])
def test_what_cannot_be_attached_is_told(tmp_path, name, why):
    with pytest.raises(ShopError, match=why):
        Workshop(tmp_path / "w.zeotherm").attach(tmp_path / name)


def test_own_causes_go_over_the_shipped(tmp_path):
    path = tmp_path / "causes.toml"
    assert read_own(CAUSES, path) == {}
    path.write_text('[causes.clog]\ncommon = 20.0\n[causes.mouse]\nlabel = "Mouse"\ndomain = "other"\ncommon = 1.0\n'
                    'why = "an old barn"\nmends = "a cat"\n')  # fmt: skip
    found = shipped().with_own(read_own(CAUSES, path))
    assert (found.causes["clog"].common, found.causes["mouse"].label) == (20.0, "Mouse")


def test_the_file_of_own_causes_begins_with_the_shipped_as_comments(tmp_path):
    path = tmp_path / "causes.toml"
    begin_own(CAUSES, path)
    assert read_own(CAUSES, path) == {}
    assert "# [causes.clog.shows]" in path.read_text()


@pytest.mark.parametrize(
    ("text", "line", "field"),
    [
        ("[causes.clog]\ncommon = twelve\n", "line 2", ""),
        ("[causes.clog]\ncommon = -1.0\n", "line 2", "causes.clog.common"),
        ("[causes.clog]\n\ncomon = 3.0\n", "line 3", "causes.clog.comon"),
        ('[causes.clog.shows]\n"needle.magic" = [0.5, "why not"]\n', "line 1", "causes.clog"),
        ("[weather]\nrain = true\n", "line 1", "weather"),
    ],
)
def test_a_wrong_file_of_own_causes_names_line_and_field(tmp_path, text, line, field):
    path = tmp_path / "causes.toml"
    path.write_text(text)
    with pytest.raises(ShopError, match=line) as told_:
        read_own(CAUSES, path)
    assert field in str(told_.value)
    assert "shipped causes are used" in str(told_.value)
