"""Starts the program: what was shown last stands there at once, and what takes long to load is loaded behind it."""

from __future__ import annotations

import logging
import sys
import threading
from importlib import import_module
from importlib.resources import files
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QCoreApplication, QObject, pyqtSignal
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import QApplication

from zeotherm.desk.ending import Ending
from zeotherm.desk.last_view import LastView
from zeotherm.desk.mishap import Mishap
from zeotherm.shop.errors import ShopError
from zeotherm.shop.leftovers import clean_leftovers
from zeotherm.shop.logs import start_log
from zeotherm.shop.places import log_file
from zeotherm.wording.language import _

if TYPE_CHECKING:
    from zeotherm.desk.window import Window

log = logging.getLogger(__name__)
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

    def _open(self, failed: BaseException | None) -> None:
        application = QApplication.instance()
        assert application is not None
        if failed is not None:
            self._give_up(application, failed)
            return
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
        except Exception as wrong:  # without a window nobody would hear of it
            self._give_up(application, wrong)
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

    def _give_up(self, application: QCoreApplication, wrong: BaseException) -> None:
        log.error("the window could not be made", exc_info=wrong)
        told = _("something went wrong inside ({kind}). Nothing was changed; {log} says more.")
        print(f"zeotherm: {told.format(kind=type(wrong).__name__, log=log_file())}", file=sys.stderr)
        application.exit(1)


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
