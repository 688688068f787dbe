"""What the window may do with the work on a machine: one edit each, by the bench's clock and its probe."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from zeotherm.answers import work as answers
from zeotherm.core.catalogue import Catalogue
from zeotherm.core.machine.documents import Job
from zeotherm.core.machine.doing import OpenStep
from zeotherm.core.questions import Question
from zeotherm.core.work.gates import Aids, GateState, gates
from zeotherm.core.work.planning import Order, OrderLine
from zeotherm.core.work.proving import Proof, in_order, proof, suggested
from zeotherm.desk.bench import Bench
from zeotherm.shop.clock import BenchClock
from zeotherm.shop.editing import work_edits
from zeotherm.shop.editing.edits import RefusedError
from zeotherm.shop.errors import ShopError
from zeotherm.shop.practice.probes import Probe
from zeotherm.wording import units
from zeotherm.wording.language import _

POLL_MS = 1000
KEPT_EVERY_S = 15.0  # between two readings of a probe that are kept
LOST_S = 8.0
NEVER = "1970-01-01T00:00:00"  # of a step with which nothing was done yet


class Working(QObject):
    """The order of the job on the bench, its step at hand, and every intent about them."""

    probe_changed = pyqtSignal(str)  # what there is to say of the probe

    def __init__(self, bench: Bench, clock: BenchClock | None = None, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._bench = bench
        self.clock = clock or BenchClock()
        self.probe: Probe | None = None
        self._picked: tuple[int, list[str]] | None = None
        self._heard: str | None = None  # when the probe was last heard
        self._kept: tuple[str, Job] | None = None  # when it was last kept, and the job with it
        self._ordered: tuple[Job, Catalogue, Order] | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(POLL_MS)
        self._timer.timeout.connect(self.poll)

    # what there is

    @property
    def order(self) -> Order | None:
        """The order of the job on the bench, as it would be before it is written; None where it leads nowhere."""
        job, catalogue = self._bench.job, self._bench.catalogue
        if self._ordered is None or self._ordered[0] is not job or self._ordered[1] is not catalogue:
            doing = job.doing if job.doing.written else job.doing.model_copy(update={"procedures": self.picked()})
            try:
                found = work_edits.order_of(job.model_copy(update={"doing": doing}), catalogue)
            except RefusedError as wrong:
                self._bench.told.emit(str(wrong))
                return None
            self._ordered = (job, catalogue, found)
        return self._ordered[2]

    @property
    def proof(self) -> Proof:
        """How long a proof run has to be."""
        return proof(self._bench.job, self._failure())

    def _failure(self) -> float | None:
        """When the machine as found stops feeding, by the model, in minutes of printing."""
        found = self._bench.found
        course = (found.course_found or found.course) if found is not None else None
        if course is None or found is None or course.run.printing_from is None:
            return None
        known = course.failures(found.worst.bands if found.worst is not None else None)
        likely = [one.likely for one in known if one.likely is not None]
        return (min(likely) - course.run.printing_from) / 60.0 if likely else None

    @property
    def values(self) -> Mapping[str, float | None]:
        """The model's values of the machine as found, by station."""
        found = self._bench.found
        return (found.was or found.answer.solved.readout.values) if found is not None else {}

    @property
    def front_mm(self) -> float | None:
        """How far above the nozzle's tip the strand is soft, of the machine as found [mm]."""
        found = self._bench.found
        front = (found.as_found or found.answer).solved.readout.front if found is not None else None
        return front * 1e3 if front is not None else None

    def opened(self, line: OrderLine) -> OpenStep:
        """The step at hand as it stands; untouched where nothing was done with it yet."""
        held = self._bench.job.doing.open
        return held if held is not None and held.step == line.key else OpenStep(step=line.key, begun=NEVER)

    def now_s(self, line: OrderLine) -> float | None:
        """Seconds since the heat of the step at hand went off, or on; None where the clock was set back since."""
        at = self.opened(line)
        if at.held_from is None:
            return 0.0
        since = self.clock.since(at.held_from)
        return None if since is None else since + at.before_s

    def aids(self, line: OrderLine) -> Aids | None:
        """What the model says of the step at hand; None until it is computed for just this step and machine."""
        order = self.order
        if order is None:
            return None
        question, store = self.asked(line, order), self._bench.store
        return store.ask(question) if store.knows(question) else None

    def asked(self, line: OrderLine, order: Order) -> Question[Aids]:
        """What is asked of the model for a step of an order."""
        return answers.aids(self._bench.job, line, order.state, self._bench.catalogue)

    def gates(self, line: OrderLine) -> list[GateState]:
        """The gates of the step at hand."""
        aids = self.aids(line) or Aids()
        cap = line.target.cap.value if line.target is not None and line.target.cap is not None else None
        return gates(line.step, self.opened(line), self.now_s(line), aids, cap)

    # the order

    def picked(self) -> list[str]:
        """What is on the order, before it is written and after."""
        if self._bench.job.doing.written is not None or self._bench.job.doing.procedures:
            return list(self._bench.job.doing.procedures)
        if self._picked is None or self._picked[0] != self._bench.key:
            return suggested(self._bench.job, self._bench.catalogue)
        return self._picked[1]

    def pick(self, key: str) -> None:
        """Put a procedure on the order, or take it off."""
        if self._bench.job.doing.written is not None:
            self._do(lambda job: work_edits.with_procedure(job, key, self._bench.catalogue), _("procedure"))
            return
        now = self.picked()
        changed = [one for one in now if one != key] if key in now else [*now, key]
        self._picked = (self._bench.key, in_order(changed, self._bench.catalogue))
        self._ordered = None
        self._bench.job_changed.emit(self._bench.job)

    def write(self) -> bool:
        """Write the order down."""
        names, catalogue = self.picked(), self._bench.catalogue
        return self._do(lambda job: work_edits.written(job, self.clock.stamp(), names, catalogue), _("work order"))

    def settle(self, choice: str, option: str) -> None:
        """Settle a fact or a school."""
        label = self._bench.catalogue.choices[choice].label
        self._do(lambda job: work_edits.with_choice(job, choice, option, self._bench.catalogue), label)

    def tell_failure(self, text: str) -> None:
        """How long it printed before it failed, as typed."""
        try:
            minutes = units.number_in(text, "min") if text.strip() else None
        except units.NotANumberError as wrong:
            self._bench.told.emit(str(wrong))
            return
        self._do(lambda job: work_edits.failed_after(job, minutes), _("old failure"))

    def leave_out(self, check: str, reason: str) -> bool:
        """Leave a re-check out for a reason; an empty reason puts it back."""
        return self._do(lambda job: work_edits.left_out(job, check, reason), _("re-check"))

    # the step at hand

    def tick(self, line: OrderLine, index: int) -> bool:
        """Confirm a gate, or take it back; the first confirmed begins the wait of a step that has one."""

        def changed(job: Job) -> Job:
            job = work_edits.ticked(job, index)
            kinds = {gate.kind for gate in line.step.gates}
            opened = job.doing.open
            waits = kinds & {"cool", "reach"} and opened is not None and opened.held_from is None
            return work_edits.held_from(job, self.clock.stamp()) if waits else job

        return self._step(line, changed, line.step.gates[index].text)

    def begin(self, line: OrderLine, text: str) -> bool:
        """Begin the wait of a step; text: for how many minutes the heat was off already."""
        try:
            minutes = units.number_in(text, "min") if text.strip() else 0.0
        except units.NotANumberError as wrong:
            self._bench.told.emit(str(wrong))
            return False
        return self._step(line, lambda job: work_edits.held_from(job, self.clock.stamp(), minutes * 60.0), _("wait"))

    def read(self, line: OrderLine, text: str, way: Any) -> bool:
        """Log a temperature that was read by hand."""
        try:
            value = units.number_in(text, "°C")
        except units.NotANumberError as wrong:
            self._bench.told.emit(str(wrong))
            return False
        return self._log(line, value, way, None)

    def _log(self, line: OrderLine, value: float, way: Any, doubt: float | None, *, amend: bool = False) -> bool:
        def changed(job: Job) -> Job:
            opened = job.doing.open
            if opened is None or opened.held_from is None:
                job = work_edits.held_from(job, self.clock.stamp())
            return work_edits.with_hold_reading(job, value, self._after(job), way, doubt)

        return self._step(line, changed, _("reading"), amend=amend)

    def _after(self, job: Job) -> float:
        opened = job.doing.open
        if opened is None or opened.held_from is None:
            return 0.0
        since = self.clock.since(opened.held_from)
        if since is None:
            raise RefusedError(_("The computer's clock stands before the last entry. Begin the wait anew."))
        return since + opened.before_s

    def note(self, line: OrderLine, key: str, text: str) -> bool:
        """Note a value as typed."""
        return self._step(line, lambda job: work_edits.noted(job, line.step, key, text, self._bench.catalogue), key)

    def photograph(self, line: OrderLine, key: str, path: Path) -> bool:
        """Keep a photograph with the step."""
        return self._step(line, lambda job: work_edits.with_photo(job, key, self._bench.take_in(path)), _("photograph"))

    def leave(self, line: OrderLine, exit_key: str) -> bool:
        """Be done with the step at hand, by one of its exits."""
        states, asked = self.gates(line), self.proof
        stamp, catalogue = self.clock.stamp(), self._bench.catalogue
        label = next((one.label for one in line.step.exits if one.key == exit_key), exit_key)
        return self._step(
            line, lambda job: work_edits.left(job, line, exit_key, stamp, states, catalogue, asked), label
        )

    def _step(self, line: OrderLine, change: Callable[[Job], Job], label: str, *, amend: bool = False) -> bool:
        stamp = self.clock.stamp()
        return self._do(lambda job: change(work_edits.begun(job, line, stamp)), label, amend=amend)

    def _do(self, change: Callable[[Job], Job], label: str, *, amend: bool = False) -> bool:
        return self._bench.edit(change, label, amend=amend)

    # the probe

    def connect_probe(self, make: Callable[[], Probe]) -> None:
        """Listen to a probe from now on, instead of another."""
        self.disconnect_probe()
        try:
            self.probe = make()
        except ShopError as wrong:
            self._bench.told.emit(str(wrong))
            return
        self._heard = self.clock.stamp()
        self._timer.start()
        self.probe_changed.emit(_("Listening to {name}").format(name=self.probe.name))

    def disconnect_probe(self) -> None:
        """Let go of the probe."""
        self._timer.stop()
        if self.probe is not None:
            self.probe.close()
        self.probe, self._kept = None, None
        self.probe_changed.emit("")

    def poll(self) -> None:
        """Ask the probe; keep what it says while a step waits for it."""
        order = self.order
        line = order.now if order is not None else None
        if self.probe is None:
            return
        try:
            value = self.probe.read()
        except ShopError as wrong:
            self._bench.told.emit(str(wrong))
            self.disconnect_probe()
            return
        if value is None:
            self._silent()
            return
        self._heard = self.clock.stamp()
        self.probe_changed.emit(_("{name}: {value:.1f} °C").format(name=self.probe.name, value=value))
        if line is not None and any(gate.kind in ("cool", "reach") for gate in line.step.gates):
            self._keep(line, value)

    def _silent(self) -> None:
        since = self.clock.since(self._heard) if self._heard is not None else None
        if since is not None and since > LOST_S:
            self.probe_changed.emit(_("No reading for {seconds:.0f} s: measure by hand").format(seconds=since))

    def _keep(self, line: OrderLine, value: float) -> None:
        """Keep a reading every so often: the first as an edit of its own, more of the same in its place."""
        last = self._kept
        since = self.clock.since(last[0]) if last is not None else None
        if since is not None and since < KEPT_EVERY_S:
            return
        assert self.probe is not None
        goes_on = last is not None and self._bench.job is last[1]  # nothing else was edited since
        if self._log(line, value, self.probe.way, 1.0, amend=goes_on):
            self._kept = (self.clock.stamp(), self._bench.job)

    def close(self) -> None:
        """Let go of the probe."""
        self.disconnect_probe()
