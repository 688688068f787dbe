"""Starts the program: what was shown last stands there at once, and what takes long to load is loaded behind it."""

from __future__ import annotations

import sys
import threading
from importlib import import_module
from importlib.resources import files
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import QApplication

from zeotherm.desk.ending import Ending
from zeotherm.desk.last_view import LastView
from zeotherm.desk.mishap import Mishap
from zeotherm.shop.errors import ShopError
from zeotherm.shop.leftovers import clean_leftovers
from zeotherm.shop.logs import start_log

if TYPE_CHECKING:
    from zeotherm.desk.window import Window

HEAVY = "zeotherm.desk.application"


class Loading(QObject):
    """Loads the program in a thread of its own, so that what is shown meanwhile is painted."""

    loaded = pyqtSignal(object)  # None, or what went wrong

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._thread = threading.Thread(target=self._load, name="loading", daemon=True)

    @property
    def busy(self) -> bool:
        """Whether it is still at it."""
        return self._thread.is_alive()

    def start(self) -> None:
        """Begin."""
        self._thread.start()

    def _load(self) -> None:
        try:
            clean_leftovers()
            import_module(HEAVY)
            import_module("zeotherm.core.catalogue").shipped()
        except BaseException as wrong:
            self.loaded.emit(wrong)
            return
        self.loaded.emit(None)


class Opening(QObject):
    """From the first picture to the window."""

    opened = pyqtSignal()  # the window is there, answered

    def __init__(
        self, workshop: Path, ending: Ending | None = None, *, demo: bool, parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self._workshop, self._demo, self._ending = workshop, demo, ending
        self.window: Window | None = None
        self.mishap = Mishap()
        self.last = LastView.of(workshop)
        self._loading = Loading(self)
        self._loading.loaded.connect(self._open)

    def begin(self) -> None:
        """Show what was shown last, and load the rest."""
        if self.last is not None:
            self.last.show()
        self._loading.start()

    def _open(self, wrong: BaseException | None) -> None:
        application = QApplication.instance()
        assert application is not None
        if wrong is not None:
            raise wrong
        from zeotherm.desk.application import make_window
        from zeotherm.desk.style.theme import FontMissingError

        if self.last is not None and not self.last.isVisible():
            return  # it was closed meanwhile
        try:
            window = self.window = make_window(self._workshop, demo=self._demo)
        except (ShopError, FontMissingError) as refused:
            print(f"zeotherm: {refused}", file=sys.stderr)
            application.exit(1)
            return
        window.processes.stand_behind()
        window.bench.answered.connect(window.get_ready)
        self.mishap.happened.connect(lambda text: window.spine.entry.say(text, wrong=True))
        window.show()
        if self._ending is not None and self._ending.heard:  # asked to end while it was being opened
            window.close()
            return
        if self.last is not None:
            window.move(self.last.pos())
            self.last.close()
        self.opened.emit()


def run(workshop: Path, *, demo: bool) -> int:
    """Open the window and stay until it is closed; returns the exit code."""
    start_log()
    sys.setswitchinterval(0.0005)  # the window gets its turn sooner while the solver works
    application = QApplication(sys.argv[:1])
    application.setApplicationName("Zeotherm")
    application.setDesktopFileName("zeotherm")
    application.setWindowIcon(QIcon(str(files("zeotherm") / "desk" / "zeotherm.svg")))
    begun = Opening(workshop, Ending(application), demo=demo)
    begun.mishap.install()
    begun.begin()
    return application.exec()
