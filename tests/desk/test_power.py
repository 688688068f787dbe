"""The power path in the window: Explain's strip, Choose's sizes, the wiring on paper."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
import pytest
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QImage

from tests.core.test_nets import FEEDS
from tests.core.test_power import CATALOGUE, answer_of, setup_of
from tests.window import put_on_bench, settle, type_line
from zeotherm.core.machine.documents import Job, patched
from zeotherm.core.parts.power.judge.answer import with_power_course
from zeotherm.core.parts.power.judge.nets import check, proposed
from zeotherm.core.parts.power.part import PowerFound
from zeotherm.core.parts.whole.run import simulate
from zeotherm.desk.parts.power.board import PowerBoard
from zeotherm.desk.parts.power.shown import power_ladder, power_picture, power_strip
from zeotherm.desk.parts.power.wiring_board import WiringBoard
from zeotherm.desk.parts.power.wiring_drawing import frame_of
from zeotherm.desk.parts.power.wiring_shown import wiring_view
from zeotherm.desk.style.patina import Span
from zeotherm.desk.widgets.timestrip import TimeStrip


def found_of(**power: object) -> PowerFound:
    return PowerFound(Job(found=setup_of(**power)), answer_of(**power))


def shades(board, size: tuple[int, int]) -> int:
    board.resize(*size)
    image = board.grab().toImage()
    return len({image.pixelColor(x, y).name() for x in range(0, size[0], 5) for y in range(0, size[1], 5)})


def test_the_views_of_a_path():
    found = found_of(plug={"milliohm": 18.0})
    picture, ladder = power_picture(found), power_ladder(found)
    assert [part.key for part in picture.parts][:3] == ["supply_terminal", "feed", "feed_terminal"]
    assert picture.bed_volts + sum(part.lost for part in picture.parts) - 24.0 < 1e-9
    assert {"power_plug", "power_lead"} <= {one.key for one in ladder.markers}
    assert picture.others[0][0] == "Motors"
    assert [part.short for part in picture.hotend] == ["Terminal", "Lead", "Plug"]
    assert picture.hotend_text[0] == "Hotend 39 W"
    by_watts = power_picture(found, by_watts=True)
    assert by_watts.parts[0].watts > by_watts.parts[-1].watts
    mains = patched_mains()
    assert not power_picture(mains).branch_at


def patched_mains() -> PowerFound:
    from zeotherm.core.parts.power.judge.answer import first_power

    setup = patched(setup_of(), {"bed": {"part": "large_mains_bed", "heater_w": 600.0},
                                 "power": {"path": "mains_bed", "switch": "solid_state_sink"}})  # fmt: skip
    return PowerFound(Job(found=setup), first_power(setup, CATALOGUE))


def test_a_path_is_painted_wide_and_slim_and_over_its_job(qtbot):
    board = PowerBoard()
    qtbot.addWidget(board)
    board.set_scale(Span.COOL.value)
    for found in (found_of(plug={"milliohm": 18.0}), found_of(plug={"milliohm": 120.0}), patched_mains()):
        board.show_view(power_picture(found))
        assert shades(board, (640, 520)) > 8
        assert shades(board, (440, 360)) > 6
    board.show_view(None)
    assert "not described" in board.accessibleDescription()
    run = simulate(setup_of(), CATALOGUE)
    found = found_of()
    strip = power_strip(PowerFound(found.job, with_power_course(found.answer, run)))
    assert [curve.label for curve in strip.curves] == ["Bed plug", "Feed terminal", "Bed lead"]
    assert power_strip(found) is None
    watts = power_strip(PowerFound(found.job, with_power_course(found.answer, run)), by_watts=True)
    assert watts.unit == "W"
    together, mean, gives, lost = (curve.values for curve in watts.curves)
    assert (together >= mean - 1e-9).all()
    assert together.max() == pytest.approx(found.answer.asked, rel=0.03)
    assert np.interp(7200.0, watts.curves[0].times, mean) < together.max() - 10.0
    assert (lost < 0.1 * together.max()).all()
    assert watts.limit == gives.min()
    loose = {
        "loose": {"label": "Bed's plug works loose", "at_min": 60.0, "change": {"power": {"plug": {"state": "loose"}}}}
    }
    faulty = replace(found.answer, setup=patched(found.answer.setup, {"faults": loose}))
    told = power_strip(PowerFound(found.job, with_power_course(faulty, run)))
    assert any(tick.alarm and tick.time == 3600.0 for tick in told.ticks)
    assert "worst hour" in watts.sentence
    shown = TimeStrip()
    qtbot.addWidget(shown)
    shown.show_view(watts)
    assert shades(shown, (900, 130)) > 4


def test_a_wiring_is_painted_and_its_faults_marked(qtbot):
    board = WiringBoard()
    qtbot.addWidget(board)
    wiring = proposed("module", CATALOGUE, FEEDS["module"])
    board.show_view(wiring_view(wiring, [], CATALOGUE, "right"))
    assert shades(board, (600, 420)) > 3
    wrong = wiring.model_copy(update={"links": wiring.links[1:]})
    view = wiring_view(wrong, check(wrong, CATALOGUE, FEEDS["module"]), CATALOGUE, "wrong")
    assert "board.in_plus" in view.wrong_ends
    board.show_view(view)
    assert board.accessibleDescription() == "wrong"


def test_readings_of_other_parts_do_not_trouble_the_hotends_picture(qtbot, open_window):
    window = open_window()
    settle(qtbot, window)
    for line in ("motor reading 51", "bed plug 80", "roof air 40", "plug drop 120 mV"):
        type_line(qtbot, window, line)
        window.explain.of("hotend").board.grab()
    settle(qtbot, window)
    assert {"motor", "power_plug", "power_plug_drop"} <= set(window.bench.job.readings)


def power_known(qtbot, window) -> None:
    def done() -> bool:
        found = window.explain.of("power").found
        if found is None or found.job != window.bench.job or found.answer is None:
            return False
        return bool(found.answer.strengths) and found.answer.run is not None

    qtbot.waitUntil(done, timeout=60_000)


def test_an_undescribed_path_asks_for_itself(qtbot, open_window):
    window = open_window()
    settle(qtbot, window)
    window.show_power()
    qtbot.waitUntil(lambda: "not described" in window.explain.verdict.accessibleName(), timeout=20_000)
    type_line(qtbot, window, "power path bed_on_board")
    power_known(qtbot, window)
    assert window.explain.of("power").board.view.parts
    # every number of the path, and only those, in the machine's own window
    qtbot.mouseClick(window.explain.fit, Qt.MouseButton.LeftButton)
    levers = window.machine.levers
    assert {"power.plug.milliohm", "power.lead.mm2"} <= set(levers.shown)
    assert all(path.startswith("power.") for path in levers.shown)
    window.machine.sought.setText("bed lead length")
    assert levers.shown == ["power.lead.metres"]
    window.machine.close()


def test_the_strip_by_watts_and_at_another_moment(qtbot, open_window):
    window = open_window()
    put_on_bench(window, "Dunlin")
    settle(qtbot, window)
    window.show_power()
    power_known(qtbot, window)
    explain = window.explain
    qtbot.mouseClick(explain.of("power").widths[True], Qt.MouseButton.LeftButton)
    assert explain.of("power").board.view.by_watts
    late = explain.of("power").found.values["power_plug"]
    explain.scrub(60.0)
    assert explain.of("power").found.values["power_plug"] < late
    explain.scrub(None)
    assert explain.of("power").found.time is None


def test_the_wiring_picture_is_written_only_when_nothing_is_wrong(qtbot, open_window, tmp_path):
    window = open_window()
    put_on_bench(window, "Dunlin")
    settle(qtbot, window)
    window.show_choose()
    window.choose.turn_to("power")
    page = window.choose.sized["power"]
    qtbot.waitUntil(lambda: page.found is not None and page.found.done, timeout=60_000)
    page.take_proposal()
    assert not page.faults
    page.write_picture(tmp_path / "wiring.png")
    assert QImage(str(tmp_path / "wiring.png")).width() == 1200
    for ending, begins in ((".pdf", b"%PDF"), (".svg", b"<?xml")):
        page.write_picture(tmp_path / f"wiring{ending}")
        assert (tmp_path / f"wiring{ending}").read_bytes().startswith(begins)
    page.write_picture(tmp_path / "wiring.bmp")
    assert "written as .pdf, .svg or .png" in page.trouble.text()
    page.write_picture(tmp_path / "nowhere" / "wiring.pdf")
    assert "could not be written" in page.trouble.text()
    # a thinner wire and a larger fuse, typed
    page.number.setValue(4)
    page.mm2.setValue(0.5)
    page.mm2.editingFinished.emit()
    assert window.bench.job.wiring.links[3].mm2 == 0.5
    assert {"wire_thin", "fuse_large"} <= {one.key for one in page.faults}
    page.mm2.setValue(4.0)
    page.mm2.editingFinished.emit()
    page.fuse.setValue(63.0)
    page.fuse.editingFinished.emit()
    assert [one.key for one in page.faults] == ["fuse_large"]
    page.take_proposal()
    assert not page.faults
    page.number.setValue(4)
    page.remove_wire()
    assert "Blocked" in page.texts["faults"].accessibleName() or "Not yet" in page.texts["faults"].accessibleName()
    page.write_picture(tmp_path / "wrong.png")
    assert not (tmp_path / "wrong.png").exists()
    assert "put right" in page.trouble.text()
    before = len(window.bench.job.wiring.links)
    page.add_wire()
    assert len(window.bench.job.wiring.links) == before + 1
    page.one.setCurrentIndex(page.one.findData("module.in_plus"))
    page.one.activated.emit(page.one.currentIndex())
    assert window.bench.job.wiring.links[-1].ends[0] == "module.in_plus"
    # of mains, nothing is taken for granted
    page._set(proposed("mains", CATALOGUE, FEEDS["mains"]), "mains")
    assert page.leakage.isVisible()
    assert "no leakage protection" in page.texts["faults"].accessibleName()
    page.leakage.click()
    assert window.bench.job.wiring.leakage_protected
    assert "no leakage protection" not in page.texts["faults"].accessibleName()
    page.supply_on_board()
    page.module_on_board()
    assert {"supply_600", "bed_module"} <= set(window.bench.job.variants)


@pytest.mark.parametrize("kind", ["module", "mains"])
@pytest.mark.parametrize("size", [(600, 440), (560, 340)])
def test_no_part_of_a_wiring_lies_over_another(kind, size):
    view = wiring_view(proposed(kind, CATALOGUE, FEEDS[kind]), [], CATALOGUE, "right")
    frames = [frame_of(part, QRectF(0, 0, *size)) for part in view.parts]
    assert len(frames) >= 6
    for one, other in itertools.combinations(frames, 2):
        assert not one.intersects(other)


def test_nothing_is_offered_for_a_bed_that_nobody_has_entered(qtbot, open_window):
    window = open_window()
    put_on_bench(window, "Dunlin")
    window.show_choose()
    window.choose.turn_to("power")
    page = window.choose.sized["power"]
    qtbot.waitUntil(lambda: page.found is not None and page.found.sizes is not None, timeout=120_000)
    assert page.propose.isEnabled()
    page.take_proposal()
    assert page.print.isEnabled()
    window.bench.set_known("bed.heater_w", "assumed")
    assert not page.propose.isEnabled()
    assert not page.put.isEnabled()
    assert not page.print.isEnabled()
    assert "Enter first: Bed heater: read its print" in page.trouble.text()
    window.bench.set_known("bed.heater_w", "entered")
    assert page.propose.isEnabled()
    assert not page.trouble.text()
