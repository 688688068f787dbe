"""Documents: one declaration a quantity, frozen, patched."""

from __future__ import annotations

import pytest
from pydantic import ValidationError

from zeotherm.core.catalogue import shipped
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.machine.documents import Job, Setup, patched
from zeotherm.core.machine.patches import composed, merge_patch, patch_at, value_at
from zeotherm.core.machine.quantity import Choice, Quantity, declared
from zeotherm.core.parts.bed.model.inputs import QUANTITIES as BED
from zeotherm.core.parts.enclosure.model.inputs import QUANTITIES as CHAMBER
from zeotherm.core.parts.hotend.model.inputs import QUANTITIES, resolve
from zeotherm.core.parts.whole.around import QUANTITIES as AROUND


def test_every_declaration_is_whole():
    for path, item in declared(Setup).items():
        assert item.label, path
        assert item.help.endswith((".", "?")), path
        assert item.names, path
        if isinstance(item, Quantity):
            assert item.low < item.high, path
            assert item.unit, path
            assert item.step > 0, path
        else:
            assert isinstance(item, Choice)
            assert shipped().shelf(item.shelf), path


def test_every_number_of_the_setup_reaches_the_model():
    used = {path for path, _scale in (*QUANTITIES.values(), *AROUND.values(), *BED.values(), *CHAMBER.values())} | {
        "hotend.heater_power_w",
        "hotend.heater_rated_v",
        "hotend.supply_v",
        "hotend.neck_wall_factor",
        "printing.idle_c",  # of a further toolhead: tests/core/test_toolheads.py
        "bed.heater_w",
        "bed.volts_pct",
        *(f"case.{name}" for name in ("cutout_c", "door_room_mm", "printed_count", "printed_g", "bay_m3h")),
        "corrections.case_gap",
        "corrections.case_content",
        *(f"frame.{name}_mm" for name in ("width", "depth", "height", "sweep", "loop", "behind")),  # whether it fits
        *(f"bed.{name}" for name in ("band_k", "gain_p", "gain_i", "gain_d", "sensor_lag_s")),  # of its controller
    }
    used |= {path for path in declared(Setup) if path.startswith("power.")} & {
        path for path, item in declared(Setup).items() if isinstance(item, Quantity)
    }  # each is moved in tests/core/test_power.py
    used |= {f"schedule.{name}" for name in ("start_h", "soak_min", "print_min", "cool_min", "retractions_per_min")}
    assert used == {path for path, item in declared(Setup).items() if isinstance(item, Quantity)}


def test_names_are_not_used_twice():
    seen: dict[str, str] = {}
    for path, item in declared(Setup).items():
        for name in item.names:
            assert seen.setdefault(name, path) == path, name


def test_merge_patch_follows_the_rfc():
    assert merge_patch({"a": 1, "b": {"c": 2, "d": 3}}, {"b": {"c": None}, "e": [1]}) == {
        "a": 1,
        "b": {"d": 3},
        "e": [1],
    }
    assert merge_patch({"a": 1}, "text") == "text"


def test_documents_do_not_change():
    with pytest.raises(ValidationError):
        Setup().fan.voltage_v = 3.0  # type: ignore[misc]
    changed = patched(Setup(), patch_at("fan.voltage_v", 9.1))
    assert value_at(changed, "fan.voltage_v") == 9.1
    assert Setup().fan.voltage_v == 24.0


def test_a_trial_is_made_once_and_anew_for_another():
    job = Job(trial={"fan": {"voltage_v": 12.0}})
    assert job.setup() is job.model_copy(update={"machine": "Other"}).setup()
    other = job.model_copy(update={"trial": {"fan": {"voltage_v": 9.0}}})
    assert [one.setup().fan.voltage_v for one in (job, other, job)] == [12.0, 9.0, 12.0]


def test_a_trial_that_does_not_fit_is_refused():
    with pytest.raises(ValidationError):
        Job(trial={"fan": {"voltage_v": 300.0}})


def test_parts_that_do_not_go_together_are_named():
    with pytest.raises(DoesNotFitError, match="takes: Steel, lined"):
        resolve(patched(Setup(), patch_at("hotend.template", "compact_lined")), shipped())
    with pytest.raises(DoesNotFitError, match="not among the filaments"):
        resolve(patched(Setup(), patch_at("printing.filament", "cheese")), shipped())


def test_wrong_voltage_goes_with_the_square():
    full = resolve(Setup(), shipped()).inputs.heater_power
    assert resolve(patched(Setup(), patch_at("hotend.supply_v", 12.0)), shipped()).inputs.heater_power == full / 4
    assert resolve(patched(Setup(), patch_at("hotend.heater_rated_v", 12.0)), shipped()).inputs.heater_power == full * 4


def test_composed_patches_do_what_both_do_and_keep_what_deletes():
    one, other = {"a": {"x": 1, "y": 2}}, {"a": {"x": None}, "b": None}
    both = composed(one, other)
    assert both == {"a": {"x": None, "y": 2}, "b": None}
    document = {"a": {"x": 9, "z": 3}, "b": 4}
    assert merge_patch(document, both) == merge_patch(merge_patch(document, one), other)


@pytest.mark.parametrize(("part", "wall"), [("steel", 0.85 * 0.34 / 0.45), ("titanium", 0.85 * 0.8), ("bimetal", 0.85)])
def test_a_neck_measured_in_an_older_job_keeps_its_wall(part, wall):
    change = {"hotend": {"break_part": part, "neck_wall_factor": 0.85}}
    older = {"version": "1.11", "found": change, "trial": change, "variants": {"a": {"label": "A", "change": change}}}
    read = Job.model_validate(older)
    assert read.found.hotend.neck_wall_factor == pytest.approx(wall)
    assert read.setup().hotend.neck_wall_factor == pytest.approx(wall)
    assert read.variants["a"].change["hotend"]["neck_wall_factor"] == pytest.approx(wall)
    again = Job.model_validate(read.model_dump(mode="json"))  # as every edit does
    assert (again.found, again.trial, again.variants) == (read.found, read.trial, read.variants)
    assert Job.model_validate({**older, "version": "1.12"}).found.hotend.neck_wall_factor == 0.85
    assert Job.model_validate({"version": "1.11", "found": {}}).found.hotend.neck_wall_factor == 1.0
