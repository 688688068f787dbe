"""Starts the window, and sees to it that nothing ends it without a word."""

from __future__ import annotations

import logging
import sys
import threading
from importlib.resources import files
from pathlib import Path
from types import TracebackType

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import QApplication

from zeotherm.answers.store import Store
from zeotherm.core.catalogue import shipped
from zeotherm.desk.bench import Bench
from zeotherm.desk.ending import Ending
from zeotherm.desk.style import theme
from zeotherm.desk.window import Window
from zeotherm.shop.errors import ShopError
from zeotherm.shop.job_files import read_job
from zeotherm.shop.keeper import Keeper
from zeotherm.shop.leftovers import clean_leftovers
from zeotherm.shop.logs import start_log
from zeotherm.shop.picture_files import as_document, read_picture
from zeotherm.shop.places import demo_jobs
from zeotherm.shop.run_edits import with_picture, with_run
from zeotherm.shop.run_files import packed
from zeotherm.shop.series_files import as_run, read_series
from zeotherm.shop.workshop import Workshop
from zeotherm.wording.language import _

log = logging.getLogger(__name__)
FIRST_ON_BENCH = "Curlew"  # of the demo


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


def fill_demo(workshop: Workshop) -> None:
    """Put the demo's jobs in, each with the runs and the picture that lie beside it, all of their rows kept."""
    for path in demo_jobs():
        job = read_job(path)
        for log_file in sorted(path.parent.glob(f"{path.stem}-run*.csv")):
            read = read_series(log_file, shipped())
            run = as_run(read, log_file.name)
            job = with_run(job, run.model_copy(update={"digest": workshop.keep(packed(read.series))}))
        for picture_file in sorted(path.parent.glob(f"{path.stem}-picture*.csv")):
            job = with_picture(job, as_document(read_picture(picture_file), picture_file.name))
        key = workshop.add(job)
        if job.machine.startswith(FIRST_ON_BENCH):
            workshop.set_note("on bench", str(key))


def make_window(workshop: Path, *, demo: bool, theme_name: str | None = None, store: Store | None = None) -> Window:
    """A window on a workshop file, answered and ready to show; store: of answers that are known already.

    Raises ShopError.
    """
    theme.load_fonts()
    bench = Bench(Keeper(workshop, fill_demo if demo else None), store)
    window = Window(bench, theme_name)
    bench.start()
    return window


def run(workshop: Path, *, demo: bool) -> int:
    """Open the window and stay until it is closed; returns the exit code."""
    start_log()
    sys.setswitchinterval(0.0005)  # the window gets its turn sooner while the solver works
    application = QApplication(sys.argv[:1])
    application.setApplicationName("Zeotherm")
    application.setDesktopFileName("zeotherm")
    application.setWindowIcon(QIcon(str(files("zeotherm") / "desk" / "zeotherm.svg")))
    mishap = Mishap()
    mishap.install()
    clean_leftovers()
    Ending(application)
    try:
        window = make_window(workshop, demo=demo)
    except (ShopError, theme.FontMissingError) as wrong:
        print(f"zeotherm: {wrong}", file=sys.stderr)
        return 1
    window.processes.stand_behind()
    window.bench.answered.connect(window.get_ready)
    mishap.happened.connect(lambda text: window.spine.entry.say(text, wrong=True))
    window.show()
    return application.exec()
