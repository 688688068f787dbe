"""The bed in Explain, piece by piece."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from tests.core.test_bed import CATALOGUE, setup_of
from zeotherm.core.machine.documents import Job, patched
from zeotherm.core.machine.measured import Measured, Picture
from zeotherm.core.parts.bed.judge.answer import first_bed, with_control, with_course
from zeotherm.core.parts.bed.part import BedFound
from zeotherm.desk.parts.bed.board import BedBoard
from zeotherm.desk.parts.bed.drawing import plan_image, sampled
from zeotherm.desk.parts.bed.shown import bed_ladder, bed_picture, bed_strip
from zeotherm.desk.style.patina import Span
from zeotherm.desk.views.measure.pictures_shown import Computed, pictures_view


@pytest.fixture(scope="module")
def found() -> BedFound:
    setup = patched(setup_of(heater_w=285.0), {"schedule": {"print_min": 40.0, "soak_min": 5.0}})
    return BedFound(Job(found=setup), with_course(first_bed(setup, CATALOGUE, cells=16)))


def test_the_picture_holds_face_stack_and_pins(found):
    view = bed_picture(found)
    assert view.face.shape[1] > view.face.shape[0]
    assert [layer.label for layer in view.layers][-1] == "Heater"
    assert view.layers[-1].reach == view.border_mm == 25.0
    assert next(pin.label for pin in view.pins) == "Middle"
    assert view.pins[2].value < view.pins[0].value
    limits = {row.label: row.limit for row in view.interfaces}
    assert limits["Magnet sheet"] == 90.0
    assert view.up + view.down + view.rim == pytest.approx(found.answer.solved.power, rel=1e-3)
    ways, values = view.profile
    assert values[60] == pytest.approx(view.pins[0].value, abs=0.3)
    assert ways[0] == -ways[-1]


def test_the_ladder_shows_the_beds_stations_and_limits(found):
    view = bed_ladder(found)
    keys = {marker.key: marker for marker in view.markers}
    assert {"bed_centre", "bed_corner", "bed_sensor", "bed_heater"} <= set(keys)
    assert keys["bed_magnet"].limit == 90.0
    assert sum(count for _state, count in view.counts) == len(found.answer.margins)


def test_the_strip_shows_warm_up_or_the_whole_print(found):
    warm, whole = bed_strip(found, whole=False), bed_strip(found, whole=True)
    assert warm.end < whole.end
    assert warm.minutes
    assert any(tick.text.startswith("wanted") for tick in warm.ticks)
    assert any(tick.text.startswith("lets go") for tick in whole.ticks)
    early = found.at(30.0)
    assert early.shown.values["bed_centre"] < found.shown.values["bed_centre"]
    assert bed_ladder(early).title.startswith("30 s")
    assert found.at(30.0).at(None).time is None
    states = {marker.key: marker.state for marker in bed_ladder(early).markers}
    assert states["bed_centre"].bad  # a cold face is short of what is wanted, whatever it comes to later
    assert early.judged.margin("bed_ready").room == found.answer.margin("bed_ready").room


def test_a_faulty_control_and_a_lifted_heater_are_shown_in_their_place(found):
    setup = patched(found.job.found, {"bed": {"control": "relay", "lifted_mm": 1.0}})
    shown = BedFound(Job(found=setup), with_control(with_course(first_bed(setup, CATALOGUE, cells=16))))
    labels = {curve.label: curve for curve in bed_strip(shown, whole=False).curves}
    assert float(np.ptp(labels["Controlled"].values[-300:])) > 1.0
    assert "Controlled" not in {curve.label for curve in bed_strip(found, whole=False).curves}
    patch = bed_picture(shown).lifted
    assert patch.label.startswith("lifted 1.0 mm: heater")
    assert bed_picture(found).lifted is None


def test_isolines_hatching_and_outline_are_in_the_pixels(found):
    image = plan_image(bed_picture(found), 240, 180, Span.COOL.value)
    shades = {image.pixelColor(x, y).name() for x in range(0, 240, 3) for y in range(0, 180, 3)}
    assert "#2a1d16" in shades  # hatched beyond the band
    assert {"#f7f2e8", "#0e1618"} & {image.pixelColor(x, 90).name() for x in range(240)}  # lines


def test_a_round_face_ends_at_its_rim():
    answer = first_bed(setup_of("round_bed"), CATALOGUE, cells=20)
    view = bed_picture(BedFound(Job(found=answer.setup), answer))
    pixels = sampled(view.face, 100, 100)
    assert np.isnan(pixels[0, 0])
    assert np.isfinite(pixels[50, 50])
    assert np.isnan(pixels).mean() == pytest.approx(1.0 - np.pi / 4.0, abs=0.02)


def test_keys_walk_over_the_face(qtbot, found):
    board = BedBoard()
    qtbot.addWidget(board)
    board.resize(600, 480)
    board.show_view(bed_picture(found))
    board.show()
    told: list[str] = []
    board.pointed.connect(told.append)
    for _step in range(3):
        QTest.keyClick(board, Qt.Key.Key_Up)
    assert "30 mm behind" in told[-1]
    board.show_view(None)
    board.grab()
    assert board.accessibleDescription().startswith("No heated bed")


def test_a_picture_of_another_job_is_not_held_against_this_bed(found):
    assert pictures_view(found.job, Computed("9999", bed_picture(found).face)).pictures == ()


def test_pictures_of_unlike_things_are_not_taken_from_each_other(found):
    warm = [[40.0, 41.0], [42.0, 60.0]]

    def job(*regions: str) -> Job:
        pictures = {f"picture{n}": Picture(label=name, cells=warm, width=2, height=2, emissivity=1.0,
                                           regions={name: [0.0, 0.0, 1.0, 1.0]})
                    for n, name in enumerate(regions)}  # fmt: skip
        return found.job.model_copy(update={"measured": Measured(pictures=pictures)})

    face = bed_picture(found).face
    apart = pictures_view(job("bed", "bed plug"), Computed(found.job.number, face))
    assert [one.label for one in apart.pictures] == ["bed", "bed plug", "The model's face"]
    assert any("warmest 60.0 ± 2.0 °C" in line for line in apart.pictures[1].lines)
    unlike = pictures_view(job("bed plug", "bed tabs"))
    assert unlike.change is None
    alike = pictures_view(job("bed plug", "bed tabs", "bed plug"))
    assert alike.change is not None


def test_a_lever_is_answered_before_the_course_is_run(found):
    answer = first_bed(setup_of(heater_w=285.0, target_c=78.0), CATALOGUE, last=found.answer)
    assert answer.readout.values["bed_sensor"] == pytest.approx(78.0, abs=0.01)
    assert bed_picture(BedFound(Job(found=answer.setup), answer)).pins[0].value == answer.readout.values["bed_centre"]
    assert answer.run is None
    assert bed_strip(BedFound(Job(found=answer.setup), answer), whole=False) is None


def test_the_tabs_turn_with_ctrl_tab_and_no_bed_is_said(qtbot, open_window):
    window = open_window(settled=False)
    explain = window.explain
    QTest.keyClick(window, Qt.Key.Key_Tab, Qt.KeyboardModifier.ControlModifier)
    assert explain.part == "bed"
    window.bench.enter("bed 0")
    qtbot.waitUntil(lambda: explain.verdict.accessibleName() == "No heated bed here", timeout=60_000)
    assert explain.levers.line("bed.target_c").isVisible()
    for part in ("case", "power", "machine", "hotend"):
        QTest.keyClick(window, Qt.Key.Key_Tab, Qt.KeyboardModifier.ControlModifier)
        assert explain.part == part
    assert not explain.fit.isVisible()
