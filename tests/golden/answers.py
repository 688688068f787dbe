"""Answers to machines of every kind, kept so that moving code about can be shown to change no number.

`python -m tests.golden.answers` draws the machines anew and writes their answers: only where numbers are meant to
change, and the commit says why. The machines are kept beside their answers, since a shelf that grows would draw others.
"""

from __future__ import annotations

import json
import math
import random
import sys
from collections.abc import Iterator, Mapping
from pathlib import Path

from pydantic import ValidationError

from zeotherm.core.catalogue import Catalogue, shipped
from zeotherm.core.catalogue.fitting import described
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.machine.documents import Setup, patched
from zeotherm.core.machine.patches import Patch, merged, patch_at
from zeotherm.core.machine.quantity import Choice, declared
from zeotherm.core.parts.bed.judge.answer import first_bed, heated
from zeotherm.core.parts.bed.model.model import FEW
from zeotherm.core.parts.enclosure.judge.answer import encloses, first_case
from zeotherm.core.parts.hotend.judge.course import plan
from zeotherm.core.parts.hotend.model.solved import solve_hotend
from zeotherm.core.parts.power.judge.answer import first_power
from zeotherm.core.parts.whole.run import check
from zeotherm.core.solver.axisymmetric import NotConvergedError
from zeotherm.core.solver.plate import NotSettledError
from zeotherm.shop.files.job_files import read_job
from zeotherm.shop.places import demo_jobs

FILE = Path(__file__).with_name("answers.json")
COUNT, SEED = 200, 11
CHANGED, CHOSEN = 0.15, 0.3  # shares of numbers, and of parts, that differ from the usual machine's
DIGITS = 13
Told = dict[str, float]


def drawn(chance: random.Random, catalogue: Catalogue) -> Patch:
    """A machine that fits together, as a patch of the usual one."""
    items = declared(Setup)
    while True:
        whole: Patch = {"bed": {"target_c": chance.choice([0.0, 60.0, 100.0])}}
        setup = patched(Setup(), whole)
        for path, item in items.items():
            if isinstance(item, Choice):
                change = chance.random() < CHOSEN
                value: float | str = chance.choice(list(catalogue.shelf(item.shelf)))
            else:
                change = chance.random() < CHANGED
                value = round(min(max(chance.gauss(0.5 * (item.low + item.high), 0.1 * (item.high - item.low)),
                                      item.low), item.high), 3)  # fmt: skip
            if not change:
                continue
            tried = merged(whole, patch_at(path, value))
            try:
                setup = patched(Setup(), tried)
                check(setup, catalogue)
            except (ValidationError, DoesNotFitError):
                continue
            whole = tried
        if answers(setup, catalogue):
            return whole


def answers(setup: Setup, catalogue: Catalogue) -> Told:
    """Every station of every part that the machine has, at rest; a part that finds no rest tells none."""
    found: Told = {}

    def tell(part: str, values: Mapping[str, float | None]) -> None:
        found.update({f"{part}.{name}": value for name, value in values.items() if value is not None})

    try:
        tell("hotend", solve_hotend(setup, catalogue).readout.values)
        if heated(setup, catalogue):
            tell("bed", first_bed(setup, catalogue, cells=FEW).readout.values)
        if encloses(setup, catalogue):
            tell("case", first_case(setup, catalogue).values)
        if described(setup, catalogue):
            tell("power", first_power(setup, catalogue).values)
    except (NotConvergedError, NotSettledError, DoesNotFitError):
        return {}
    return {name: value for name, value in found.items() if math.isfinite(value)}


def of_hours(setup: Setup, catalogue: Catalogue) -> Told:
    """What a whole job comes to: each limit's least room, and when."""
    course = plan(setup, catalogue)
    rooms = {f"room.{key}": room for key, (room, _time) in course.worst.items()}
    return rooms | {f"time.{key}": time for key, (_room, time) in course.worst.items()}


def demo() -> Iterator[tuple[str, Setup]]:
    """The machines of the demo."""
    for path in demo_jobs():
        job = read_job(path)
        yield job.machine.split(",")[0], job.found


def main() -> int:
    """Write all answers anew."""
    catalogue, chance = shipped(), random.Random(SEED)
    machines = [drawn(chance, catalogue) for _machine in range(COUNT)]
    told = {
        "demo": {name: answers(setup, catalogue) | of_hours(setup, catalogue) for name, setup in demo()},
        "machines": [{"machine": one, "answers": answers(patched(Setup(), one), catalogue)} for one in machines],
    }
    rounded = json.loads(json.dumps(told), parse_float=lambda text: float(f"{float(text):.{DIGITS}g}"))
    FILE.write_text(
        json.dumps(rounded, indent=None, separators=(",", ":")).replace('{"machine"', '\n{"machine"') + "\n"
    )
    return 0


if __name__ == "__main__":
    sys.exit(main())
