"""The window: spine above, the view of the moment below, keys everywhere."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

from PyQt6.QtCore import QByteArray, QEvent, QObject, QPoint, QSize, Qt, QTimer
from PyQt6.QtGui import (
    QCloseEvent,
    QDragEnterEvent,
    QDropEvent,
    QGuiApplication,
    QKeyEvent,
)
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QLineEdit,
    QMainWindow,
    QMenu,
    QMessageBox,
    QPlainTextEdit,
    QStackedWidget,
    QTextEdit,
    QVBoxLayout,
    QWidget,
)

from zeotherm import __version__
from zeotherm.answers.board import SolvedBoard
from zeotherm.answers.hotend import Found
from zeotherm.answers.processes import Processes
from zeotherm.core.catalogue import shipped
from zeotherm.core.judgement.margins import State
from zeotherm.core.machine.documents import Job
from zeotherm.desk.bench import Bench
from zeotherm.desk.beside import AskedBeside
from zeotherm.desk.bridge import Asked
from zeotherm.desk.finding import Finder
from zeotherm.desk.last_view import keep_view
from zeotherm.desk.qt import turn_page
from zeotherm.desk.style import theme
from zeotherm.desk.views.choose.shown import board
from zeotherm.desk.views.explain.view import ExplainView
from zeotherm.desk.views.report.papers import Papers
from zeotherm.desk.widgets.labels import show_tip
from zeotherm.desk.widgets.rows import FocusRow
from zeotherm.desk.widgets.spine import Spine
from zeotherm.shop.files.arrivals import Arrival, kind_of
from zeotherm.wording.entry import Understood, understand
from zeotherm.wording.language import _
from zeotherm.wording.runs import brief

if TYPE_CHECKING:
    from zeotherm.core.parts.bed.part import BedFound
    from zeotherm.desk.views.arriving import ArrivingPage
    from zeotherm.desk.views.choose.view import ChooseView
    from zeotherm.desk.views.do.view import DoPage
    from zeotherm.desk.views.emergency import EmergencyView
    from zeotherm.desk.views.intake.view import IntakePage
    from zeotherm.desk.views.jobs import JobsView
    from zeotherm.desk.views.machine import MachineDialog
    from zeotherm.desk.views.manual import ManualDialog
    from zeotherm.desk.views.measure.view import MeasurePage
    from zeotherm.desk.views.report.view import ReportView
    from zeotherm.desk.views.shelf.view import ShelfPage
    from zeotherm.shop.editing.arriving import Incoming

Page = TypeVar("Page", bound=QWidget)
SAME_SIZE = 0.01  # of the text, that is no change
VIEWS = (
    "do",
    "choose",
    "intake",
    "measure",
    "jobs",
    "emergency",
    "report",
    "arriving",
    "shelf",
)  # beside the first, as they are made ready
LINES = {
    "arriving": _("Type codes: h2 m3 r1 9.1"),
    "shelf": _("Type a figure: flow 6.8"),
    "build": _("Type a part: break bimetal"),
    "": _("Type a value: fan 9.1 V"),
}
SMALLEST = (1024, 700)
ALARM_KEY, MOST_DIALOGS = Qt.Key.Key_F1, 3  # of smoke or runaway; dialogs that may stand over each other
USUAL = (1280, 800)
TITLE_BAR = 40  # px, with the window's frame
READABLE = _(
    "Jobs and what was measured (*.json *.csv *.tsv *.txt *.log *.gcode *.wav *.tif *.tiff *.png);;All files (*)"
)


def fitting(wanted: QSize, screen: QSize) -> QSize:
    """A window's size on a screen that has so much room: its title bar counts too."""
    return wanted.boundedTo(screen - QSize(0, TITLE_BAR)).expandedTo(QSize(*SMALLEST))


class Window(QMainWindow):
    """Everything a person sees."""

    def __init__(self, bench: Bench, theme_name: str | None = None) -> None:
        super().__init__()
        self.bench = bench
        self._wear(theme_name or self._look())
        self.spine = Spine(self._understood)
        self.stack = QStackedWidget()
        self.processes = Processes(bench.store)
        self.explain = self._page(ExplainView(bench))
        self.machine: MachineDialog | None = None
        self.beside = AskedBeside(bench, self)
        self.papers = Papers(bench, self, self.spine.entry.say, self.beside, lambda: self.choose.change)
        self.steps = (
            (self.spine.intake, "intake", self.show_intake), (self.spine.measure, "measure", self.show_measure),
            (self.spine.explain, "explain", self.show_explain), (self.spine.choose, "choose", self.show_choose),
            (self.spine.do, "do", self.show_do),
        )  # fmt: skip
        self.shown, self._before_alarm = "explain", "explain"
        self._closed = False
        self._outdated: set[str] = set()  # views that are to take up light or dark, or another size of text
        self._board_of = ""  # number of the job whose board was solved
        self._told_unwritten = False  # that closing would leave an edit behind
        body = QWidget()
        body.setObjectName("page")
        layout = QVBoxLayout(body)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.spine)
        layout.addWidget(self.stack, 1)
        self.setCentralWidget(body)
        self.setMinimumSize(*SMALLEST)
        self.setAcceptDrops(True)
        self.resize(*USUAL)
        self._restore()
        self.menu = QMenu(self)  # filled by `menu.fill_menu`
        self._connect()
        self._show_job(bench.job)
        self.show_explain()

    # views: made when first seen, or once there is nothing else to do

    @cached_property
    def intake(self) -> IntakePage:
        """What is known, what it may be, what to check next."""
        from zeotherm.desk.views.intake.view import IntakePage

        page = self._page(IntakePage(self.bench, self.processes))
        page.answered.connect(self.spine.intake.show_answer)
        page.verdict.button.clicked.connect(self.show_explain)
        page.fact_wanted.connect(self.show_fact)
        return page

    @cached_property
    def measure(self) -> MeasurePage:
        """What was measured, lined up and compared."""
        from zeotherm.desk.views.measure.view import MeasurePage

        page = self._page(MeasurePage(self.bench))
        page.answered.connect(self.spine.measure.show_answer)
        page.verdict.button.clicked.connect(self.show_explain)
        self._hears_of_the_bed(page.take_bed)
        return page

    @cached_property
    def choose(self) -> ChooseView:
        """Options side by side, and sizes."""
        from zeotherm.desk.views.choose.view import ChooseView

        page = self._page(ChooseView(self.bench, self.processes))
        page.asked.changed.connect(self._show_board)
        page.verdict.button.clicked.connect(self.show_do)
        page.turned.connect(self._say_line)
        self._hears_of_the_bed(page.sized["bed"].take_bed)
        return page

    @cached_property
    def do(self) -> DoPage:
        """The work order, step by step."""
        from zeotherm.desk.views.do.view import DoPage

        page = self._page(DoPage(self.bench))
        page.answered.connect(self.spine.do.show_answer)
        page.print_wanted.connect(self.print_shown)
        page.tell()
        return page

    @cached_property
    def emergency(self) -> EmergencyView:
        """Smoke or runaway."""
        from zeotherm.desk.views.emergency import EmergencyView

        page = self._page(EmergencyView(shipped()))
        page.back_wanted.connect(self._leave_emergency)
        return page

    @cached_property
    def jobs(self) -> JobsView:
        """The list of jobs."""
        from zeotherm.desk.views.jobs import JobsView

        page = self._page(JobsView(self.bench))
        page.opened.connect(self.open_job)
        page.new_wanted.connect(self.new_job)
        page.import_wanted.connect(self.ask_import)
        page.export_wanted.connect(self.papers.export)
        page.describe_wanted.connect(self.describe)
        return page

    @cached_property
    def manual(self) -> ManualDialog:
        """The manual, beside the window."""
        from zeotherm.desk.views.manual import ManualDialog

        return ManualDialog(self)

    def show_manual(self) -> None:
        """The manual at the page of what is shown."""
        self.manual.open_at(self.explain.part if self.shown == "explain" else self.shown)

    def show_page(self, name: str) -> None:
        """The manual at one of its pages."""
        self.manual.open_at(self.shown)
        self.manual.turn_to(name)

    @cached_property
    def arriving(self) -> ArrivingPage:
        """What is told of a machine that comes in."""
        from zeotherm.desk.views.arriving import ArrivingPage

        page = self._page(ArrivingPage(self.bench))
        page.begun.connect(self._begin)
        return page

    @cached_property
    def shelf(self) -> ShelfPage:
        """The parts shelf."""
        from zeotherm.desk.views.shelf.view import ShelfPage

        page = self._page(ShelfPage(self.bench))
        page.back_wanted.connect(self.show_explain)
        return page

    @cached_property
    def report(self) -> ReportView:
        """The report as it will be printed."""
        from zeotherm.desk.views.report.view import ReportView

        page = self._page(ReportView(self.bench, self.beside, lambda: self.choose.change))
        page.back_wanted.connect(self.show_explain)
        page.save_wanted.connect(self.papers.ask_report)
        return page

    def _page(self, page: Page) -> Page:
        self.stack.addWidget(page)
        return page

    def _hears_of_the_bed(self, take: Callable[[BedFound], None]) -> None:
        """Have a page told of the bed as Explain knows it, from now on and at once."""
        self.explain.bed_answered.connect(take)
        if self.explain.of("bed").found is not None:
            take(self.explain.of("bed").found)

    def made(self, name: str) -> bool:
        """Whether a view was made yet."""
        return name in self.__dict__

    def make_ready(self) -> None:
        """Make the next view that nobody has seen yet; one at a turn, so that the window goes on."""
        missing = [name for name in VIEWS if not self.made(name)]
        if missing and not self._closed:
            getattr(self, missing[0])
            QTimer.singleShot(0, self.make_ready)

    # what leads where

    def show_intake(self) -> None:
        """What is known, what it may be, what to check next."""
        self._turn_to("intake")
        if self.made("choose"):
            self.choose.stand_back()
        self.intake.begin()

    def show_measure(self) -> None:
        """What was measured, lined up and compared."""
        self._turn_to("measure")
        self.measure.begin()

    def show_explain(self) -> None:
        """The picture of the job on the bench."""
        self._turn_to("explain")

    def show_bed(self) -> None:
        """The bed, explained."""
        self.explain.turn_to("bed")
        self.show_explain()

    def show_case(self) -> None:
        """The case, explained."""
        self.explain.turn_to("case")
        self.show_explain()

    def show_power(self) -> None:
        """The power path, explained."""
        self.explain.turn_to("power")
        self.show_explain()

    def show_choose(self) -> None:
        """Options side by side."""
        self._turn_to("choose")
        self.choose.begin()

    def get_ready(self, found: Found) -> None:
        """Solve the options board ahead, once Explain has all it wants and as long as it is looked at."""
        if found.complete and self.shown == "explain":
            self.choose.prepare()

    def show_do(self) -> None:
        """The work order, step by step."""
        self._turn_to("do")
        self.do.begin()

    def show_emergency(self) -> None:
        """Smoke or runaway: what to do at once."""
        for _dialog in range(MOST_DIALOGS):
            over = QApplication.activeModalWidget()
            if isinstance(over, QDialog):
                over.reject()
        self.activateWindow()
        if self.shown != "emergency":
            self._before_alarm = self.shown
        self._turn_to("emergency")
        self.emergency.back.setFocus(Qt.FocusReason.OtherFocusReason)

    def _leave_emergency(self) -> None:
        """Back to what was shown before."""
        self._turn_to(self._before_alarm)

    def show_machine(self) -> None:
        """The whole machine, explained."""
        self.explain.turn_to(self.explain.machine.part)
        self.show_explain()

    def show_fact(self, key: str) -> None:
        """The card on which a fact of the machine is entered."""
        self.show_explain()
        self.explain.open_fact(key)

    def list_machine(self) -> None:
        """Every number and part of the machine, beside the window."""
        self.find_machine("")

    def find_machine(self, sought: str) -> None:
        """Those numbers and parts whose name or place has these words."""
        if self.machine is None:
            from zeotherm.desk.views.machine import MachineDialog

            self.machine = MachineDialog(self.bench, self)
        self.machine.sought.setText(sought)
        self.machine.refresh()
        self.machine.show()
        self.machine.activateWindow()

    def show_jobs(self) -> None:
        """The list of jobs, over whatever was shown."""
        self.bench.list_jobs()
        self._turn_to("jobs")

    def show_shelf(self) -> None:
        """The parts shelf, at the shelf that was open last."""
        self._turn_to("shelf")
        self.shelf.begin()

    def show_report(self) -> None:
        """The report as it will be printed."""
        self._turn_to("report")
        if self.bench.job.chosen and self.choose.change is None:
            self.choose.solve()

    def _say_line(self) -> None:
        """What the entry line is for, where it stands."""
        builds = self.shown == "choose" and self.choose.builds
        self.spine.entry.field.setPlaceholderText(LINES.get("build" if builds else self.shown, LINES[""]))

    def _turn_to(self, name: str) -> None:
        self.shown = name
        if name in self._outdated:
            self._outdated.discard(name)
            getattr(self, name).refresh()
        self.stack.setCurrentWidget(getattr(self, name))
        self._say_line()
        self.spine.job.setChecked(name == "jobs")
        for cell, step, _show in self.steps:
            cell.setChecked(name == step)
        if name == "measure":
            self.measure.plot.setFocus(Qt.FocusReason.OtherFocusReason)
        elif name == "explain":
            self.explain.picture.setFocus(Qt.FocusReason.OtherFocusReason)
        elif name == "jobs":
            self.jobs.list.focus_row(str(self.bench.key))
        elif name in ("intake", "do"):
            getattr(self, name).setFocus(Qt.FocusReason.OtherFocusReason)

    def _connect(self) -> None:
        bench = self.bench
        bench.job_changed.connect(self._show_job)
        bench.answered.connect(self._show_answer)
        bench.writing_changed.connect(self._show_writing)
        bench.told.connect(lambda text: self.spine.entry.say(text))
        self.spine.job.clicked.connect(self.toggle_jobs)
        for cell, _view, show in self.steps:
            cell.clicked.connect(show)
        self.spine.alarm.clicked.connect(self.show_emergency)
        self.spine.menu.clicked.connect(self.open_menu)
        self.explain.asked_for.connect(self.find_machine)
        self.explain.part_answered.connect(self._show_brief)
        self.spine.entry.entered.connect(self._enter)
        self.finder = Finder(self)
        self.spine.entry.finds(self.finder.find)
        self.spine.entry.begun.connect(self.finder.read_jobs)
        self.explain.verdict.button.clicked.connect(self.show_choose)
        self.beside.failed.connect(
            lambda wrong: self.spine.entry.say(_("No report: {why}").format(why=wrong), wrong=True)
        )
        application = QApplication.instance()
        assert application is not None
        application.installEventFilter(self)
        hints = QGuiApplication.styleHints()
        if hints is not None:
            hints.colorSchemeChanged.connect(lambda _scheme: self._wear_as_chosen())

    def _show_job(self, job: Job) -> None:
        below = f"{_('Job')} {job.number}" + (f" · {job.place}" if job.place else "")
        self.spine.job.show_job(job.machine, below)
        self.setWindowTitle(f"{job.machine} · Zeotherm[*]")
        known = self.intake.diagnosis if self.made("intake") else None
        if known is None or known.job.number != job.number:
            self.spine.intake.show_answer(_("What goes wrong?"), State.UNKNOWN)
        held = self.measure.held if self.made("measure") else None
        if held is None or held.job.measured is not job.measured:
            told = brief(len(job.measured.runs), len(job.measured.pictures), len(job.readings))
            self.spine.measure.show_answer(told, State.UNKNOWN)
        if self._board_of != job.number:
            count = len(job.variants)
            options = _("1 option") if count == 1 else _("{count} options").format(count=count)
            self.spine.choose.show_answer(options if count else _("No options yet"), State.UNKNOWN)

    def _show_answer(self, found: Found) -> None:
        self._show_brief()
        if found.complete:
            self.make_ready()

    def _show_brief(self) -> None:
        """Explain's cell: the worst of the machine, as far as it is known."""
        told = self.explain.machine.brief()
        if told is not None:
            self.spine.explain.show_answer(*told)

    def _show_writing(self, writing: bool) -> None:
        """A star in the title until the file has every edit; another edit may fail anew."""
        self.setWindowModified(writing)
        self._told_unwritten = self._told_unwritten and not writing

    def _show_board(self, solved: SolvedBoard) -> None:
        told = board(solved).verdict
        self._board_of = solved.job.number
        self.spine.choose.show_answer(told.headline, told.state)
        if self.made("report"):
            self.report.follow()

    # keys, menu

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if not isinstance(event, QKeyEvent) or event.type() != QEvent.Type.KeyPress:
            tells = event is not None and event.type() == QEvent.Type.ToolTip and show_tip(watched, event)
            return tells or super().eventFilter(watched, event)
        if event.key() == ALARM_KEY and isinstance(watched, QWidget):  # from every dialog, too
            self.show_emergency()
            return True
        if self.isActiveWindow():
            widget = QApplication.focusWidget()
            if watched is widget and widget is not None and self.isAncestorOf(widget) and self._key(widget, event):
                return True
        return super().eventFilter(watched, event)

    def _key(self, widget: QWidget, event: QKeyEvent) -> bool:
        """Keys that mean the same wherever the focus is; True when used up."""
        typing = isinstance(widget, QLineEdit | QTextEdit | QPlainTextEdit)
        key = Qt.Key(event.key())
        plain = not event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
        if key == Qt.Key.Key_F10:
            self.open_menu()
            return True
        if key == Qt.Key.Key_Escape and not typing:
            return self._escape()
        if typing or not plain:
            return False
        if self.shown == "explain":
            if key in (Qt.Key.Key_Plus, Qt.Key.Key_Minus) and self.explain.levers.nudge(
                1 if key == Qt.Key.Key_Plus else -1
            ):
                return True
            if key == Qt.Key.Key_Delete and self.explain.levers.reset_focused():
                return True
        if self.shown == "jobs" and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not isinstance(widget, QComboBox):
            if widget in self.jobs.list.rows():
                self.jobs.open_chosen()
                return True
            return False
        if (
            self.shown == "intake"
            and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
            and not isinstance(widget, FocusRow | QAbstractButton)
        ):
            return self.intake.ask_next()
        if (
            self.shown == "do"
            and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
            and not isinstance(widget, FocusRow | QAbstractButton | QComboBox)
        ):
            self.do.go_on()
            return True
        text = event.text()
        if text and text.isalnum() and not isinstance(widget, QComboBox):
            self.spine.entry.type_text(text)
            return True
        return False

    def along_spine(self, by: int) -> None:
        """The next or the previous step; on the report, the next or the previous page of it."""
        if self.shown == "report":
            turn_page(self.report.page, by)
            return
        names = [name for _cell, name, _show in self.steps]
        now = names.index(self.shown) if self.shown in names else 0
        self.steps[min(max(now + by, 0), len(names) - 1)][2]()

    def _escape(self) -> bool:
        asked: list[Asked] = (
            [getattr(self, self.shown).asked] if self.shown in ("choose", "intake", "do", "shelf") else []
        )
        asked += self.choose.sizes_asked if self.shown == "choose" else ()
        asked.append(self.papers.card_asked)
        working = [one for one in asked if one.busy]
        if self.shown == "emergency":
            self._leave_emergency()
        elif working:
            working[0].stop()
        elif self.made("measure") and self.measure.stop():
            pass
        elif self.shown != "explain":
            self.show_explain()
        elif not self.explain.close_card():
            self.explain.stop()
        return True

    # intents

    def _understood(self, line: str) -> Understood:
        if self.shown == "arriving":
            return self.arriving.understood(line)
        if self.shown == "shelf" and (told := self.shelf.understood(line)) is not None:
            return told
        if self.shown == "explain":
            return self.bench.understood(line)
        return understand(line, self.bench.job.setup(), self.bench.catalogue)

    def _enter(self, line: str) -> None:
        bench = self.bench
        if self.shown == "arriving":
            if self.arriving.enter(line):
                self.spine.entry.accepted()
            return
        if (self.shown == "do" and self.do.enter(line)) or (self.shown == "shelf" and self.shelf.enter(line)):
            self.spine.entry.accepted()
            return
        offer = bench.build_line if self.shown == "choose" and self.choose.builds else bench.offer_line
        enter = {"choose": offer, "intake": bench.enter_fact}.get(self.shown, bench.enter)
        if enter(line):
            done = self.spine.entry.hint.toolTip()
            self.spine.entry.accepted()
            self.spine.entry.say(_("Done: {what}").format(what=done))

    def toggle_jobs(self) -> None:
        if self.shown == "jobs":
            self.show_explain()
        else:
            self.show_jobs()

    def open_job(self, key: int) -> None:
        """Put another job on the bench, and show it."""
        self.bench.open_job(key)
        self.show_explain()

    def new_job(self) -> None:
        """What comes in: told by a touch, or by codes on the entry line."""
        self.arriving.clear()
        self._turn_to("arriving")

    def _begin(self, job: Job, told: Incoming) -> None:
        """The first answer: causes where they are ranked for the complaint, else the part that it shows at."""
        complaints = [self.bench.catalogue.complaints[key] for key in told.complaints]
        self.bench.begin(job)
        if any(one.trouble for one in complaints):
            self.show_intake()
        else:
            self.explain.turn_to(complaints[0].part if complaints else self.explain.machine.part)
            self.show_explain()
        for one in complaints:
            if one.first:
                self.spine.entry.say(one.first, wrong=True)

    def ask_import(self) -> None:
        name, _kind = QFileDialog.getOpenFileName(self, _("Import a job or what was measured"), "", READABLE)
        if name:
            self.import_file(Path(name))

    def import_file(self, path: Path) -> None:
        """Take a job in, a shelf, or what was measured to the job on the bench; what was open stays when it is
        refused."""
        kind = kind_of(path)
        if kind is Arrival.SHELF or (self.shown == "shelf" and kind in (Arrival.JOB, Arrival.RUN)):
            self.show_shelf()
            self.shelf.import_shelf(path)
            return
        measures = self.shown == "measure"
        photograph = kind in (Arrival.OTHER, Arrival.PICTURE) and self.shown == "do"
        if photograph and self.do.take_photo(path):
            return
        card = self.explain.open_card if self.shown == "explain" else ""
        if card and kind in (Arrival.OTHER, Arrival.PICTURE):
            self.bench.photograph(card, path)
            return
        if kind is Arrival.OTHER or (kind is Arrival.PICTURE and not measures):
            self.bench.attach(path)
            return
        if kind is not Arrival.JOB:
            if kind is not Arrival.RUN:
                self.show_measure()
            self.measure.take_file(path)
            return
        before = self.bench.key
        self.bench.import_job(path)
        if self.bench.key != before:
            self.show_explain()

    def print_shown(self) -> None:
        """On Do the work order, as long as there is one to go through; a build on its page; elsewhere the report."""
        if self.shown == "do" and self.do.order is not None and self.do.order.now is not None:
            self.papers.ask_order(self.do.working.proof)
        elif self.choose.build.isVisible() and self.choose.build.found is not None:
            self.papers.ask_build(self.choose.build.found)
        else:
            self.show_report()

    def describe(self) -> None:
        from zeotherm.desk.views.describe import Describe

        dialog = Describe(self.bench.job, self)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            self.bench.rename(*dialog.words())
            if self.shown == "jobs":
                self.bench.list_jobs()

    def about(self) -> None:
        QMessageBox.about(
            self,
            _("About Zeotherm"),
            _("Zeotherm {version}. Free software under the GNU General Public License, version 3 or later. "
              "Its figures are models with stated bands: "
              "the makers' instructions, local codes and licensed practice come first.")
            .format(version=__version__),
        )  # fmt: skip

    # looks

    def toggle_theme(self) -> None:
        """Light to dark and back."""
        name = "dark" if theme.tokens().name == "light" else "light"
        self.bench.set_note("theme", name)
        self._wear(name)
        self._refresh()

    def resize_text(self, by: float) -> None:
        scale = min(max(float(self.bench.note("text", "1.0")) + by, 0.9), 1.5)
        self.bench.set_note("text", f"{scale:.1f}")
        self._wear(theme.tokens().name)
        self.spine.entry.say(
            _("Text at {share} %; takes full effect at the next start.").format(share=round(scale * 100))
        )
        self._refresh()

    def prefer(self) -> None:
        """What the shop prefers, asked in a dialog."""
        from zeotherm.desk.views.preferences import SYSTEM, Preferences, Preferred

        bench = self.bench
        now = Preferred(
            bench.note("theme", SYSTEM), _number(bench.note("text", "1.0")), bench.job.currency, bench.tariff,
            bench.hourly,
        )  # fmt: skip
        dialog = Preferences(now, self)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            chosen = dialog.chosen
            bench.set_note("theme", chosen.look)
            if chosen.currency != bench.job.currency or chosen.currency != bench.note("currency", chosen.currency):
                bench.set_currency(chosen.currency)
            bench.set_prices(chosen.tariff, chosen.hourly)
            if self.made("choose"):
                self.choose.price_anew()
            by = chosen.text - now.text
            if abs(by) > SAME_SIZE:
                self.resize_text(by)
            self._wear_as_chosen()

    def _look(self) -> str:
        """Light or dark, as it was chosen; else as the system has it."""
        chosen = self.bench.note("theme")
        return chosen if chosen in theme.THEMES else _system_theme()

    def _wear_as_chosen(self) -> None:
        """Light or dark anew: it was chosen, or the system has changed and is to be followed."""
        if self._look() != theme.tokens().name and not self._closed:
            self._wear(self._look())
            self._refresh()

    def _wear(self, name: str) -> None:
        theme.choose(name if name in theme.THEMES else "light", _number(self.bench.note("text", "1.0")))
        application = QApplication.instance()
        assert isinstance(application, QApplication)
        application.setPalette(theme.palette())
        application.setFont(theme.font(13))
        self.setStyleSheet(theme.style_sheet())  # not the application's: Qt takes ten times as long over that

    def _refresh(self) -> None:
        self.spine.entry.refresh()
        made = [name for name in ("explain", *VIEWS) if self.made(name)]
        self._outdated = {name for name in made if name != self.shown}  # taken up once they are turned to
        if self.shown in made:
            getattr(self, self.shown).refresh()
        if self.machine is not None:
            self.machine.refresh()
        if self.made("manual"):
            self.manual.refresh()
        self.update()

    def next_span(self) -> None:
        if self.shown not in ("report", "emergency"):
            getattr(self, self.shown).column.next_span()

    def toggle_full(self) -> None:
        self.setWindowState(self.windowState() ^ Qt.WindowState.WindowFullScreen)

    # window business

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        dropped = event.mimeData() if event is not None else None
        if event is not None and dropped is not None and dropped.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        dropped = event.mimeData() if event is not None else None
        for url in dropped.urls() if dropped is not None else ():
            self.import_file(Path(url.toLocalFile()))

    def _restore(self) -> None:
        """Where the window was, else its usual size; within the screen either way."""
        kept = self.bench.note("geometry")
        if kept:
            self.restoreGeometry(QByteArray.fromBase64(kept.encode("ascii")))
            return
        screen = QGuiApplication.primaryScreen()
        if screen is not None:
            self.resize(fitting(self.size(), screen.availableGeometry().size()))

    def open_menu(self) -> None:
        """The menu, below the button that shows where it is."""
        button = self.spine.menu
        corner = button.mapToGlobal(button.rect().bottomRight())
        self.menu.popup(QPoint(corner.x() - self.menu.sizeHint().width(), corner.y()))

    def closeEvent(self, event: QCloseEvent | None) -> None:
        why = self.bench.finish_writing()
        if why and not self._told_unwritten:
            self._told_unwritten = True
            self.spine.entry.say(_("{why} Close again to leave without it.").format(why=why), wrong=True)
            if event is not None:
                event.ignore()
            return
        if self.bench.found is not None and self.bench.found.complete and self.isVisible():
            self.show_explain()
            keep_view(self, self.explain.verdict.accessibleName(), self.bench.path)
        self.bench.set_note("geometry", bytes(self.saveGeometry().toBase64().data()).decode("ascii"))
        self.hide()  # at once; what is under way may take a second to end
        application = QApplication.instance()
        if application is not None:
            application.removeEventFilter(self)
        if self.machine is not None:
            self.machine.close()
        if self.made("manual"):
            self.manual.close()
        if self.made("do"):
            self.do.let_go()
        self._closed = True
        self.bench.close()
        self.processes.close()
        super().closeEvent(event)


def _system_theme() -> str:
    hints = QGuiApplication.styleHints()
    return "dark" if hints is not None and hints.colorScheme() == Qt.ColorScheme.Dark else "light"


def _number(text: str) -> float:
    try:
        return float(text)
    except ValueError:
        return 1.0
