"""A new job from what is known at the counter: a complaint, the nearest machine, a reading; any of them, in any
order."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from pydantic import ValidationError

from zeotherm.core.catalogue import Catalogue
from zeotherm.core.machine.documents import Job, Setup, patched
from zeotherm.core.machine.patches import Patch
from zeotherm.shop.editing import edits
from zeotherm.shop.editing.edits import RefusedError
from zeotherm.wording.language import _
from zeotherm.wording.units import NotANumberError, read_number

CODE = re.compile(r"^[a-z][0-9]$")


@dataclass(frozen=True)
class Incoming:
    """What was told of it so far."""

    complaints: tuple[str, ...] = ()  # by key
    machine: str = ""  # the nearest kind, by key
    readings: Mapping[str, float] = field(default_factory=dict)  # by key
    known: Job | None = None  # a job of the very machine, which the shop knows
    lines: tuple[str, ...] = ()  # of the entry line, about the machine

    @property
    def empty(self) -> bool:
        """Whether there is nothing to begin a job with."""
        return not (self.complaints or self.machine or self.readings or self.known or self.lines)

    def touched(self, complaint: str) -> Incoming:
        """With a complaint, or without it."""
        others = tuple(one for one in self.complaints if one != complaint)
        return replace(self, complaints=others if complaint in self.complaints else (*others, complaint))

    def nearest(self, machine: str) -> Incoming:
        """With a nearest machine; named again: without."""
        return replace(self, machine="" if machine == self.machine else machine, known=None)

    def said(self, line: str) -> Incoming:
        """With a line about the machine."""
        return replace(self, lines=(*self.lines, line))

    def read(self, reading: str, value: float | None) -> Incoming:
        """With a reading, or without it."""
        others = {key: one for key, one in self.readings.items() if key != reading}
        return replace(self, readings=others if value is None else {**others, reading: value})


def typed(arrival: Incoming, line: str, catalogue: Catalogue) -> Incoming | None:
    """What a line of codes adds: `h2 m3 r1 9.1`; None where it is none. Raises RefusedError."""
    words = line.lower().split()
    if not words or not CODE.match(words[0]):
        return None
    by_code = {
        **{one.code: ("complaints", key) for key, one in catalogue.complaints.items()},
        **{one.code: ("machines", key) for key, one in catalogue.machines.items()},
        **{one.code: ("first_readings", key) for key, one in catalogue.first_readings.items()},
    }
    while words:
        word = words.pop(0)
        if word not in by_code:
            text = _("'{word}' is no code of this page. Codes stand beside what they mean.")
            raise RefusedError(text.format(word=word))
        shelf, key = by_code[word]
        if shelf == "complaints":
            arrival = arrival if key in arrival.complaints else arrival.touched(key)
        elif shelf == "machines":
            arrival = arrival if key == arrival.machine else arrival.nearest(key)
        else:
            if not words:
                raise RefusedError(_("{code} is a reading: put its value after it, as in {code} 9.1").format(code=word))
            arrival = arrival.read(key, number(words.pop(0)))
    return arrival


def number(text: str) -> float:
    """A reading as it is typed. Raises RefusedError."""
    try:
        return read_number(text)
    except NotANumberError as wrong:
        raise RefusedError(str(wrong)) from None


def first_job(arrival: Incoming, count: str, catalogue: Catalogue) -> Job:
    """The job that a visit begins with; count: its number. What the nearest machine says is assumed. Raises
    RefusedError, which names the reading that does not fit."""
    kind = catalogue.machines.get(arrival.machine)
    told = [catalogue.complaints[key] for key in arrival.complaints]
    complaint = "; ".join(one.label for one in told)
    if arrival.known is not None:
        was = arrival.known
        job = Job(number=count, machine=was.machine, place=was.place, complaint=complaint, found=was.found,
                  known=was.known, tolerances=was.tolerances, catalogue=was.catalogue)  # fmt: skip
    else:
        found = _found(kind.change) if kind is not None else Setup()
        job = Job(number=count, machine=kind.label if kind is not None and kind.change else _("New machine"),
                  complaint=complaint, found=found)  # fmt: skip
    for key, value in arrival.readings.items():
        about = catalogue.first_readings[key]
        line = about.line.format(value=f"{value:.6g}")
        try:
            job = edits.line_as_fact(job, line, None, catalogue)
        except RefusedError as wrong:
            raise RefusedError(_("{reading}: {why}").format(reading=about.label, why=wrong)) from None
        if about.path:
            job = edits.with_known(job, (about.path,), "measured")
    for line in arrival.lines:
        job = edits.line_as_fact(job, line, None, catalogue)
    if trouble := next((one.trouble for one in told if one.trouble), ""):
        job = edits.with_trouble(job, trouble, catalogue)
    for one in reversed(told):  # the first complaint is what it is about
        for answer in one.answers:
            asked, _dot, option = answer.partition(".")
            if option not in job.intake.answers.get(asked, []):
                job = edits.with_answer(job, asked, option, catalogue)
    return job


def _found(change: Patch) -> Setup:
    try:
        return patched(Setup(), change)
    except ValidationError as wrong:
        raise RefusedError(str(wrong)) from None
