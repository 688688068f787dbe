"""Parts of the shop's own: made of told figures, and what each of their figures decides on a machine."""

from __future__ import annotations

import pytest

from zeotherm.core.catalogue import shipped
from zeotherm.core.catalogue.fitting import fitted_at, places_of
from zeotherm.core.catalogue.own import NoSuchPartError, Stated, made_anew, made_like, parts_on, stated
from zeotherm.core.choices.figures import ShelfFound, Stake, User, part_at, stakes, with_figures
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.parts.hotend.judge.ask import first_answer
from zeotherm.wording.shelf import verdict

CATALOGUE = shipped()
FAN = "axial_30_24v"
FOUND = patched(Setup(), {"fan": {"part": FAN}, "printing": {"filament": "pla", "nozzle_c": 210.0}})


def figure(shelf: str, at: str):
    return next(one for one in CATALOGUE.own_figures[shelf].figures if one.at == at)


def test_every_shelf_has_columns_and_states_what_it_must():
    for shelf, kind in CATALOGUE.own_figures.items():
        assert [one for one in kind.figures if one.head], shelf
        for key, entry in parts_on(CATALOGUE, shelf).items():
            for one in kind.figures:
                assert stated(entry, one).value is not None or one.without, (shelf, key, one.at)


def test_a_tolerance_that_is_told_is_kept_and_one_that_is_not_goes_with_its_figure():
    fan, flow = CATALOGUE.fans[FAN], figure("fans", "flow_m3_h")
    _key, alike = made_like(CATALOGUE, "fans", FAN, "A", {"flow_m3_h": Stated(9.0), "amps": Stated(0.1)})
    assert alike["curve_tolerance"] == fan.curve_tolerance
    assert alike["amps"]["tolerance"] == pytest.approx(fan.amps.tolerance * 0.1 / fan.amps.value)
    measured = {at: Stated(value, half, "own measurement")
                for at, value, half in (("flow_m3_h", 9.0, 0.45), ("service_c", 60.0, 1.0))}  # fmt: skip
    _key, told = made_like(CATALOGUE, "fans", FAN, "A", measured)
    made = CATALOGUE.with_entry("fans", "own_a", told).fans["own_a"]
    assert stated(made, flow).half == pytest.approx(0.45)
    assert (made.service_c.value, made.service_c.tolerance, made.service_c.source) == (60.0, 1.0, "own measurement")


def test_what_is_not_known_is_not_zero():
    anew = made_anew(CATALOGUE, "fans", FAN, "A", {"amps": Stated(None)})
    assert stated(CATALOGUE.with_entry("fans", "a", anew).fans["a"], figure("fans", "amps")).value is None
    with pytest.raises(NoSuchPartError, match="nothing can be solved without it"):
        made_anew(CATALOGUE, "fans", FAN, "A", {"rated_v": Stated(None)})


@pytest.mark.parametrize(
    ("told", "why"),
    [
        (Stated(9.0, 500.0), "is no tolerance"),
        (Stated(9.0, -1.0), "is no tolerance"),
        (Stated(9.0, 1.0, "rumour"), "'rumour' is no source"),
        (Stated(900.0), "goes from 0.5 to 200"),
    ],
)
def test_a_figure_that_cannot_be_is_refused(told, why):
    with pytest.raises(NoSuchPartError, match=why):
        made_like(CATALOGUE, "fans", FAN, "A", {"flow_m3_h": told})


def test_a_source_that_is_told_is_kept_and_a_tolerance_without_a_place_is_refused():
    entry = made_anew(CATALOGUE, "fans", FAN, "A", {"service_c": Stated(60.0, None, "own measurement")})
    made = CATALOGUE.with_entry("fans", FAN, entry).fans[FAN].service_c
    assert (made.value, made.source) == (60.0, "own measurement")
    assert made_anew(CATALOGUE, "fans", FAN, "A", {"service_c": Stated(60.0)})["service_c"]["source"] != made.source
    with pytest.raises(NoSuchPartError, match="Rated volts has no tolerance"):
        made_anew(CATALOGUE, "fans", FAN, "A", {"rated_v": Stated(24.0, 1.0)})


def test_what_was_not_reckoned_or_is_not_known_is_never_called_sound(demo):
    job = demo("Curlew")
    user, kind = User(job, ("fan.part",)), CATALOGUE.own_figures["fans"]
    still = {"amps": Stake("amps", "feed", "sink_base", 0.0)}
    for stakes_of, unknown, state in (({}, (), State.UNKNOWN), (still, ("noise_dba",), State.UNKNOWN),
                                      (still, (), State.CLEAR)):  # fmt: skip
        found = ShelfFound("fans", FAN, {}, (user,), stakes_of, unknown, done=True)
        assert verdict(found, kind, "A fan", job.machine, changed=False).state is state


def test_another_figure_is_another_catalogue_and_nothing_else_moves():
    changed = with_figures(CATALOGUE, "fans", FAN, {"flow_m3_h": Stated(9.0)})
    assert changed.digest != CATALOGUE.digest
    assert changed.fans[FAN].flow_m3_h[-1] == 9.0
    same = with_figures(CATALOGUE, "fans", FAN, {})
    assert same.digest == CATALOGUE.digest
    with pytest.raises(NoSuchPartError, match="not fed by low voltage"):
        with_figures(CATALOGUE, "beds", "small_bed", {"heater.rated_v": Stated(230.0)})


def test_where_a_part_is_fitted():
    assert fitted_at(FOUND, "fans", FAN) == ("fan.part",)
    assert fitted_at(FOUND, "fans", "axial_40_24v") == ()
    assert "printing.filament" in places_of(FOUND, "filaments")
    assert [part_at(one) for one in ("fan.part", "bed.part", "supplies.S2.supply")] == ["hotend", "bed", "power"]


def test_what_a_figure_decides_is_half_of_what_its_tolerance_moves():
    by_figure = {one.at: one for one in stakes(FOUND, CATALOGUE, {}, "fans", FAN, "fan.part")}
    assert "rated_v" not in by_figure  # it has no tolerance
    assert by_figure["amps"].half == 0.0  # nothing is judged by it
    push, entry = by_figure["pressure_pa"], CATALOGUE.fans[FAN]
    known = stated(entry, figure("fans", "pressure_pa"))
    rooms = []
    for sign in (-1.0, 1.0):
        changed = with_figures(CATALOGUE, "fans", FAN, {"pressure_pa": Stated(known.value + sign * known.half)})
        answer = first_answer(FOUND, changed)
        rooms.append(next(one.room for one in answer.margins if one.key == push.limit))
    assert rooms[1] > rooms[0]  # more air is cooler
    assert push.half == pytest.approx(0.5 * (rooms[1] - rooms[0]))
    # what a part is rated to moves its own limit by just its tolerance
    assert by_figure["service_c"].half == pytest.approx(entry.service_c.tolerance)


def test_what_a_part_of_the_bed_decides_is_told_of_the_bed():
    setup = patched(Setup(), {"bed": {"part": "small_bed", "insulation": "melamine_foam", "insulation_mm": 10.0}})
    key = setup.bed.insulation
    found = {one.at: one for one in stakes(setup, CATALOGUE, {}, "insulations", key, "bed.insulation")}
    assert found
    assert all(one.limit in CATALOGUE.limits and CATALOGUE.limits[one.limit].part == "bed" for one in found.values())
