"""The menu, and with it every shortcut of the window."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QMenu

from zeotherm.core.choices.faults import lacks
from zeotherm.desk.window import Window
from zeotherm.shop.files.own_entries import CAUSES, WORK
from zeotherm.wording.language import _

Entry = tuple[str, str, Callable[[], object]]  # what it says, its keys, what it does


def fill_menu(window: Window) -> None:
    """Fill the menu of a window, group by group; its entries are the window's actions too."""
    for name, entries in _groups(window):
        group = window.menu.addMenu(name)
        assert group is not None
        for text, keys, action in entries:
            item = QAction(text, window)
            if keys:
                item.setShortcut(QKeySequence(keys))
            item.triggered.connect(lambda _checked=False, action=action: action())
            window.addAction(item)
            group.addAction(item)
    window.menu.insertMenu(window.menu.actions()[-1], _faults(window, window.menu))


def _groups(window: Window) -> tuple[tuple[str, tuple[Entry, ...]], ...]:
    return (
        (_("Job"), (
            (_("Jobs"), "Ctrl+J", window.toggle_jobs),
            (_("New job"), "Ctrl+N", window.new_job),
            (_("Import a job or what was measured"), "Ctrl+O", window.ask_import),
            (_("Export this job"), "Ctrl+S", window.papers.export),
            (_("Describe this job"), "Ctrl+D", window.describe),
            (_("Print: report, work order, or build"), "Ctrl+P", window.print_shown),
            (_("Print the machine's card"), "", window.papers.ask_card),
            (_("Export damaged entries"), "", window.papers.export_damaged),
        )),
        (_("Machine"), (
            (_("The machine"), "Ctrl+M", window.show_machine),
            (_("Find a number or part"), "Ctrl+F", window.list_machine),
            (_("The bed"), "Ctrl+B", window.show_bed),
            (_("The case"), "Ctrl+E", window.show_case),
            (_("The power path"), "Ctrl+W", window.show_power),
            (_("Switch to the next toolhead"), "Ctrl+T", window.bench.next_in_front),
            (_("Add a toolhead"), "", window.bench.add_toolhead),
            (_("Add a supply"), "", lambda: window.bench.enter("another supply")),
            (_("The parts shelf"), "Ctrl+Shift+L", window.show_shelf),
            (_("Worst moment"), "Ctrl+Home", lambda: window.explain.scrub(None)),
        )),
        (_("Edit"), (
            (_("Undo"), "Ctrl+Z", window.bench.undo),
            (_("Redo"), "Ctrl+Shift+Z", window.bench.redo),
            (_("Everything as found"), "Ctrl+Backspace", window.bench.set_found),
            (_("Take the trial as found"), "Ctrl+Return", window.bench.accept_trial),
            (_("Keep the trial as an option"), "Ctrl+K", window.bench.offer_trial),
            (_("Lock the forecast as a run"), "Ctrl+L", window.bench.lock_forecast),
        )),
        (_("Go to"), (
            (_("Intake"), "F2", window.show_intake),
            (_("Measure"), "F3", window.show_measure),
            (_("Explain"), "F4", window.show_explain),
            (_("Choose"), "F5", window.show_choose),
            (_("Do"), "F6", window.show_do),
            (_("Smoke or runaway"), "F1", window.show_emergency),
            (_("Next step"), "PgDown", lambda: window.along_spine(1)),
            (_("Previous step"), "PgUp", lambda: window.along_spine(-1)),
        )),
        (_("Look"), (
            (_("Ladder span"), "F8", window.next_span),
            (_("Time strip"), "F9", window.explain.fold_strip),
            (_("Full window"), "F11", window.toggle_full),
            (_("Light or dark"), "F12", window.toggle_theme),
            (_("Larger text"), "Ctrl++", lambda: window.resize_text(0.1)),
            (_("Smaller text"), "Ctrl+-", lambda: window.resize_text(-0.1)),
            (_("Preferences"), "Ctrl+,", window.prefer),
        )),
        (_("Shop"), (
            (_("The shop's own causes"), "", lambda: window.papers.open_own(CAUSES)),
            (_("The shop's own procedures"), "", lambda: window.papers.open_own(WORK)),
            (_("Read the shop's own files again"), "", window.bench.read_own_entries),
        )),
        (_("Help"), (
            (_("Manual"), "Shift+F1", window.show_manual),
            (_("About Zeotherm"), "", window.about),
        )),
    )  # fmt: skip


def _faults(window: Window, menu: QMenu) -> QMenu:
    """Faults that may come at the moment shown, as far as the machine can show them."""
    faults, bench = QMenu(_("A fault at this moment"), menu), window.bench
    items: dict[str, QAction] = {}
    for key, kind in bench.catalogue.faults.items():
        items[key] = QAction(kind.label, faults)
        items[key].triggered.connect(lambda _on=False, key=key: bench.fault(key))
        faults.addAction(items[key])

    def offer() -> None:
        setup, catalogue = bench.job.setup(), bench.catalogue
        for key, item in items.items():
            item.setVisible(not lacks(catalogue.faults[key].change, setup, catalogue))

    faults.aboutToShow.connect(offer)
    return faults
