"""What Do asks for in dialogs and menus: photographs, the reason for leaving a check out, a probe."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QUrl
from PyQt6.QtGui import QAction, QDesktopServices
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QMenu, QWidget

from zeotherm.core.work.planning import OrderLine
from zeotherm.desk.bench import Bench
from zeotherm.desk.qt import PHOTOS
from zeotherm.desk.views.do.working import Working
from zeotherm.shop.practice.probes import SPEEDS, Probe, SerialProbe, VirtualProbe, ports
from zeotherm.wording.language import _


class WorkAsks:
    """Dialogs and menus over the page; what is answered goes to the work."""

    def __init__(self, bench: Bench, working: Working, page: QWidget) -> None:
        self._bench, self._working, self._page = bench, working, page
        self.probes = QMenu(page)

    def photograph(self, line: OrderLine, key: str) -> None:
        """A photograph of the step at hand, from a file."""
        name, _kind = QFileDialog.getOpenFileName(self._page, _("Photograph of this step"), "", PHOTOS)
        if name:
            self._working.photograph(line, key, Path(name))

    def take_photograph(self, line: OrderLine, path: Path) -> bool:
        """A photograph dropped on the window goes with the step at hand; False where it wants none."""
        opened = self._working.opened(line)
        places = [one.key for one in line.step.record if one.kind == "photo"]
        empty = [key for key in places if key not in opened.photos]
        return bool(places) and self._working.photograph(line, (empty or places)[0], path)

    def open_photograph(self, line: OrderLine, key: str) -> None:
        """Look at a photograph of a step."""
        held = line.done if line.done is not None else self._working.opened(line)
        path = self._bench.unpack(held.photos[key]) if key in held.photos else None
        if path is not None:
            QDesktopServices.openUrl(QUrl.fromLocalFile(str(path)))

    def reason(self, check: str) -> None:
        """Why a re-check is left out."""
        text, sure = QInputDialog.getText(
            self._page, _("Leave this check out"), _("Why? It stands in the report with the customer's name on it.")
        )
        if sure:
            self._working.leave_out(check, text)

    def offer_probes(self, below: QWidget) -> None:
        """The probes there are, as a menu."""
        self.fill_probes()
        self.probes.popup(below.mapToGlobal(below.rect().bottomLeft()))

    def fill_probes(self) -> None:
        """List the probes there are."""
        self.probes.clear()
        entries: list[tuple[str, Callable[[], Probe]]] = [
            (_("Simulated probe on a cooling block"), partial(VirtualProbe, self._working.clock.steady)),
            *(
                (_("{port} at {speed} baud").format(port=port, speed=speed), partial(SerialProbe, port, speed))
                for port in ports()
                for speed in SPEEDS
            ),
        ]
        for text, make in entries:
            item = QAction(text, self.probes)
            item.triggered.connect(lambda _on=False, make=make: self._working.connect_probe(make))
            self.probes.addAction(item)
        if self._working.probe is not None:
            off = QAction(_("Let go of {name}").format(name=self._working.probe.name), self.probes)
            off.triggered.connect(self._working.disconnect_probe)
            self.probes.addAction(off)
