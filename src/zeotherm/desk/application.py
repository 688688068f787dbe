"""Makes the window on a workshop: opened, answered and ready to show."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QEventLoop

from zeotherm.answers.store import Store
from zeotherm.core.catalogue import shipped
from zeotherm.desk.bench import Bench
from zeotherm.desk.menu import fill_menu
from zeotherm.desk.style import theme
from zeotherm.desk.window import Window
from zeotherm.shop.editing.run_edits import with_picture, with_run
from zeotherm.shop.files.job_files import read_job
from zeotherm.shop.files.picture_files import as_document, read_picture
from zeotherm.shop.files.run_files import packed
from zeotherm.shop.files.series_files import as_run, read_series
from zeotherm.shop.places import demo_jobs
from zeotherm.shop.workshops.keeper import Keeper
from zeotherm.shop.workshops.workshop import Workshop

FIRST_ON_BENCH = "Curlew"  # of the demo


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
    fill_menu(window)
    answered = QEventLoop()
    bench.answered.connect(answered.quit)
    bench.unsolved.connect(answered.quit)
    bench.start()
    answered.exec()
    bench.answered.disconnect(answered.quit)
    bench.unsolved.disconnect(answered.quit)
    if bench.blank:
        window.new_job()
    return window
