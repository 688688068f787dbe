"""Dunlin's bed on a long thin lead: seen, measured, sized, wired on paper, chosen, ordered; Gannet's supply in its
warm locker; a cartridge of the wrong voltage. Through the real window."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from tests.desk.test_power import power_known
from tests.window import put_on_bench, settle, type_line
from zeotherm.core.work.planning import refusal

CTRL = Qt.KeyboardModifier.ControlModifier


def on_bench(qtbot, window, machine: str) -> None:
    put_on_bench(window, machine)
    settle(qtbot, window)


def test_from_a_warm_plug_to_a_bed_on_its_own_switch(qtbot, open_window):
    window = open_window()
    bench, explain, choose = window.bench, window.explain, window.choose
    on_bench(qtbot, window, "Dunlin")

    # Ctrl+W: where the volts go
    QTest.keyClick(window, Qt.Key.Key_W, CTRL)
    power_known(qtbot, window)
    assert explain.verdict.accessibleName().startswith("The bed's plug carries")
    view = explain.of("power").board.view
    assert max((part for part in view.parts), key=lambda part: part.lost).key == "lead"
    assert view.bed_volts < 23.3

    # a thermal camera and a meter at the plug agree on its milliohms
    type_line(qtbot, window, "bed plug 79")
    type_line(qtbot, window, "plug drop 190 mV")
    power_known(qtbot, window)
    (_name, warm), (_seen, picture), (_same, drop) = explain.of("power").found.told
    assert abs(picture.milliohm - drop.milliohm) < picture.up + drop.up  # of the demo's thermal picture
    assert abs(warm.milliohm - drop.milliohm) < warm.up + drop.up
    assert "mΩ" in explain.rivals.text()

    # wrong entries: a wire that is no gauge, a length of nothing, a path that does not feed this bed
    before = bench.job
    for line in ("bed lead 52 AWG", "bed lead length 0", "power path mains_bed"):
        type_line(qtbot, window, line)
        assert bench.job == before
        assert window.spine.entry.hint.toolTip()
        QTest.keyClick(window.spine.entry.field, Qt.Key.Key_Escape)

    # sized and wired on paper
    window.show_choose()
    choose.turn_to("power")
    page = choose.sized["power"]
    qtbot.waitUntil(lambda: page.found is not None and page.found.done, timeout=60_000)
    assert "600 W" in page.texts["supply"].text()
    page.propose.click()
    assert "Nothing is wrong" in page.texts["faults"].accessibleName()
    for box, end in ((page.one, "fuse.a"), (page.other, "fuse.b")):
        box.setCurrentIndex(box.findData(end))
    page.add.click()
    assert "Blocked" in page.texts["faults"].accessibleName()
    assert "protects nothing" in page.texts["faults"].accessibleName()
    page.remove.click()
    assert "Nothing is wrong" in page.texts["faults"].accessibleName()
    page.put.click()
    page.module.click()
    assert {"supply_600", "bed_module"} <= set(bench.job.variants)

    # chosen: the order is the switch's own, and is refused without its fuse
    bench.choose(["supply_600", "bed_module"])
    planned = bench.job.planned()
    assert planned.power.path == "bed_by_module"
    work, doing = bench.catalogue.procedures["power_module"], bench.job.doing
    assert not refusal(work, doing, bench.job.found, bench.catalogue, planned)
    bare = planned.model_copy(update={"power": planned.power.model_copy(update={"fuse_a": 0.0})})
    assert "no fuse of its own" in refusal(work, doing, bench.job.found, bench.catalogue, bare)
    assert "No switch of its own" in refusal(work, doing, bench.job.found, bench.catalogue)
    window.show_do()
    do = window.do
    picked = set(do.working.picked())
    assert "power_module" in picked
    assert not picked & {"power_plug", "power_mains", "power_socket"}
    do.verdict.button.click()
    steps = [line.key for line in do.working.order.lines if line.key.startswith("power_module/")]
    assert steps.index("power_module/check") < steps.index("power_module/wire") < steps.index("power_module/cut")
    assert "check/retorque" in [line.key for line in do.working.order.lines]


def test_a_supply_in_a_warm_locker_gives_less(qtbot, open_window):
    window = open_window()
    explain = window.explain
    on_bench(qtbot, window, "Gannet")
    QTest.keyClick(window, Qt.Key.Key_W, CTRL)
    power_known(qtbot, window)
    inside = explain.of("power").found.answer
    assert inside.inlet > 36.0
    assert explain.verdict.accessibleName().startswith("Close: supply load")
    type_line(qtbot, window, "supply sits outside")
    power_known(qtbot, window)
    outside = explain.of("power").found.answer
    assert outside.inlet < inside.inlet - 8.0
    type_line(qtbot, window, "supply sits inside, high")
    for line in ("case heater 300 W", "case wanted 60"):
        type_line(qtbot, window, line)
    settle(qtbot, window)
    power_known(qtbot, window)
    heated = explain.of("power").found.answer
    assert heated.gives < 0.85 * inside.gives
    assert heated.margin("power_load").state.bad


def test_a_wrong_voltage_is_blocked_loudly(qtbot, open_window):
    window = open_window()
    on_bench(qtbot, window, "Dunlin")
    type_line(qtbot, window, "heater voltage 12")
    window.show_power()
    power_known(qtbot, window)
    assert window.explain.verdict.accessibleName().startswith(
        "Wrong voltage: the heater cartridge is for 12 V, it gets 24 V"
    )
    assert "4.0 times" in window.explain.verdict.accessibleDescription()
    assert window.explain.of("power").found.answer.wrong[0].times == pytest.approx((23.98 / 12.0) ** 2)
