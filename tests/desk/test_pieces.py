"""Colours, ladder and scheduler on their own."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QScrollArea

from zeotherm.answers.hotend import Found
from zeotherm.core.catalogue import shipped
from zeotherm.core.parts.hotend.judge.ask import first_answer
from zeotherm.desk.parts.hotend.drawing import laid_out
from zeotherm.desk.style import theme
from zeotherm.desk.style.patina import STOPS, Span
from zeotherm.desk.viewmodels import ladder, margin_rows
from zeotherm.desk.views.emergency import EmergencyView
from zeotherm.desk.views.report import reports
from zeotherm.desk.widgets.cautions import Cautions
from zeotherm.desk.widgets.ladder import pushed_apart


def luminance(colour: QColor) -> float:
    parts = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in colour.getRgbF()[:3]]
    return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]


def contrast(one: QColor, other: QColor) -> float:
    light, dark = sorted((luminance(one), luminance(other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


TEXT = [
    ("ink", "sheet"),
    ("ink", "panel"),
    ("ink", "well"),
    ("soft", "sheet"),
    ("soft", "panel"),
    ("soft", "well"),
    ("over", "panel"),
    ("over", "sheet"),
    ("close", "panel"),
    ("close", "closebg"),
    ("accent", "accentbg"),
    ("onaccent", "accent"),
    ("onover", "over"),
    ("meas", "flag"),
    ("accent", "sheet"),
]


@pytest.mark.parametrize("name", ["light", "dark"])
def test_text_can_be_read(name):
    tokens = theme.THEMES[name]
    for text, ground in TEXT:
        assert contrast(tokens[text], tokens[ground]) >= 4.5, (text, ground)
    assert contrast(tokens["rule"], tokens["sheet"]) >= 3.0


def test_temperature_colours_grow_lighter_all_the_way():
    light = [luminance(QColor(stop)) for stop in STOPS]
    assert light == sorted(light)


@pytest.mark.parametrize("span", list(Span))
def test_the_scale_rises_and_passes_its_knots(span):
    scale = span.value
    for temperature, share in zip(scale.temperatures, scale.shares, strict=True):
        assert scale.share(temperature) == pytest.approx(share, abs=2e-3)
    steps = np.diff([scale.share(t) for t in np.linspace(scale.low, scale.high, 200)])
    assert (steps > 0).all()


@settings(suppress_health_check=[HealthCheck.too_slow])  # the first draw waits for a busy machine
@given(st.lists(st.floats(0, 600), min_size=1, max_size=25))
def test_labels_keep_order_and_distance(wishes):
    wishes = sorted(wishes)
    places = pushed_apart(wishes, 18, 0, 640)
    assert all(b - a >= 18 - 1e-6 for a, b in itertools.pairwise(places))
    assert places[0] >= 0
    assert places[-1] <= 640


def test_one_conductivity_moves_every_picture(demo, qapp):
    """Ladder, margins, section and report are all of the one solved field."""
    theme.load_fonts()
    job = demo("Curlew")
    steel = shipped().materials["stainless_steel"].model_dump()
    steel["conductivity_w_mk"]["value"] = 8.0
    shown = []
    for own in ({}, {"materials": {"stainless_steel": steel}}):
        changed = job.model_copy(update={"catalogue": own})
        answer = first_answer(changed.setup(), shipped().with_own(own))
        found = Found(changed, answer, None)
        section = laid_out(answer, QRectF(0, 0, 600, 600))
        image, _corner = section.image(Span.FULL.value, QRectF(0, 0, 600, 600))
        pixels = image.constBits().asarray(image.sizeInBytes())
        shown.append((ladder(found), margin_rows(answer), bytes(pixels), reports.page(found, (), "today")))
    for one, other in zip(*shown, strict=True):
        assert one != other


def test_cautions_that_have_no_room_are_named_and_read_out(qtbot):
    entries = shipped().cautions
    called = {key: entries[key].text for key in ("burn", "case_heater", "case_shut", "case_blown")}
    cautions = Cautions()
    qtbot.addWidget(cautions)
    cautions.show_called(called, shipped())
    _first, last = (label for _sign, label in cautions._lines)
    assert "Besides: fumes." in last.text()
    assert entries["case_blown"].text in last.accessibleName()
    cautions.set_most(1)
    first = cautions._lines[0][1]
    assert "Besides: fire, fumes." in first.text()
    cautions.show_called({"burn": entries["burn"].text, "power_off": entries["power_off"].text}, shipped())
    assert "Besides" not in first.text()  # the usual ones go for every machine


@pytest.mark.parametrize("size", [(1280, 742), (1024, 642), (1920, 1000)])
def test_the_alarm_page_is_large_and_needs_no_scrolling(qtbot, size):
    page = EmergencyView(shipped())
    qtbot.addWidget(page)
    page.resize(*size)
    page.grab()  # lays it out
    assert page.size_of_first >= 20
    assert page.title.font().pixelSize() >= 40
    bar = page.findChild(QScrollArea).verticalScrollBar()
    assert bar.maximum() == 0
    assert set(page.blocks) == set(shipped().emergencies)
    tallest = max(label.mapTo(page, label.rect().bottomLeft()).y() for label in page.blocks.values())
    assert tallest > 0.75 * size[1]  # it fills its page
