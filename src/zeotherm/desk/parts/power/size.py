"""Choose's fourth page: sizes of the power path, and the bed's own switch wired on paper before it is wired."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import ClassVar

from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDoubleSpinBox,
    QFileDialog,
    QHBoxLayout,
    QPushButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from zeotherm.answers.executor import Rank
from zeotherm.answers.power_sizes import PowerSizeFound, power_sizes
from zeotherm.core.catalogue.fitting import described
from zeotherm.core.guard.fitted import to_enter_first
from zeotherm.core.guard.wires import around_of, thick_enough
from zeotherm.core.judgement.standing import standing
from zeotherm.core.machine.documents import Job, Variant
from zeotherm.core.machine.patches import Patch
from zeotherm.core.machine.wiring import Link, Wiring
from zeotherm.core.parts.power.judge.answer import CARRIES_IN_C, warmest
from zeotherm.core.parts.power.judge.nets import (
    BrokenRule,
    WiringDemand,
    check,
    end_points,
    feed_of,
    proposed,
    usual_feed,
)
from zeotherm.core.parts.power.part import PowerFound
from zeotherm.desk.bench import Bench
from zeotherm.desk.bridge import Asked
from zeotherm.desk.parts.power.shown import power_ladder
from zeotherm.desk.parts.power.wiring_board import WiringBoard
from zeotherm.desk.parts.power.wiring_drawing import wire_list, write_wiring
from zeotherm.desk.parts.power.wiring_shown import WiringView, wiring_view
from zeotherm.desk.viewmodels import LadderView
from zeotherm.desk.views.choose.size_page import SizePage
from zeotherm.desk.widgets.labels import Plain
from zeotherm.desk.widgets.levers import DropField
from zeotherm.shop.editing import edits
from zeotherm.shop.errors import ShopError
from zeotherm.shop.places import file_stem
from zeotherm.wording import power as words
from zeotherm.wording import power_sizes as sizes_words
from zeotherm.wording.language import _
from zeotherm.wording.verdict import Verdict, standing_on

MODULE_COST, MODULE_MIN = 28.0, 120.0  # of a module, fuse, cut-off and wire, and of the work: usual
SUPPLY_COST, SUPPLY_A_WATT, SUPPLY_MIN = 14.0, 0.09, 45.0


class SizePower(SizePage):
    """Supply, wires, fuse, joints and switch sized; a wiring that is checked while its ends are chosen."""

    title = _("Size the power")

    HEADS: ClassVar = {
        "supply": _("Supply"), "wires": _("Wires and fuse"), "contacts": _("The bed's plug"),
        "switches": _("The bed's switch"), "outputs": _("On the board"), "faults": _("This wiring"),
    }  # fmt: skip
    BELOW: ClassVar = ("faults",)

    def __init__(self, bench: Bench, parent: QWidget | None = None) -> None:
        super().__init__(bench, None, parent)
        self.asked = Asked(bench.executor, Rank.ASKED, self)
        self.found: PowerSizeFound | None = None
        self.board = WiringBoard()
        self.put = QPushButton(_("Offer a supply"))
        self.module = QPushButton(_("Offer the bed's own switch"))
        self.propose = QPushButton(_("Take the proposal"))
        self.print = QPushButton(_("Picture of the wiring"))
        for button, tip in (
            (self.put, _("The supply that is proposed, as an option on the board")),
            (self.module, _("A switch of its own for the bed, with fuse and joint, as an option on the board")),
            (self.propose, _("A way of wiring that is right for this bed, to begin with")),
            (self.print, _("The wiring with its end points and wire list, as a picture to print")),
        ):
            button.setToolTip(tip)
        self.lay_out((self._editor(), self.board))
        self.asked.changed.connect(self._take)
        self.asked.failed.connect(lambda wrong: self.say(str(wrong)))
        bench.job_changed.connect(self.take_job)
        bench.answered.connect(lambda _found: self.begin())
        self.put.clicked.connect(self.supply_on_board)
        self.module.clicked.connect(self.module_on_board)
        self.propose.clicked.connect(self.take_proposal)
        self.print.clicked.connect(self.ask_picture)
        self.refresh()

    def _editor(self) -> QWidget:
        """One wire at a time: its number and its two ends."""
        row = QWidget()
        self.number, self.one, self.other = QSpinBox(), DropField(), DropField()
        self.mm2, self.fuse = _spin(_("Its cross-section"), "mm²", 0.05, 50.0), _spin(_("Fuse"), "A", 0.0, 100.0)
        self.add, self.remove = QPushButton(_("Add")), QPushButton(_("Take out"))
        self.number.setMinimum(1)
        for widget, name in (
            (self.number, _("Wire")), (self.one, _("From")), (self.other, _("To")),
        ):  # fmt: skip
            widget.setAccessibleName(name)
        self.number.valueChanged.connect(lambda _n: self._show_wire())
        for box in (self.one, self.other):
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(5)
            box.activated.connect(lambda _n: self._rewire())
        self.mm2.editingFinished.connect(self._take_size)
        self.fuse.editingFinished.connect(self._take_fuse)
        self.fuse.setSpecialValueText(_("not known"))
        self.add.clicked.connect(self.add_wire)
        self.remove.clicked.connect(self.remove_wire)
        line = QHBoxLayout(row)
        line.setContentsMargins(16, 2, 16, 2)
        line.addWidget(Plain(_("Wire")))
        line.addWidget(self.number)
        line.addWidget(self.one, 1)
        line.addWidget(self.other, 1)
        line.addWidget(self.add)
        line.addWidget(self.remove)
        whole = QWidget()
        stack = QVBoxLayout(whole)
        stack.setContentsMargins(0, 0, 0, 0)
        stack.addWidget(row)
        self.leakage = QCheckBox(_("Looked up: the outlet trips on leakage to earth"))
        self.fuse_kind = self._fuse_box(_("Kind of the bed's fuse"), "fuse_kind")
        self.inlet_kind = self._fuse_box(_("Kind of the inlet's fuse"), "inlet_fuse_kind")
        self.inlet_fuse = _spin(_("Inlet fuse"), "A", 0.0, 63.0)
        self.inlet_fuse.setSpecialValueText(_("not known"))
        self.inlet_fuse.editingFinished.connect(lambda: self._take_field("inlet_fuse_a", self.inlet_fuse.value()))
        self.selector = _choices(_("The supply's selector of the mains"), SELECTORS)
        self.selector.activated.connect(lambda _n: self._take_field("selector", self.selector.currentData()))
        self.leakage.clicked.connect(self._confirm)
        below = QHBoxLayout()
        below.setContentsMargins(16, 0, 16, 0)
        below.addWidget(Plain(_("This wire")))
        below.addWidget(self.mm2)
        below.addSpacing(12)
        below.addWidget(Plain(_("Fuse")))
        below.addWidget(self.fuse)
        below.addWidget(self.fuse_kind, 1)
        stack.addLayout(below)
        self.inlet = QWidget()
        of_mains = QVBoxLayout(self.inlet)
        of_mains.setContentsMargins(16, 0, 16, 0)
        last = QHBoxLayout()
        for text, field in (
            (_("Inlet fuse"), self.inlet_fuse), ("", self.inlet_kind), (_("Selector"), self.selector),
        ):  # fmt: skip
            if text:
                last.addWidget(Plain(text))
            last.addWidget(field)
        last.addStretch(1)
        of_mains.addLayout(last)
        of_mains.addWidget(self.leakage)
        stack.addWidget(self.inlet)
        return whole

    def _fuse_box(self, name: str, field: str) -> DropField:
        """A choice of what kind a fuse is; it begins with not known."""
        box = _choices(name, {UNKNOWN: _("kind not known"), **{
            key: one.label for key, one in self._bench.catalogue.fuse_kinds.items()
        }})  # fmt: skip
        box.activated.connect(lambda _n: self._take_field(field, box.currentData()))
        return box

    def _take_field(self, field: str, value: str | float) -> None:
        """What was looked up of the wiring, as it is chosen or typed."""
        wiring = self._bench.job.wiring
        if wiring.links and getattr(wiring, field) != value:
            self._set(wiring.model_copy(update={field: value}), _("wiring looked up"))

    @property
    def buttons(self) -> tuple[QPushButton, ...]:
        return self.put, self.module, self.propose, self.print

    # what arrives

    def take_job(self, job: Job) -> None:
        """Another state of the job; sized while the page is looked at."""
        found = self.found
        if found is not None and found.job.number != job.number:
            self.found = None
        elif found is not None and found.done and not self._stale and _as_wired_else(found.job, job):
            self.found = replace(found, job=job)
            self.show_found()
            return
        self._stale = True
        self._show_wiring()
        self.begin()

    def begin(self) -> None:
        """Size what has not been sized, where it is looked at."""
        if not self.isVisible() or not self._stale:
            return
        if not described(self._bench.job.setup(), self._bench.catalogue):
            self.found = None
            self.show_found()
            self.say(_("The power path is not described: choose it in Explain, Power."))
            return
        self.solve()

    def solve(self) -> None:
        job = self._bench.job
        if not described(job.setup(), self._bench.catalogue):
            return
        self._stale = False
        self.say("")
        self.asked.ask(power_sizes(self._bench.store, job, self._bench.catalogue))

    def _take(self, found: PowerSizeFound) -> None:
        if found.job.number == self._bench.job.number:
            self.found = found
            self.show_found()

    @property
    def power(self) -> PowerFound | None:
        """The path that is sized, as the ladder shows it."""
        return PowerFound(self.found.job, self.found.answer) if self.found is not None else None

    @property
    def ladder_view(self) -> LadderView | None:
        return power_ladder(self.power) if self.power is not None else None

    def show_found(self) -> None:
        found = self.found
        sizes = found.sizes if found is not None else None
        first = to_enter_first(self._bench.job, self._bench.catalogue)
        self.put.setEnabled(not first and sizes is not None and sizes.supply.offered is not None)
        self.module.setEnabled(not first and found is not None and found.answer.resolved.inputs.shares_feed)
        self.propose.setEnabled(not first and found is not None)
        if found is not None:
            self.say(sizes_words.enter_first(first))
        self._show_wiring()
        if found is None or sizes is None:
            self.show_texts(dict.fromkeys((key for key in self.HEADS if key != "faults"), ()))
            return
        catalogue = found.catalogue
        self.show_texts({
            "supply": (sizes_words.supply(sizes.supply), sizes_words.staged(sizes.staged), words.wall(found.answer)),
            "wires": (*(sizes_words.wire(one) for one in sizes.wires), sizes_words.fuse(sizes.fuse)),
            "contacts": tuple(sizes_words.part_size(one, catalogue, "contacts") for one in sizes.contacts),
            "switches": tuple(sizes_words.part_size(one, catalogue, "switches") for one in sizes.switches),
            "outputs": tuple(sizes_words.output(one) for one in sizes.outputs),
        })  # fmt: skip
        self.told.emit(self.verdict(found))

    def verdict(self, found: PowerSizeFound) -> Verdict:
        """What the path lacks, and what suffices, in one sentence."""
        on = standing(self._bench.job, "power", found.catalogue)
        told = standing_on(words.verdict(found.answer), found.answer.worst, on, found.catalogue)
        sizes = found.sizes
        if sizes is None or sizes.supply.offered is None or not told.state.bad:
            return told
        return Verdict(told.headline, f"{sizes_words.supply(sizes.supply)} {sizes_words.fuse(sizes.fuse)}", told.state)

    # the wiring

    @property
    def amps(self) -> float:
        """Of the bed [A]; zero until it is known."""
        return self.found.answer.full.amps.bed if self.found is not None else 0.0

    @property
    def faults(self) -> list[BrokenRule]:
        """What is wrong with the wiring of the job on the bench."""
        wiring = self._bench.job.wiring
        if not wiring.links:
            return []
        return check(wiring, self._bench.catalogue, self.feed)

    @property
    def feed(self) -> WiringDemand:
        """What the wiring is checked for: as the path is solved, or as far as the document tells."""
        if self.found is not None:
            return feed_of(self.found.answer)
        return usual_feed(self._bench.job.setup(), self._bench.catalogue)

    def take_proposal(self) -> None:
        """A way of wiring that is right, to begin with."""
        if self.found is not None:
            kind = "mains" if self.found.answer.resolved.inputs.kind.mains else "module"
            self._set(proposed(kind, self._bench.catalogue, self.feed), _("wiring as proposed"))

    def add_wire(self) -> None:
        """One more wire, between the ends that are chosen."""
        wiring = self._bench.job.wiring
        link = Link(ends=[self.one.currentData(), self.other.currentData()])
        if self._set(wiring.model_copy(update={"links": [*wiring.links, link]}), _("wire added")):
            self.number.setValue(len(self._bench.job.wiring.links))

    def remove_wire(self) -> None:
        """Without the wire that is chosen."""
        wiring, n = self._bench.job.wiring, self.number.value() - 1
        links = [link for at, link in enumerate(wiring.links) if at != n]
        self._set(wiring.model_copy(update={"links": links}), _("wire taken out"))

    def _rewire(self) -> None:
        """The wire that is chosen, between the ends that are chosen."""
        wiring, n = self._bench.job.wiring, self.number.value() - 1
        if not 0 <= n < len(wiring.links):
            return
        link = wiring.links[n].model_copy(update={"ends": [self.one.currentData(), self.other.currentData()]})
        links = [link if at == n else one for at, one in enumerate(wiring.links)]
        self._set(wiring.model_copy(update={"links": links}), _("wire {number} elsewhere").format(number=n + 1))

    def _take_size(self) -> None:
        """The wire that is chosen, of the cross-section that is typed."""
        wiring, n = self._bench.job.wiring, self.number.value() - 1
        if 0 <= n < len(wiring.links) and abs(wiring.links[n].mm2 - self.mm2.value()) > 1e-9:
            link = wiring.links[n].model_copy(update={"mm2": self.mm2.value()})
            links = [link if at == n else one for at, one in enumerate(wiring.links)]
            said = _("wire {number} of {mm2} mm²").format(number=n + 1, mm2=f"{link.mm2:g}")
            self._set(wiring.model_copy(update={"links": links}), said)

    def _take_fuse(self) -> None:
        """The fuse that is typed."""
        wiring = self._bench.job.wiring
        if wiring.links and abs(wiring.fuse_a - self.fuse.value()) > 1e-9:
            self._set(wiring.model_copy(update={"fuse_a": self.fuse.value()}),
                      _("fuse {amps} A").format(amps=f"{self.fuse.value():g}"))  # fmt: skip

    def _confirm(self, on: bool) -> None:
        """That the outlet trips on leakage, by somebody who looked."""
        wiring = self._bench.job.wiring.model_copy(update={"leakage_protected": on})
        self._set(wiring, _("leakage protection looked up"))

    def _set(self, wiring: Wiring, said: str) -> bool:
        return self._bench.edit(lambda job: edits.with_wiring(job, wiring), said)

    @property
    def labels(self) -> dict[str, str]:
        """Every end point that there is, with its label."""
        return end_points(self._bench.catalogue, self._bench.job.wiring.kind)

    def _show_wiring(self) -> None:
        wiring = self._bench.job.wiring
        labels = self.labels
        for box in (self.one, self.other):
            if [box.itemData(n) for n in range(box.count())] != list(labels):
                box.clear()
                for end, label in labels.items():
                    box.addItem(label, end)
        self.number.setMaximum(max(len(wiring.links), 1))
        self.remove.setEnabled(bool(wiring.links))
        self.mm2.setEnabled(bool(wiring.links))
        self.fuse.setEnabled(bool(wiring.links))
        self.fuse.setValue(wiring.fuse_a)
        self.inlet.setVisible(wiring.kind == "mains")
        self.leakage.setChecked(wiring.leakage_protected)
        self.inlet_fuse.setValue(wiring.inlet_fuse_a)
        for box, value in ((self.fuse_kind, wiring.fuse_kind), (self.inlet_kind, wiring.inlet_fuse_kind),
                           (self.selector, wiring.selector)):  # fmt: skip
            box.setCurrentIndex(max(box.findData(value), 0))
        self.fuse_kind.setEnabled(bool(wiring.links))
        self._show_wire()
        faults = self.faults
        view = self._view(faults) if wiring.links else None
        self.board.show_view(view)
        first = to_enter_first(self._bench.job, self._bench.catalogue)
        self.print.setEnabled(view is not None and not first)
        lines = [sizes_words.fault(one, self._bench.catalogue, wiring.kind) for one in faults]
        told = (sizes_words.wiring(faults, self._bench.catalogue), *lines) if wiring.links else ()
        self.show_texts({"faults": told})

    def _view(self, faults: list[BrokenRule]) -> WiringView:
        return wiring_view(self._bench.job.wiring, faults, self._bench.catalogue,
                           sizes_words.wiring(faults, self._bench.catalogue))  # fmt: skip

    def _show_wire(self) -> None:
        wiring, n = self._bench.job.wiring, self.number.value() - 1
        if 0 <= n < len(wiring.links):
            for box, end in zip((self.one, self.other), wiring.links[n].ends, strict=True):
                box.setCurrentIndex(box.findData(end))
            self.mm2.setValue(wiring.links[n].mm2)

    # what is done

    def supply_on_board(self) -> None:
        """The supply that is proposed, as an option."""
        found = self.found
        if found is None or found.sizes is None or found.sizes.supply.offered is None:
            return
        watts = found.sizes.supply.offered
        label = _("Supply of {watts} W").format(watts=f"{watts:.0f}")
        change: Patch = {"power": {"supply_w": watts, "years": 0.0}}
        cost = SUPPLY_COST + SUPPLY_A_WATT * watts
        self._offer(f"supply_{watts:.0f}", Variant(label=label, change=change, cost=cost, minutes=SUPPLY_MIN))

    def module_on_board(self) -> None:
        """A switch of its own for the bed, with its fuse and a sound joint, as an option."""
        found = self.found
        if found is None or found.sizes is None:
            return
        fits = next((one.key for one in found.sizes.contacts if one.fits), None)
        if fits is None:
            self.say(_("No contact on the shelf is good for this bed's current: split the load or cool its air first."))
            return
        power: Patch = {"path": "bed_by_module", "switch": "module_transistor",
                        "plug": {"kind": fits, "state": "sound", "milliohm": 0.0}}  # fmt: skip
        if found.sizes.fuse.offered is not None:
            fuse = power["fuse_a"] = found.sizes.fuse.offered
            setup, amps = found.answer.setup, found.answer.full.amps.bed
            for wire in ("feed", "lead"):  # both lie behind that fuse then
                around = around_of(setup, found.catalogue, wire, max(warmest(found.answer, wire), CARRIES_IN_C))
                wanted = thick_enough("bed", amps, fuse, around, found.catalogue)
                if wanted is not None and getattr(setup.power, wire).mm2 < wanted:
                    power[wire] = {"mm2": wanted}
        self._offer("bed_module", Variant(label=_("Bed by a switch of its own"), change={"power": power},
                                          cost=MODULE_COST, minutes=MODULE_MIN))  # fmt: skip

    def _offer(self, key: str, variant: Variant) -> None:
        self._bench.offer(key, variant)
        self._bench.told.emit(_("On the board: {label}").format(label=variant.label))

    def ask_picture(self) -> None:
        """The wiring as a picture, written where the person says."""
        proposed = f"{file_stem(self._bench.job.number)}-wiring.pdf"
        name, _kind = QFileDialog.getSaveFileName(
            self,
            _("Write the wiring"),
            proposed,
            "PDF (*.pdf);;SVG (*.svg);;PNG (*.png)",
        )
        if name:
            self.write_picture(Path(name))

    def write_picture(self, path: Path) -> None:
        """The wiring with its wire list, as a picture; one with faults is not written."""
        faults = self.faults
        if faults:
            self.say(_("Not printed: put right what is wrong with this wiring first."))
            return
        if first := to_enter_first(self._bench.job, self._bench.catalogue):
            self.say(sizes_words.enter_first(first))
            return
        job = self._bench.job
        lines = [f"{job.machine}, {job.number}", *wire_list(self._view(faults), self.labels)]
        if job.wiring.fuse_a > 0.0:
            lines.append(_("fuse {amps} A").format(amps=f"{job.wiring.fuse_a:g}"))
        try:
            view = self._view(faults)
            self._bench.have(lambda _workshop: write_wiring(path, view, lines))  # the window goes on being painted
        except ShopError as wrong:
            self.say(str(wrong))
            return
        self._bench.told.emit(_("Written: {name}").format(name=path.name))


def _as_wired_else(old: Job, new: Job) -> bool:
    """Whether the machine is the same in both, so that it need not be sized anew."""
    return (old.found, old.trial, old.tolerances, old.catalogue) == (
        new.found,
        new.trial,
        new.tolerances,
        new.catalogue,
    )


UNKNOWN = "unknown"
SELECTORS = {UNKNOWN: _("not looked at"), "none": _("none, takes both"), "115": "115 V", "230": "230 V"}


def _choices(name: str, options: dict[str, str]) -> DropField:
    """A drop-down field of the wiring's row."""
    box = DropField()
    box.setAccessibleName(name)
    box.setToolTip(name)
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    box.setMinimumContentsLength(9)
    for key, label in options.items():
        box.addItem(label, key)
    return box


def _spin(name: str, unit: str, low: float, high: float) -> QDoubleSpinBox:
    """A field of the wiring's row; it takes no wheel and speaks once it is left."""
    box = QDoubleSpinBox()
    box.setAccessibleName(name)
    box.setToolTip(name)
    box.setRange(low, high)
    box.setDecimals(2 if unit == "mm²" else 1)
    box.setSuffix(f" {unit}")
    box.setKeyboardTracking(False)
    box.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)  # typed
    return box


PAGE = SizePower
