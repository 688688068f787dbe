"""Pictures of the main views, from the demo workshop, for the README and the manual."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from tests.clocks import Clocks

from zeotherm.core.work.planning import OrderLine
from zeotherm.desk.application import make_window
from zeotherm.desk.window import Window
from zeotherm.shop.editing.run_edits import following

HERE = Path(__file__).parent / "screenshots"
INTAKE = ("forget fan air in", "forget sink base", "jams", "late", "fan weak")
HEATED = ("case heater 300 W", "heater place roof", "case wanted 60", "case sensor 90 %")
SHOTS = {  # file: (theme, size, view, machine, lines entered)
    "explain.png": ("light", (1280, 800), "explain", "Curlew", ()),
    "machine.png": ("light", (1280, 800), "machine", "Gannet", ()),
    "explain-new.png": ("light", (1280, 800), "new", "Curlew", ()),
    "explain-power.png": ("light", (1280, 800), "power", "Dunlin", ()),
    "explain-bed.png": ("light", (1280, 800), "bed", "Dunlin", ()),
    "explain-case.png": ("light", (1280, 800), "case", "Gannet", HEATED),
    "choose.png": ("light", (1280, 800), "choose", "Curlew", ()),
    "choose-build.png": ("light", (1280, 800), "size:build", "Curlew", ()),
    "choose-window.png": ("light", (1280, 800), "size:window", "Dunlin", ()),
    "choose-size.png": ("light", (1280, 800), "size:bed", "Dunlin", ()),
    "choose-case.png": ("dark", (1280, 800), "size:case", "Gannet", ()),
    "choose-power.png": ("dark", (1280, 800), "size:power", "Dunlin", ()),
    "intake.png": ("light", (1280, 800), "intake", "Curlew", INTAKE),
    "measure.png": ("light", (1280, 800), "measure", "Curlew", ()),
    "arriving.png": ("light", (1280, 800), "arriving", "Curlew", ("h2 m5 r1 9.1",)),
    "do.png": ("light", (1280, 800), "do:cool", "Curlew", ()),
    "shelf.png": ("light", (1280, 800), "shelf", "Curlew", ("flow 9",)),
    "jobs.png": ("light", (1280, 800), "jobs", "Curlew", ()),
    "report.png": ("light", (1280, 800), "report", "Curlew", ()),
}


def settle(window: Window) -> None:
    """Wait until the job on the bench is answered in full."""
    for _ in range(500):
        found = window.bench.found
        if found is not None and found.job == window.bench.job and found.complete and found.sure is not None:
            break
        QTest.qWait(20)
    QTest.qWait(60)


def _arrive(window: Window, view: str, lines: tuple[str, ...]) -> None:
    """What comes in, and a machine of which nothing else is known."""
    window.new_job()
    for line in lines or ("m4",):
        window.arriving.enter(line)
    if view == "new":
        window.arriving.begin()
        settle(window)
        _machine(window)
    QTest.qWait(200)


def _shelf(window: Window, _view: str, lines: tuple[str, ...]) -> None:
    """The shelf with a figure typed, once it is known what that does."""
    window.show_shelf()
    for line in lines:
        window.shelf.enter(line)
    for _ in range(1500):
        QTest.qWait(20)
        if window.shelf.found is not None and window.shelf.found.done:
            break


def shoot(name: str, folder: Path) -> None:
    """Take one picture, in a workshop of its own."""
    theme, size, view, machine, lines = SHOTS[name]
    window = make_window(folder / f"{name}.zeotherm", demo=True, theme_name=theme)
    window.resize(*size)
    window.explain.turn_to("hotend")
    window.show()
    settle(window)
    window.bench.prefer(machine)
    window.bench.open_job(window.bench.key)
    settle(window)
    if view in ("arriving", "new", "shelf"):
        (_shelf if view == "shelf" else _arrive)(window, view, lines)
        lines = ()
    for line in lines:
        window.bench.enter(line)
    settle(window)
    if view == "jobs":
        window.show_jobs()
        QTest.qWait(4000)
    elif view == "choose":
        _choose(window)
    elif view == "intake":
        _intake(window)
    elif view.startswith("measure"):
        _measure(window, view.partition(":")[2])
    elif view.startswith("do"):
        _do(window, view.partition(":")[2])
    elif view == "machine":
        _machine(window)
    elif view == "bed":
        _bed(window)
    elif view == "case":
        _case(window)
    elif view == "power":
        _power(window)
    elif view.startswith("size:"):
        _size(window, view.partition(":")[2])
    elif view == "report":
        window.show_report()
        for _ in range(500):
            QTest.qWait(20)
            if window.report.page.toPlainText():
                break
        QTest.qWait(100)
    window.grab().save(str(HERE / name))
    window.close()


def _choose(window: Window) -> None:
    """Wait until the board is solved and searched."""
    told = []
    window.choose.asked.changed.connect(told.append)
    window.show_choose()
    for _ in range(1500):
        QTest.qWait(20)
        if told and told[-1].searched and not window.choose.asked.busy:
            break
    QTest.qWait(100)


def _machine(window: Window) -> None:
    """Wait until every part of the machine is answered."""
    machine = window.explain.machine
    window.show_machine()
    for _ in range(1500):
        QTest.qWait(20)
        if not machine.busy and machine.whole is not None and not machine.whole.waits:
            break
    QTest.qWait(100)


def _bed(window: Window) -> None:
    """Wait until the bed is answered in full."""
    window.explain.turn_to("bed")
    for _ in range(1500):
        QTest.qWait(20)
        found = window.explain.of("bed").found
        if found is not None and found.job == window.bench.job and found.answer is not None and found.answer.strengths:
            break
    QTest.qWait(100)


def _case(window: Window) -> None:
    """Wait until the case is answered in full."""
    window.explain.turn_to("case")
    for _ in range(1500):
        QTest.qWait(20)
        found = window.explain.of("case").found
        if found is not None and found.job == window.bench.job and found.gone and found.answer.run is not None:
            break
    QTest.qWait(100)


def _power(window: Window) -> None:
    """Wait until the power path is answered in full."""
    window.explain.turn_to("power")
    for _ in range(1500):
        QTest.qWait(20)
        found = window.explain.of("power").found
        if found is not None and found.job == window.bench.job and found.answer is not None and found.answer.strengths:
            break
    QTest.qWait(100)


def _size(window: Window, page: str) -> None:
    """Wait until the bed, the case or the power path is sized."""
    _choose(window)
    window.choose.turn_to(page)
    sizing = window.choose.sized[page]
    for _ in range(6000):
        QTest.qWait(20)
        if sizing.found is not None and sizing.found.done and not sizing.asked.busy:
            break
    if page == "power":
        sizing.take_proposal()
        QTest.qWait(400)
    QTest.qWait(100)


def _intake(window: Window) -> None:
    """Wait until the causes of heat are simulated."""
    window.show_intake()
    for _ in range(3000):
        QTest.qWait(20)
        known = window.intake.diagnosis
        if known is not None and known.job == window.bench.job and not window.intake.asked.busy:
            break
    QTest.qWait(100)


def _measure(window: Window, page: str) -> None:
    """Wait until the runs are compared."""
    window.show_measure()
    if page == "test":
        window.measure.measuring.do(following, "fan_off", label="guided test")
    for _ in range(500):
        QTest.qWait(20)
        held = window.measure.held
        if held is not None and held.job.measured == window.bench.job.measured and not window.measure.asked.busy:
            break
    if page:
        window.measure.turn_to(page)
    QTest.qWait(200)


def _do(window: Window, page: str) -> None:
    """An order in the middle of a wait: for the block to cool, or in a hot step."""
    clocks, working = Clocks(), window.do.working
    working.clock = clocks.bench()
    if page == "cool":
        _choose(window)
        window.choose.take.click()
    window.show_do()
    if page == "hot":
        window.do.plan.checks["nozzle_change"].click()
    window.do.verdict.button.click()
    if page == "hot":
        _read(window, clocks, ((150.0, 226.0),), "console")
        working.leave(_ready(window), "out")
    line = _ready(window)
    while page == "cool" and not any(gate.kind == "cool" for gate in line.step.gates):  # on to the first wait
        for index, gate in enumerate(line.step.gates):
            if gate.kind == "tick":
                working.tick(line, index)
        for asked in (one for one in line.step.record if one.required):
            working.note(line, asked.key, f"{asked.high:g}")
        if not working.leave(line, next(one.key for one in line.step.exits if not one.fails)):
            raise RuntimeError(f"{line.step.key} could not be left: {window.spine.entry.hint.toolTip()}")
        line = _ready(window)
    for index in [index for index, gate in enumerate(line.step.gates) if gate.kind == "tick"][:1]:
        working.tick(line, index)
    cools = ((120.0, 152.0), (180.0, 106.0), (270.0, 64.0))
    _read(
        window,
        clocks,
        ((100.0, 142.0), (45.0, 199.0)) if page == "hot" else cools,
        "console" if page == "hot" else "probe",
    )
    clocks.go(20.0)
    window.do._tick_along()
    QTest.qWait(300)


def _ready(window: Window) -> OrderLine:
    """The step at hand, its wait computed."""
    for _ in range(1500):
        QTest.qWait(20)
        order = window.do.order
        if order is not None and order.now is not None and window.do.working.aids(order.now) is not None:
            return order.now
    raise RuntimeError("the wait was not computed")


def _read(window: Window, clocks: Clocks, readings: tuple[tuple[float, float], ...], way: str) -> None:
    """Read what the step at hand waits for: (seconds since the last, value)."""
    line = _ready(window)
    window.do.working.begin(line, "")
    for seconds, value in readings:
        clocks.go(seconds)
        window.do.working.read(line, f"{value:g}", way)


def main() -> int:
    """Take all pictures, or those named."""
    application = QApplication([])
    assert application is not None
    HERE.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        for name in sys.argv[1:] or SHOTS:
            shoot(name, Path(folder))
    return 0


if __name__ == "__main__":
    sys.exit(main())
