"""What goes wrong anywhere in the program is logged, and told in one sentence."""

from __future__ import annotations

import logging
import sys
import threading
from types import TracebackType

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QApplication

from zeotherm.wording.language import _

log = logging.getLogger(__name__)


class Mishap(QObject):
    """Takes uncaught exceptions from any thread: logs them and tells the window in one sentence."""

    happened = pyqtSignal(str)

    def install(self) -> None:
        """Catch from now on; without this Qt ends the process."""
        sys.excepthook = self.catch
        threading.excepthook = lambda args: self.catch(
            args.exc_type, args.exc_value or args.exc_type(), args.exc_traceback
        )

    def catch(self, kind: type[BaseException], wrong: BaseException, trace: TracebackType | None) -> None:
        """Log it; the job was already kept with its last edit."""
        if issubclass(kind, KeyboardInterrupt):
            QApplication.quit()
            return
        log.error("uncaught", exc_info=(kind, wrong, trace))
        self.happened.emit(
            _("Something went wrong inside ({kind}). Every edit is kept; the log says more.").format(kind=kind.__name__)
        )
