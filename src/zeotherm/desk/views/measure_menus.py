"""What the Measure view offers in menus: of a run, and what is done seldom."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QFileDialog, QMenu

from zeotherm.core.runs.figures import Doubt
from zeotherm.shop import run_edits
from zeotherm.wording.language import _

if TYPE_CHECKING:
    from zeotherm.desk.views.measure import MeasurePage

Entry = tuple[str, Callable[[], object] | None]  # what it says and does; nothing: not now


class Menus:
    """Makes the menus; each is shown by its caller."""

    def __init__(self, page: MeasurePage) -> None:
        self._page = page

    def _menu(self, entries: Sequence[Entry]) -> QMenu:
        menu = QMenu(self._page)
        for text, action in entries:
            item = QAction(text, menu)
            item.setEnabled(action is not None)
            if action is not None:
                item.triggered.connect(lambda _on=False, action=action: action())
            menu.addAction(item)
        return menu

    def of_run(self, key: str) -> QMenu:
        """What can be done with a run."""
        page = self._page
        measured = page.bench.job.measured
        hidden, laid = key in measured.hidden, measured.laid == key
        do = page.measuring.do
        shown = _("Compare it") if hidden else _("Leave it out of the comparison")
        over = _("Take it off the model") if laid else _("Lay it over the model")
        entries: list[Entry] = [
            (_("Label and nought"), lambda: page.asks.run(key).exec()),
            (_("Instruments and their doubt"), lambda: page.asks.doubts(key, self.usual_doubt).exec()),
            (shown, partial(do, run_edits.shown, key, hidden, label=_("runs compared"))),
            (over, partial(do, run_edits.laid, None if laid else key, label=_("run over the model"))),
            (_("Write it as CSV or JSON"), partial(self._export, key)),
            (_("Take it off the job"), partial(do, run_edits.without_run, key, label=_("run taken off"))),
        ]
        return self._menu([*entries, *self._joins(key)])

    def _joins(self, key: str) -> list[Entry]:
        """Other loggers' files of the same run that may be joined to it: none of their channels is shared."""
        runs = self._page.bench.job.measured.runs
        return [
            (_("Join {label} to it: the same run").format(label=run.label), partial(self._join, key, other))
            for other, run in runs.items()
            if other != key and not set(run.values) & set(runs[key].values)
        ]

    def _join(self, key: str, other: str) -> None:
        self._page.measuring.join(key, other, self._apart(key, other))

    def _apart(self, key: str, other: str) -> float:
        """Seconds from one run's clock to another's: by the clocks where both tell, else as they are lined up."""
        one, two = (self._page.bench.job.measured.runs[name] for name in (key, other))
        if one.start_h is not None and two.start_h is not None:
            return ((two.start_h - one.start_h + 12.0) % 24.0 - 12.0) * 3600.0
        held = self._page.held
        lines = held.found.lines if held is not None and held.found is not None else {}
        return lines[key].zero - lines[other].zero if key in lines and other in lines else 0.0

    def usual_doubt(self, channel: str) -> Doubt:
        """What is believed of a channel unless a run says otherwise."""
        catalogue = self._page.bench.catalogue
        kind = catalogue.kinds[catalogue.channels[channel].kind]
        return Doubt(kind.offset, kind.relative, kind.repeat)

    def _export(self, key: str) -> None:
        label = self._page.bench.job.measured.runs[key].label
        suggested = f"{label.replace(' ', '-').replace(',', '')}.csv"
        kinds = "CSV (*.csv);;JSON (*.json)"
        name, _kind = QFileDialog.getSaveFileName(self._page, _("Write this run"), suggested, kinds)
        if name:
            self._page.measuring.export_run(key, Path(name))

    def more(self) -> QMenu:
        """What is done seldom."""
        page = self._page
        columns = page.asks.columns()
        return self._menu([
            (_("Columns of the last log"), columns.exec if columns is not None else None),
            (_("Line up by"), lambda: page.asks.line_up().exec()),
            (_("Tariff"), lambda: page.asks.tariff().exec()),
            (_("All of the runs' time"), page.plot.whole),
            (_("Levels at the end of what all have"), lambda: page.compare_at(None)),
            (_("Copy the figures as a table"), page.copy_figures),
        ])  # fmt: skip
