"""The case in Explain, in the window."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from tests.core.test_chamber import CATALOGUE, setup_of
from tests.window import put_on_bench
from zeotherm.core.machine.documents import Job
from zeotherm.core.parts.enclosure.judge.answer import around_of, first_case, with_case_course
from zeotherm.core.parts.enclosure.part import CaseFound
from zeotherm.desk.parts.enclosure.board import CaseBoard
from zeotherm.desk.parts.enclosure.shown import case_ladder, case_picture, case_strip
from zeotherm.desk.style.patina import Span


def found_of(**case: float | str) -> CaseFound:
    setup = setup_of(**case)
    answer = with_case_course(first_case(setup, CATALOGUE), around_of(setup, CATALOGUE), 7200.0, 5400.0)
    return CaseFound(Job(found=setup), answer)


def test_the_views_of_a_case():
    found = found_of(heater_w=300.0, target_c=60.0, heater_at="roof", sensor_pct=90.0, supply_at="inside_low")
    ladder, picture, strip = case_ladder(found), case_picture(found), case_strip(found)
    assert {"case_low", "case_high", "case_sensor"} <= {one.key for one in ladder.markers}
    assert sum(count for _state, count in ladder.counts) == len(found.answer.margins)
    assert picture.high - picture.low > 15.0
    assert abs(picture.reading - picture.wanted) < 0.01
    assert picture.lost[0][0] in ("gaps", "vents", "roof")
    where = {pin.key: pin for pin in picture.pins}
    assert where["case_supply"].x < 1.0 < where["case_board"].x
    assert strip.limit == 60.0
    assert [curve.label for curve in strip.curves] == ["Print air", "Roof air", "Wall"]
    early = found.at(60.0)
    assert early.values["case_low"] < found.values["case_low"]
    assert case_ladder(early).title.startswith("1 min 00 s after")
    assert found.at(None).time is None


def test_a_case_that_is_left_to_itself_has_no_wanted_line(qtbot):
    found = found_of()
    assert case_strip(found).limit_text.startswith("supplies")
    board = CaseBoard()
    qtbot.addWidget(board)
    for size in ((760, 560), (430, 360)):
        board.resize(*size)
        board.show_view(case_picture(found))
        board.set_scale(Span.COOL.value)
        image = board.grab().toImage()
        shades = {image.pixelColor(x, y).name() for x in range(0, size[0], 6) for y in range(0, size[1], 6)}
        assert len(shades) > 6
    board.set_stale()
    board.show_view(None)
    assert board.accessibleDescription() == "Nothing encloses this machine"


def test_from_a_key_to_a_heated_case(qtbot, open_window):
    """Gannet's locker: passive, then with a heater under the roof, then a machine that stands open."""
    window = open_window()
    put_on_bench(window, "Gannet")
    explain = window.explain
    QTest.keyClick(window, Qt.Key.Key_E, Qt.KeyboardModifier.ControlModifier)
    assert explain.part == "case"
    qtbot.waitUntil(
        lambda: explain.of("case").found is not None and bool(explain.of("case").found.tried), timeout=90_000
    )
    assert explain.of("case").board.view.title.startswith("Bench locker")
    assert "The case comes to" in explain.verdict.accessibleName()
    assert "Insulating under the bed" in explain.rivals.text()
    passive = explain.of("case").found.values["case_low"]

    for line in ("case heater 300 W", "heater place roof", "case wanted 60", "case sensor 90 %"):
        assert window.bench.enter(line)

    def heated() -> bool:
        found = explain.of("case").found
        return found is not None and found.job == window.bench.job and bool(found.gone) and found.answer.run is not None

    qtbot.waitUntil(heated, timeout=90_000)
    assert "colder than the case is wanted" in explain.verdict.accessibleName()
    assert explain.of("case").found.values["case_low"] > passive
    assert explain.of("case").found.cut is not None
    assert "cut-out" in explain.rivals.text()
    explain.scrub(600.0)
    assert explain.of("case").found.time == 600.0
    explain.scrub(None)

    assert not window.bench.enter("case height 90")  # out of its span: said, nothing lost
    assert not window.bench.enter("case height 200")  # lower than its openings are apart
    assert window.bench.job.setup().case.height_mm == 560.0
    window.bench.set_value("case.part", "open_frame")
    qtbot.waitUntil(
        lambda: explain.of("case").found is not None and explain.of("case").found.answer is None, timeout=30_000
    )
    assert "Nothing encloses" in explain.verdict.accessibleName()
    explain.turn_on()
    assert explain.part == "power"
    explain.turn_on()
    assert explain.part == "machine"
