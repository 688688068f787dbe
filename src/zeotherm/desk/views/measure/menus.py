"""What the Measure view offers in menus: of a run, and what is done seldom."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import partial
from pathlib import Path

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QFileDialog, QMenu, QWidget

from zeotherm.core.runs.alignment import Origin
from zeotherm.core.runs.figures import Doubt
from zeotherm.desk.bench import Bench
from zeotherm.desk.views.measure.asks import Asks
from zeotherm.desk.views.measure.measuring import Measuring
from zeotherm.shop.editing import run_edits
from zeotherm.shop.places import file_stem
from zeotherm.wording.language import _

Entry = tuple[str, Callable[[], object] | None]  # what it says and does; nothing: not now


class Menus:
    """Makes the menus; each is shown by its caller."""

    def __init__(
        self,
        bench: Bench,
        measuring: Measuring,
        asks: Asks,
        origins: Callable[[], Mapping[str, Origin]],
        parent: QWidget,
    ) -> None:
        """Origins: how the runs are lined up now."""
        self._bench, self._measuring, self._asks, self._origins = bench, measuring, asks, origins
        self._parent = parent

    def _menu(self, entries: Sequence[Entry]) -> QMenu:
        menu = QMenu(self._parent)
        for text, action in entries:
            item = QAction(text, menu)
            item.setEnabled(action is not None)
            if action is not None:
                item.triggered.connect(lambda _on=False, action=action: action())
            menu.addAction(item)
        return menu

    def of_run(self, key: str) -> QMenu:
        """What can be done with a run."""
        measured = self._bench.job.measured
        hidden, laid = key in measured.hidden, measured.laid == key
        do = self._measuring.do
        shown = _("Compare it") if hidden else _("Leave it out of the comparison")
        over = _("Take it off the model") if laid else _("Lay it over the model")
        entries: list[Entry] = [
            (_("Label and zero"), lambda: self._asks.run(key).exec()),
            (_("Instruments and their doubt"), lambda: self._asks.doubts(key, self.usual_doubt).exec()),
            (shown, partial(do, run_edits.shown, key, hidden, label=_("runs compared"))),
            (over, partial(do, run_edits.laid, None if laid else key, label=_("run over the model"))),
            (_("Write it as CSV or JSON"), partial(self._export, key)),
            (_("Take it off the job"), partial(do, run_edits.without_run, key, label=_("run taken off"))),
        ]
        return self._menu([*entries, *self._joins(key)])

    def _joins(self, key: str) -> list[Entry]:
        """Other loggers' files of the same run that may be joined to it: none of their channels is shared."""
        runs = self._bench.job.measured.runs
        return [
            (_("Join {label} to it: the same run").format(label=run.label), partial(self._join, key, other))
            for other, run in runs.items()
            if other != key and not set(run.values) & set(runs[key].values)
        ]

    def _join(self, key: str, other: str) -> None:
        self._measuring.join(key, other, self._apart(key, other))

    def _apart(self, key: str, other: str) -> float:
        """Seconds from one run's clock to another's: by the clocks where both tell, else as they are lined up."""
        one, two = (self._bench.job.measured.runs[name] for name in (key, other))
        if one.start_h is not None and two.start_h is not None:
            return ((two.start_h - one.start_h + 12.0) % 24.0 - 12.0) * 3600.0
        origins = self._origins()
        return origins[key].zero - origins[other].zero if key in origins and other in origins else 0.0

    def usual_doubt(self, channel: str) -> Doubt:
        """What is believed of a channel unless a run says otherwise."""
        catalogue = self._bench.catalogue
        kind = catalogue.kinds[catalogue.channels[channel].kind]
        return Doubt(kind.offset, kind.relative, kind.repeat)

    def _export(self, key: str) -> None:
        label = self._bench.job.measured.runs[key].label
        suggested = f"{file_stem(label)}.csv"
        kinds = "CSV (*.csv);;JSON (*.json)"
        name, _kind = QFileDialog.getSaveFileName(self._parent, _("Write this run"), suggested, kinds)
        if name:
            self._measuring.export_run(key, Path(name))

    def more(self, of_view: Sequence[Entry]) -> QMenu:
        """What is done seldom; of_view: what the view itself adds."""
        columns = self._asks.columns()
        own: list[Entry] = [
            (_("Columns of the last log"), columns.exec if columns is not None else None),
            (_("Origin up by"), lambda: self._asks.line_up().exec()),
            (_("Tariff"), lambda: self._asks.tariff().exec()),
        ]
        return self._menu([*own, *of_view])
