"""The manual beside the window: the page of what is shown, words, links; all without a network."""

from __future__ import annotations

import re

from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtTest import QTest

from zeotherm.desk.views.manual import OF_VIEWS
from zeotherm.shop.manual import INDEX, LINKED, find, pages


def test_every_page_is_there_and_every_link_leads_to_one():
    known = pages()
    assert next(iter(known)) == INDEX
    assert set(OF_VIEWS.values()) <= set(known)
    for page in known.values():
        assert page.title
        assert "![" not in page.text
        assert set(LINKED.findall(page.text)) <= set(known), page.name
        assert not re.search(r"https?://", page.text), page.name


def test_words_find_pages():
    assert find("") == []
    assert find("no such word as xyzzy") == []
    assert find("HEAT break")[0][1] > 0
    counts = [count for _page, count in find("case")]
    assert counts == sorted(counts, reverse=True)


def test_the_manual_opens_at_what_is_shown(qtbot, open_window):
    window = open_window(settled=False)
    QTest.keyClick(window, Qt.Key.Key_F1, Qt.KeyboardModifier.ShiftModifier)
    manual = window.manual
    assert manual.isVisible()
    assert manual.list.currentItem().text() == pages()["reading"].title
    window.explain.turn_to("case")
    window.show_manual()
    assert manual.list.currentItem().text() == pages()["case"].title
    window.show_jobs()
    window.show_manual()
    assert manual.page.toPlainText().startswith(pages()["jobs"].title)
    QTest.keyClicks(manual.search, "plain words")
    hits = [manual.list.item(row).text() for row in range(manual.list.count())]
    assert f"{pages()['trying'].title} (3)" in hits
    manual.turn_to("trying")
    assert manual.page.textCursor().selectedText().lower() == "plain"
    QTest.keyClicks(manual.search, " xyzzy")
    assert manual.list.count() == 0
    assert "No page has these words" in manual.none.text()
    manual.search.clear()
    manual.page.anchorClicked.emit(QUrl("keys.md"))
    assert manual.list.currentItem().text() == pages()["keys"].title
    manual.page.anchorClicked.emit(QUrl("https://example.org/"))  # leads nowhere
    assert manual.list.currentItem().text() == pages()["keys"].title
    window.toggle_theme()
    QTest.keyClick(manual, Qt.Key.Key_Escape)
    assert not manual.isVisible()
