"""Gannet in its locker: as found, what PA wants of it, its heater sized, chosen, refused, ordered and proven."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from tests.window import put_on_bench, settle, type_line
from zeotherm.core.machine.measured import Run
from zeotherm.desk.window import Window
from zeotherm.shop.editing.run_edits import FORECAST, with_run


def case_known(qtbot, window: Window) -> None:
    """Wait until the case is answered in full."""
    case = window.explain.of("case")
    qtbot.waitUntil(
        lambda: case.found is not None and case.found.job == window.bench.job and bool(case.found.gone), timeout=90_000
    )


def test_from_a_warm_locker_to_a_heated_one(qtbot, open_window, tmp_path: Path):
    window: Window = open_window()
    bench, explain = window.bench, window.explain
    put_on_bench(window, "Gannet")
    settle(qtbot, window)

    # as found: passive, everything stands it, and how warm its own filament may be kept is said
    QTest.keyClick(window, Qt.Key.Key_E, Qt.KeyboardModifier.ControlModifier)
    case_known(qtbot, window)
    assert "everything in it stands that" in explain.verdict.accessibleName()
    assert "creeps from" in explain.rivals.text()
    assert explain.of("case").board.view.machine_mm == (430.0, 440.0, 95.0)
    passive = explain.of("case").found.answer.solved.low

    # the forecast is locked, and lies with the runs
    qtbot.waitUntil(bench.lock_forecast, timeout=60_000)
    (locked,) = bench.job.measured.runs.values()
    assert locked.source == FORECAST
    assert locked.doubts["near_bed"].repeat > 0.5  # the model's own band
    assert not bench.job.measured.laid  # and is not taken for measured
    assert not explain.of("case").run_to_fit()

    # a box smaller than the machine's travel is refused at the field, with the numbers
    before = bench.job
    type_line(qtbot, window, "case depth 400")
    assert bench.job == before
    assert "410 + 30 mm" in window.spine.entry.hint.toolTip()
    QTest.keyClick(window.spine.entry.field, Qt.Key.Key_Escape)

    # PA wants it warmer: sized, with the parts that do not stand it
    for line in ("filament PA", "nozzle 238", "case wanted 50"):
        type_line(qtbot, window, line)
    bench.accept_trial()
    settle(qtbot, window)
    window.show_choose()
    window.choose.turn_to("case")
    page = window.choose.sized["case"]
    qtbot.waitUntil(
        lambda: page.found is not None and page.found.job == bench.job and page.found.done and not page.asked.busy,
        timeout=120_000,
    )
    page.help.click()
    page.put.click()
    heater = next(key for key in bench.job.variants if key.startswith("case_heater"))

    # ordered without its cut-out: refused; with what sizing gave: offered, bench test before it goes in
    bench.choose([heater])
    bare = bench.job.variants[heater]
    case = {key: value for key, value in bare.change["case"].items() if key != "cutout_c"}
    bench.offer(heater, bare.model_copy(update={"change": {"case": case}}))
    window.show_do()
    do = window.do
    assert "case_heater" in do.working.picked()
    do.verdict.button.click()
    assert any(line.bar == "refused" and "cut-out" in line.bar_text for line in do.order.lines)
    bench.offer(heater, bare)
    helped = [key for key in bench.job.variants if key in ("supply_out", "printed_asa", "mount_asa")]
    bench.choose([*helped, heater])
    assert bench.job.planned().case.cutout_c == bare.change["case"]["cutout_c"]
    order = do.working.order
    steps = [line.key for line in order.lines if line.key.startswith("case_heater/")]
    assert not any(line.bar for line in order.lines if line.key.startswith("case_heater/"))
    assert steps.index("case_heater/bench") < steps.index("case_heater/place") < steps.index("case_heater/cutout")

    # the machine as it will be: the print as warm as it is wanted
    for key in (*helped, heater):
        for path, value in bench.job.variants[key].change["case"].items():
            bench.set_value(f"case.{path}", value)
    settle(qtbot, window)
    window.show_explain()
    QTest.keyClick(window, Qt.Key.Key_E, Qt.KeyboardModifier.ControlModifier)
    case_known(qtbot, window)
    warm = explain.of("case").found.answer.solved.low
    assert warm > passive + 10.0
    assert abs(warm - 50.0) < 1.0

    # proven by its own curve: walls and leaks fitted to the run that was made after
    run = explain.of("case").found.answer.run
    times = [60.0 * n for n in range(150)]
    air = [round(run.moment(time).low + (0.1 if n % 2 else -0.1), 2) for n, time in enumerate(times)]
    logged = Run(label="after", rows=150, start_h=bench.job.setup().schedule.start_h, time_s=times,
                 values={"near_bed": air, "room": [run.moment(time).around.room for time in times]})  # fmt: skip
    bench.accept_trial()
    bench.edit(lambda job: with_run(job, logged), "a run")
    settle(qtbot, window)
    case_known(qtbot, window)
    bench.edit(
        lambda job: job.model_copy(update={"measured": job.measured.model_copy(update={"laid": "run2"})}), "laid"
    )
    case_known(qtbot, window)
    explain.fit.click()
    qtbot.waitUntil(lambda: "by its curve" in explain.fits.text(), timeout=90_000)
    assert "K off" in explain.fits.text()
    explain.fit.click()
    assert 0.7 < bench.job.found.corrections.case_film < 1.4
    assert "corrections.case_gap" in bench.job.tolerances
