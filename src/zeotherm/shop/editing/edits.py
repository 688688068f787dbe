"""Edits of a job: what the entry line, the levers and the command line do to it."""

from __future__ import annotations

import itertools
import json
from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace
from functools import cache
from typing import Any

from pydantic import ValidationError

from zeotherm.core.catalogue import Catalogue, shipped
from zeotherm.core.catalogue.knowledge import ANY
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.catalogue.own import NoSuchPartError, Stated, made_anew, made_like
from zeotherm.core.catalogue.stations import OF_A_TOOLHEAD
from zeotherm.core.causes.ohms import cold_ohms, told_by
from zeotherm.core.choices.board import offered
from zeotherm.core.machine.documents import (
    Job,
    Reading,
    Setup,
    Variant,
    changed_paths,
    declaration,
    job_turned,
    patched,
)
from zeotherm.core.machine.further import further_of
from zeotherm.core.machine.intake import Attachment
from zeotherm.core.machine.known import How
from zeotherm.core.machine.patches import (
    ClashError,
    Patch,
    composed,
    difference,
    merged,
    patch_at,
    sets,
    together,
    value_at,
)
from zeotherm.core.machine.quantity import Quantity, declared
from zeotherm.core.machine.supplies import SUPPLIES, feeds
from zeotherm.core.machine.toolheads import COLLECTION, NoToolheadError, belongs, setup_with
from zeotherm.core.machine.wiring import Wiring
from zeotherm.core.parts.power.judge.changes import goes_with, path_of_bed, superseded, supply_fed, with_company
from zeotherm.shop.files.job_files import check_parts, explain
from zeotherm.wording.entry import (
    ColdOhms,
    FactAnswer,
    NotKnown,
    OfToolhead,
    PinnedReading,
    SetSeveral,
    SetupChange,
    SetValue,
    Unclear,
    Understood,
    fault_at,
    understand,
)
from zeotherm.wording.further_lines import FurtherChange
from zeotherm.wording.language import _, begun_large
from zeotherm.wording.supply_lines import LOAD_WORDS
from zeotherm.wording.toolhead_lines import ToolheadChange

OWN_STATIONS = frozenset(OF_A_TOOLHEAD)  # that go with a toolhead
LABEL = 60  # characters of an option's name
ALONE = {"fan", "hotend", "printing", "corrections"}  # whose numbers have no say in whether parts go together
FAN_AIR, AIR_FROM = "surroundings.fan_air_c", "surroundings.air_from"


class RefusedError(ValueError):
    """An edit that cannot be made, and why."""


def with_value(job: Job, path: str, value: float | str) -> Job:
    """The job with a value on trial; back at the value found, the trial forgets it. Raises RefusedError."""
    catalogue = shipped().with_own(job.catalogue)
    instead = superseded(path, job.setup(), catalogue)
    if instead:
        items = declared(Setup)
        raise RefusedError(
            _("{label} follows from the power path, which is described here. Set {other} instead.").format(
                label=items[path].label, other=items[instead].label
            )
        )
    trial = merged(job.trial, with_company(path, value, catalogue))
    if path.startswith(f"{SUPPLIES}."):
        _kind, number, field = path.split(".")
        fed = supply_fed(job.setup(), number, {field: value}, catalogue)
        trial = merged(trial, {SUPPLIES: {number: dict(fed)}})
    if path == "hotend.template":
        trial = _with_fitting_break(job, trial)
    if path == "bed.part":
        trial = _with_its_own(job, trial)
    if path == "case.part":
        trial = _with_its_size(job, trial)
    if path == FAN_AIR:  # who states the air's temperature takes its source away
        trial = merged(trial, patch_at(AIR_FROM, _stated_source(job)))
    try:
        kept = without_found(job.found, trial)
    except ValidationError as wrong:
        raise RefusedError(explain(wrong, merged(job.found.model_dump(mode="json"), trial))) from None
    if isinstance(declaration(path), Quantity) and path.partition(".")[0] in ALONE:
        return job.model_copy(update={"trial": kept})  # a tenth of the cost of checking it whole
    return _checked(job, {"trial": kept})


def with_patch(job: Job, patch: Patch) -> Job:
    """The job with a merge patch on trial; a null takes away what was found, too. Raises RefusedError."""
    try:
        target = merged(job.setup().model_dump(mode="json"), patch)
        return _checked(job, {"trial": difference(job.found.model_dump(mode="json"), target)})
    except ValidationError as wrong:
        raise RefusedError(explain(wrong, {})) from None


def as_found(job: Job, path: str | None = None) -> Job:
    """The job without the trial, or without one path of it. Raises RefusedError."""
    if path is None:
        return _checked(job, {"trial": {}})
    trial = job.trial
    for one in (path, *goes_with(path)):
        trial = merged(trial, patch_at(one, value_at(job.found, one)))
    if path == FAN_AIR:
        trial = merged(trial, patch_at(AIR_FROM, job.found.surroundings.air_from))
    return _checked(job, {"trial": without_found(job.found, trial)})


def accept_trial(job: Job) -> Job:
    """The job with the values on trial taken as found, which is how they are known. Raises RefusedError."""
    setup = job.setup()
    known = with_known_paths(job, changed_paths(job.found, setup))
    return _checked(job, {"found": setup.model_dump(mode="json"), "trial": {}, "known": known})


def with_known_paths(job: Job, paths: Iterable[str], how: How = "entered", about: str = "") -> dict[str, Any]:
    """How the facts of a job are known once these are told; assumed: nobody told them."""
    told = set(paths)
    kept: dict[str, Any] = {path: one.model_dump() for path, one in job.known.items() if path not in told}
    if how != "assumed":
        kept |= {path: {"how": how, "about": about} for path in paths}
    return kept


def with_known(job: Job, paths: Iterable[str], how: How = "entered", about: str = "") -> Job:
    """The job with its values at these paths told as they are, or not known any more. Raises RefusedError."""
    paths = tuple(paths)
    strange = next((path for path in paths if not job.found.has(path)), None)
    if strange is not None:
        raise RefusedError(_("Nothing of a machine is called '{name}'.").format(name=strange))
    change: dict[str, Any] = {"known": with_known_paths(job, paths, how, about)}
    if how == "assumed":  # nor is it known any better than usual
        change["tolerances"] = {path: width for path, width in job.tolerances.items() if path not in paths}
    return _checked(job, change)


def with_measured(job: Job, path: str, instrument: str, catalogue: Catalogue) -> Job:
    """The job with what stands at a path measured by an instrument of the catalogue, whose doubt it has from then on.
    Raises RefusedError."""
    about, item = catalogue.instruments.get(instrument), declaration(path) if job.found.has(path) else None
    if about is None or not isinstance(item, Quantity):
        raise RefusedError(_("Nothing measures that: '{name}'.").format(name=instrument))
    if about.unit != item.unit:
        raise RefusedError(
            _("{instrument} measures {unit}; {label} is in {other}.").format(
                instrument=about.label, unit=about.unit, label=item.label, other=item.unit
            )
        )
    width = round(about.half_width(float(value_at(job.found, path))), 6)
    known = with_known_paths(job, (path,), "measured", about.label)
    return _checked(job, {"tolerances": {**job.tolerances, path: width}, "known": known})


def with_currency(job: Job, currency: str) -> Job:
    """The job with its prices in another currency; the figures stay. Raises RefusedError."""
    return _checked(job, {"currency": currency})


def with_wiring(job: Job, wiring: Wiring) -> Job:
    """The job with a way of wiring; it is checked by whoever looks at it. Raises RefusedError."""
    return _checked(job, {"wiring": wiring.model_dump(mode="json")})


def with_fitted(job: Job, values: dict[str, tuple[float, float]]) -> Job:
    """The job with numbers that a fit told as found: by path, value and 95 % half-width. Raises RefusedError."""
    about = declared(Setup)
    patch: Patch = {}
    for path, (value, _width) in values.items():
        item = about[path]
        assert isinstance(item, Quantity)
        patch = merged(patch, patch_at(path, round(min(max(value, item.low), item.high), 4)))
    changed = as_fact(job, lambda now: with_patch(now, patch))
    widths = {path: round(width, 4) for path, (_value, width) in values.items()}
    known = with_known_paths(changed, values, "fitted")
    return _checked(changed, {"tolerances": {**changed.tolerances, **widths}, "known": known})


def with_reading(
    job: Job, station: str, value: float | None, tolerance: float | None = None, clock_h: float | None = None
) -> Job:
    """The job with a reading pinned, or taken away. Raises RefusedError.

    tolerance: 95 % half-width; clock_h: when it was read, in hours on from the day the job starts.
    """
    readings: dict[str, Any] = {key: reading.model_dump() for key, reading in job.readings.items() if key != station}
    if value is not None:
        known = Reading(value=value, clock_h=clock_h)
        if tolerance is not None:
            known = known.model_copy(update={"tolerance": tolerance})
        readings[station] = known.model_dump()
    return _checked(job, {"readings": readings})


def apply_line(
    job: Job, line: str, clock_h: float | None = None, catalogue: Catalogue | None = None
) -> tuple[Job, str]:
    """The job after an entry line, and what was understood; clock_h: the time of a reading. Raises RefusedError."""
    known = catalogue or _catalogue(job)
    meant = understand(line, job.setup(), known)
    if isinstance(meant, Unclear):
        raise RefusedError(meant.text)
    if isinstance(meant, ToolheadChange):
        return with_toolheads(job, meant), meant.text
    if isinstance(meant, FurtherChange):
        return with_further(job, meant), meant.text
    if isinstance(meant, OfToolhead):
        return of_toolhead(job, meant, lambda one: apply_line(one, meant.line, clock_h, known)[0]), meant.text
    if isinstance(meant, PinnedReading):
        return with_reading(job, meant.station, meant.value, meant.tolerance, clock_h), meant.text
    if isinstance(meant, SetupChange):
        return with_patch(job, meant.patch), meant.text
    if isinstance(meant, FactAnswer):
        return with_answer(job, meant.asked, meant.option, known), meant.text
    if isinstance(meant, ColdOhms):
        return with_ohms(job, meant.what, meant.ohms), meant.text
    if isinstance(meant, NotKnown):
        return with_known(job, (meant.path,), "assumed"), meant.text
    for one in meant.values if isinstance(meant, SetSeveral) else (meant,):
        job = with_value(job, one.path, one.value)
        if value_at(job.found, one.path) == one.value and not sets(job.trial, one.path):  # said of what is there
            job = with_known(job, (one.path,))
    return job, meant.text


def as_fact(job: Job, change: Callable[[Job], Job], told: Iterable[str] | None = None) -> Job:
    """An edit made to the machine as found, with what is on trial kept beside it.

    told: paths that it enters; none: all that it changes. What changes along with them, as the break that comes with a
    hotend, is assumed. Raises RefusedError.
    """
    changed = change(job.model_copy(update={"trial": {}}))
    found = changed.setup()
    moved = changed_paths(job.found, found)
    entered = moved if told is None else tuple(told)
    along = changed.model_copy(
        update={"known": {path: one for path, one in changed.known.items() if path not in moved}}
    )
    known = with_known_paths(along, entered)
    try:
        trial = without_found(found, job.trial) if job.trial else {}
        data = {"found": found.model_dump(mode="json"), "trial": trial, "known": known}
        return _checked(changed.model_copy(update={"trial": {}}), data)
    except ValidationError as wrong:
        raise RefusedError(explain(wrong, {})) from None


def with_fact(job: Job, path: str, value: float | str) -> Job:
    """The job with a value of the machine as found entered; what is on trial elsewhere is kept. Raises RefusedError."""
    return as_fact(job, lambda now: with_value(now, path, value), (path,))


def patch_as_fact(job: Job, patch: Patch) -> Job:
    """The job with a merge patch over the machine as found: all that it names is entered. Raises RefusedError."""
    return as_fact(job, lambda now: with_patch(now, patch), [path for path in job.found.paths() if sets(patch, path)])


def line_as_fact(job: Job, line: str, clock_h: float | None = None, catalogue: Catalogue | None = None) -> Job:
    """The job after an entry line about the machine as it was found. Raises RefusedError."""
    meant = understand(line, job.found, catalogue or _catalogue(job))
    if isinstance(meant, NotKnown):
        return with_known(job, (meant.path,), "assumed")
    if isinstance(meant, ToolheadChange):
        return with_toolheads(job, meant)
    if isinstance(meant, FurtherChange):
        return with_further(job, meant)
    if isinstance(meant, OfToolhead):
        return of_toolhead(job, meant, lambda one: line_as_fact(one, meant.line, clock_h, catalogue))
    values = meant.values if isinstance(meant, SetSeveral) else (meant,) if isinstance(meant, SetValue) else ()
    told = tuple(one.path for one in values) if values else None
    return as_fact(job, lambda now: apply_line(now, line, clock_h, catalogue)[0], told)


NOT_THERE = (0.0, "none")  # values that say that there is no such thing


def stated(job: Job, meant: Understood, catalogue: Catalogue) -> tuple[SetValue, ...]:
    """What of a line describes the machine on the bench: values that nobody entered and nothing on trial sets. What is
    known is tried instead, and so is what the machine does not have unless somebody can find that out."""
    asked_for = {path for fact in catalogue.facts.values() for path in fact.paths}
    values = meant.values if isinstance(meant, SetSeveral) else (meant,) if isinstance(meant, SetValue) else ()
    return tuple(
        one
        for one in values
        if one.path not in job.known
        and not sets(job.trial, one.path)
        and (one.path in asked_for or value_at(job.found, one.path) not in NOT_THERE)
    )


def meaning(job: Job, line: str, catalogue: Catalogue | None = None) -> Understood:
    """What a line means that is typed beside a job's picture, and what of it is entered as found."""
    shelves = catalogue or _catalogue(job)
    meant = understand(line, job.setup(), shelves)
    if isinstance(meant, OfToolhead):
        inner = meaning(with_in_front(job, meant.number), meant.line, shelves)
        return replace(meant, text=f"{meant.number}: {inner.text}")
    facts = stated(job, meant, shelves)
    if isinstance(meant, SetSeveral):
        return SetSeveral(tuple(_as_found(one) if one in facts else one for one in meant.values))
    return _as_found(meant) if isinstance(meant, SetValue) and facts else meant


def _as_found(one: SetValue) -> SetValue:
    return replace(one, text=_("As found: {what}").format(what=one.text))


def said(job: Job, line: str, clock_h: float | None = None, catalogue: Catalogue | None = None) -> Job:
    """The job after a line that is typed beside its picture: what was only assumed is entered by it, all else as
    `apply_line`. Raises RefusedError."""
    shelves = catalogue or _catalogue(job)
    meant = understand(line, job.setup(), shelves)
    if isinstance(meant, OfToolhead):
        return of_toolhead(job, meant, lambda one: said(one, meant.line, clock_h, catalogue))
    facts = stated(job, meant, shelves)
    if not facts:
        return apply_line(job, line, clock_h, catalogue)[0]

    def entered(now: Job) -> Job:
        for one in facts:
            now = with_value(now, one.path, one.value)
        return now

    job = as_fact(job, entered, tuple(one.path for one in facts))
    values = meant.values if isinstance(meant, SetSeveral) else ()
    for one in values:
        if one not in facts:
            job = with_value(job, one.path, one.value)
    return job


# parts of its own


def shelf_at(job: Job, path: str) -> str:
    """The shelf that what is fitted at a path comes from. Raises RefusedError."""
    item = declaration(path) if job.found.has(path) else None
    if item is None or isinstance(item, Quantity):
        raise RefusedError(_("No part is fitted at '{path}'.").format(path=path))
    return item.shelf


def own_part(
    shelf: str, like: str, name: str, told: Mapping[str, Stated], catalogue: Catalogue
) -> tuple[str, dict[str, Any]]:
    """Key and entry of a part that is on no shelf, made like one that is. Raises RefusedError."""
    return _sensible(shelf, lambda: made_like(catalogue, shelf, like, name, told), catalogue)


def part_anew(shelf: str, key: str, name: str, told: Mapping[str, Stated], catalogue: Catalogue) -> dict[str, Any]:
    """The entry of an own part with other figures. Raises RefusedError."""
    return _sensible(shelf, lambda: (key, made_anew(catalogue, shelf, key, name, told)), catalogue)[1]


def _sensible(
    shelf: str, make: Callable[[], tuple[str, dict[str, Any]]], catalogue: Catalogue
) -> tuple[str, dict[str, Any]]:
    try:
        key, entry = make()
        catalogue.with_entry(shelf, key, entry)
    except NoSuchPartError as wrong:
        raise RefusedError(_("{why}.").format(why=begun_large(str(wrong)))) from None
    except ValidationError as wrong:
        why = str(wrong.errors(include_url=False)[0]["msg"]).removeprefix("Value error, ")
        raise RefusedError(_("{why}.").format(why=begun_large(why))) from None
    return key, entry


def with_own_part(
    job: Job, path: str, like: str, name: str, told: Mapping[str, Stated], catalogue: Catalogue | None = None
) -> Job:
    """The job with a part that is on no shelf, which it carries, fitted at a path. Raises RefusedError."""
    shelf = shelf_at(job, path)
    key, entry = own_part(shelf, like, name, told, catalogue or _catalogue(job))
    carried = merged(job.catalogue, {shelf: {key: entry}})
    return with_part(job.model_copy(update={"catalogue": carried}), path, key)


def with_part(job: Job, path: str, key: str) -> Job:
    """The job with a part fitted at a path: entered where nobody knew what is there, else on trial. Raises
    RefusedError."""
    return with_value(job, path, key) if path in job.known else with_fact(job, path, key)


def with_entry(job: Job, shelf: str, key: str, entry: dict[str, Any]) -> Job:
    """The job with other figures of a part that it carries; else as it was."""
    carried = job.catalogue.get(shelf)
    if not isinstance(carried, dict) or key not in carried:
        return job
    return job.model_copy(update={"catalogue": {**job.catalogue, shelf: {**carried, key: entry}}})


def with_parts(job: Job, parts: Patch) -> Job:
    """The job with the shop's own parts to choose from; what it carries of them itself stays as it has it."""
    return job.model_copy(update={"catalogue": composed(parts, job.catalogue)}) if parts else job


def with_used_parts(job: Job, parts: Patch) -> Job:
    """The job with those of the shop's own parts that it speaks of, and no other: it is whole wherever it is opened."""
    if not parts:
        return job
    spoken = job.model_dump_json(include={"found", "trial", "variants", "build"})
    own = dict(job.catalogue)
    for shelf, entries in parts.items():
        there = own.get(shelf)
        if isinstance(there, dict) and isinstance(entries, dict):
            unused = [key for key, entry in entries.items() if there.get(key) == entry and f'"{key}"' not in spoken]
            own[shelf] = {key: entry for key, entry in there.items() if key not in unused}
    return job.model_copy(update={"catalogue": {shelf: entries for shelf, entries in own.items() if entries}})


# toolheads


def with_toolheads(job: Job, change: ToolheadChange) -> Job:
    """The job with one more toolhead, with another one in front, or without one. Raises RefusedError."""
    if change.does == "turn":
        return with_in_front(job, change.number)
    if change.does == "take out":
        return without_toolhead(job, change.number)
    try:
        found = setup_with(job.found, change.number)
    except NoToolheadError as wrong:
        raise RefusedError(str(wrong)) from None
    if change.change:
        found = patched(found, {COLLECTION: {change.number: change.change}})
    told = [f"{COLLECTION}.{change.number}.{path}" for path in declared(Setup) if sets(change.change, path)]
    data = {"found": found.model_dump(mode="json"), "known": with_known_paths(job, told)}
    return _checked(job, data)


def with_in_front(job: Job, number: str) -> Job:
    """The job with another toolhead in front; nothing of the machine is changed by it. Raises RefusedError."""
    try:
        return job_turned(job, number, OWN_STATIONS, _own_cards())
    except NoToolheadError as wrong:
        raise RefusedError(_("{why}.").format(why=wrong)) from None


@cache
def _own_cards() -> frozenset[str]:
    """Cards of what a toolhead has of its own: by what their label says."""
    return frozenset(key for key, card in shipped().cards.items() if card.says and belongs(card.says[0]))


def without_toolhead(job: Job, number: str) -> Job:
    """The job without a further toolhead, and without what was told and measured of it. Raises RefusedError."""
    if number not in job.found.toolheads:
        raise RefusedError(_("There is no {number} beside {front}.").format(number=number, front=job.found.toolhead))
    own, stations = f"{COLLECTION}.{number}.", f"{number}."
    gone: Patch = {COLLECTION: {number: None}}
    found = merged(job.found.model_dump(mode="json"), gone)
    return _checked(job, {
        "found": found,
        "trial": merged(job.trial, gone) if sets(job.trial, f"{COLLECTION}.{number}") else job.trial,
        "known": {path: one.model_dump() for path, one in job.known.items() if not path.startswith(own)},
        "tolerances": {path: one for path, one in job.tolerances.items() if not path.startswith(own)},
        "readings": {key: one.model_dump() for key, one in job.readings.items() if not key.startswith(stations)},
        "set_aside": {key: one.model_dump(mode="json") for key, one in job.set_aside.items() if key != number},
    })  # fmt: skip


def of_toolhead(job: Job, meant: OfToolhead, change: Callable[[Job], Job]) -> Job:
    """The job after an edit of a toolhead that is not in front: that one is in front for the edit alone. Raises
    RefusedError."""
    front = job.found.toolhead
    changed = change(with_in_front(job, meant.number))
    return with_in_front(changed, front) if changed.found.toolhead == meant.number else changed


# what a machine has several of


def with_further(job: Job, change: FurtherChange) -> Job:
    """The job with one more of a kind, with something told of one, or without one, as found. Raises RefusedError."""
    if change.does == "take out":
        return without_further(job, change.kind, change.number)
    data: dict[str, Any] = {"found": merged(job.found.model_dump(mode="json"), change.change)}
    data["known"] = with_known_paths(job, change.told)
    return _checked(job, data)


def without_further(job: Job, kind: str, number: str) -> Job:
    """The job without one of a kind, and without what was told of it. Raises RefusedError: it feeds something."""
    if number not in further_of(job.found, kind):
        raise RefusedError(_("There is no {number}.").format(number=number))
    on_it = (feeds(job.found, number) or feeds(job.setup(), number)) if kind == SUPPLIES else ()
    if on_it:
        loads = ", ".join(LOAD_WORDS.get(one, one) for one in on_it)
        raise RefusedError(
            _("{number} feeds {loads}. Put that on another supply first.").format(number=number, loads=loads)
        )
    own = f"{kind}.{number}."
    gone: Patch = {kind: {number: None}}
    return _checked(job, {
        "found": merged(job.found.model_dump(mode="json"), gone),
        "trial": merged(job.trial, gone) if sets(job.trial, f"{kind}.{number}") else job.trial,
        "known": {path: one.model_dump() for path, one in job.known.items() if not path.startswith(own)},
        "tolerances": {path: one for path, one in job.tolerances.items() if not path.startswith(own)},
        "readings": {key: one.model_dump() for key, one in job.readings.items() if not key.startswith(f"{number}.")},
    })  # fmt: skip


def with_fault(job: Job, key: str, minute: float) -> Job:
    """The job with one of the catalogue's faults on trial, so many minutes after switching on. Raises RefusedError."""
    meant = fault_at(key, minute, job.setup(), shipped().with_own(job.catalogue))
    if not isinstance(meant, SetupChange):
        raise RefusedError(meant.text)
    return with_patch(job, meant.patch)


# intake


def with_answer(job: Job, asked: str, option: str | None, catalogue: Catalogue | None = None) -> Job:
    """The job with an answer told, and so about the trouble that it is asked about. Told again it is taken back; of a
    question of many, others stay.

    option: None takes back all answers of the question. Raises RefusedError.
    """
    about = (catalogue or _catalogue(job)).asked.get(asked)
    if about is None or (option is not None and option not in about.options):
        raise RefusedError(_("Nothing in the catalogue is called '{name}'.").format(name=f"{asked}.{option}"))
    trouble = job.intake.trouble if about.about in (job.intake.trouble, ANY) else about.about
    known = dict(job.intake.answers)
    told = known.pop(asked, [])
    if option is not None:
        kept = [one for one in told if one != option] if about.kind == "many" else []
        told = kept if option in told else [*kept, option]
        if told:
            known[asked] = told
    return _with_intake(job, {"trouble": trouble, "answers": known})


def with_trouble(job: Job, trouble: str, catalogue: Catalogue | None = None) -> Job:
    """The job whose trouble shows at another part; what was told stays. Raises RefusedError."""
    if trouble not in (catalogue or _catalogue(job)).troubles:
        raise RefusedError(_("Nothing in the catalogue is called '{name}'.").format(name=trouble))
    return _with_intake(job, {"trouble": trouble, "decided": None})


def with_ohms(job: Job, what: str, value: float | None, at_c: float | None = None) -> Job:
    """The job with a cold meter reading [Ω] of heater, sensor or bed; what it tells is the answer of that check.

    at_c: the room's temperature [°C], where it is known. Raises RefusedError.
    """
    ohms = job.intake.ohms.model_copy(update={what: value, **({"at_c": at_c} if at_c is not None else {})})
    told = told_by(cold_ohms(job.found, _catalogue(job), ohms))
    answers = {key: one for key, one in job.intake.answers.items() if key != "cold_ohms"}
    if told is not None:
        answers["cold_ohms"] = [told]
    return _with_intake(job, {"ohms": ohms.model_dump(), "answers": answers})


def with_skipped(job: Job, check: str) -> Job:
    """The job with a check that is not to be offered, or to be offered again. Raises RefusedError."""
    skipped = [one for one in job.intake.skipped if one != check]
    return _with_intake(job, {"skipped": skipped if check in job.intake.skipped else [*skipped, check]})


def decided(job: Job, cause: str | None, catalogue: Catalogue | None = None) -> Job:
    """The job with its cause decided, or open again; its remedies go on the board. Raises RefusedError."""
    catalogue = catalogue or _catalogue(job)
    if cause is not None and cause not in catalogue.causes:
        raise RefusedError(_("Nothing in the catalogue is called '{name}'.").format(name=cause))
    changed = _with_intake(job, {"decided": cause})
    fitting = offered(job.found, catalogue)
    for key in catalogue.causes[cause].remedies if cause is not None else ():
        if key in fitting and key not in changed.variants:
            changed = with_variant(changed, key, fitting[key])
    return changed


def with_attachment(job: Job, attachment: Attachment, *, keep: bool = True) -> Job:
    """The job with a file attached, or without it. Raises RefusedError."""
    others = [one.model_dump() for one in job.intake.attachments if one.digest != attachment.digest]
    return _with_intake(job, {"attachments": [*others, attachment.model_dump()] if keep else others})


def with_photo_of(job: Job, card: str, photo: Attachment | None) -> Job:
    """The job with a photograph of the label of a part, by its card; None: without it. Raises RefusedError."""
    others = {key: one.model_dump() for key, one in job.photos.items() if key != card}
    return _checked(job, {"photos": others if photo is None else {**others, card: photo.model_dump()}})


def _with_intake(job: Job, change: dict[str, Any]) -> Job:
    return _checked(job, {"intake": {**job.intake.model_dump(mode="json"), **change}})


def _catalogue(job: Job) -> Catalogue:
    return shipped().with_own(job.catalogue)


# options


def with_variant(job: Job, key: str, variant: Variant | None) -> Job:
    """The job with an option put on the board, changed, or taken off it. Raises RefusedError."""
    kept = {name: one.model_dump(mode="json") for name, one in job.variants.items() if name != key or variant}
    if variant is not None:
        kept[key] = variant.model_dump(mode="json")
    return _checked(job, {"variants": kept, "chosen": [name for name in job.chosen if name in kept]})


def trial_as_variant(job: Job) -> Job:
    """The trial as an option of its own, named by what it changes; the trial ends. Raises RefusedError."""
    if not job.trial:
        raise RefusedError(_("Nothing is on trial: move a lever first."))
    changed = [declaration(path).label for path in changed_paths(job.found, job.setup())]
    label = ", ".join(changed) or _("Changed schedule")
    made = Variant(label=label if len(label) <= LABEL else label[: LABEL - 1] + "…", change=job.trial)
    return _checked(with_variant(job, _new_key(job), made), {"trial": {}})


def line_as_variant(job: Job, line: str) -> Job:
    """An option made of what an entry line says. Raises RefusedError."""
    meant = understand(line, job.found, shipped().with_own(job.catalogue))
    if not isinstance(meant, SetValue | SetSeveral | SetupChange):
        raise RefusedError(meant.text if isinstance(meant, Unclear) else _("A reading is no option."))
    changed = apply_line(job.model_copy(update={"trial": {}}), line)[0]
    if not changed.trial:
        raise RefusedError(_("The machine was found so: {text}").format(text=meant.text))
    return with_variant(job, _new_key(job), Variant(label=meant.text[:LABEL], change=changed.trial))


def toggled(job: Job, key: str) -> Job:
    """The job with an option taken into the set, or out of it; options that clash refuse. Raises RefusedError."""
    chosen = [name for name in job.chosen if name != key] if key in job.chosen else [*job.chosen, key]
    return with_chosen(job, chosen)


def with_chosen(job: Job, chosen: list[str]) -> Job:
    """The job with a set of options taken; options that clash refuse. Raises RefusedError."""
    try:
        together(*(job.variants[name].change for name in chosen))
    except ClashError as wrong:
        label = declaration(wrong.path).label if job.found.has(wrong.path) else wrong.path
        raise RefusedError(
            _("These options clash: {label} would be {one} and {other} at once. Leave one out.").format(
                label=label, one=wrong.one, other=wrong.other
            )
        ) from None
    return _checked(job, {"chosen": chosen})


def _new_key(job: Job) -> str:
    return next(f"own_{number}" for number in itertools.count(1) if f"own_{number}" not in job.variants)


def without_found(found: Setup, trial: Patch) -> Patch:
    """The part of a trial that differs from what was found."""
    return difference(found.model_dump(mode="json"), patched(found, trial).model_dump(mode="json"))


def _with_fitting_break(job: Job, trial: Patch) -> Patch:
    """A hotend of another bore comes with its own break."""
    catalogue = shipped().with_own(job.catalogue)
    setup = patched(job.found, trial)
    shape = catalogue.hotends.get(setup.hotend.template)
    fitted = catalogue.breaks.get(setup.hotend.break_part)
    if shape is None or (fitted is not None and fitted.bore == shape.bore):
        return trial
    return merged(trial, patch_at("hotend.break_part", shape.default_break))


def _with_its_own(job: Job, trial: Patch) -> Patch:
    """A bed of another kind comes with its own heater, sheet, room below and power path, its sensor in the middle."""
    catalogue, key = shipped().with_own(job.catalogue), patched(job.found, trial).bed.part
    kind = catalogue.beds.get(key)
    if kind is None:
        return trial
    own: Patch = {
        "heater_w": kind.heater.power_w, "sheet": kind.sheet, "clearance_mm": kind.clearance_mm, "sensor_x_mm": 0.0,
        "sensor_y_mm": 0.0,
    }  # fmt: skip
    return merged(merged(trial, {"bed": own}), path_of_bed(job.setup(), key, catalogue))


def _with_its_size(job: Job, trial: Patch) -> Patch:
    """A case of another kind comes in its own size."""
    kind = shipped().with_own(job.catalogue).cases.get(patched(job.found, trial).case.part)
    if kind is None:
        return trial
    own: Patch = {"width_mm": kind.width_mm, "depth_mm": kind.depth_mm, "height_mm": kind.height_mm}
    return merged(trial, {"case": own})


def _stated_source(job: Job) -> str:
    sources = shipped().with_own(job.catalogue).air_sources
    return next(key for key, source in sources.items() if source.stated)


def _checked(job: Job, changes: dict[str, Any]) -> Job:
    data = {**job.model_dump(mode="json", exclude={"measured"}), **changes}  # long, and changed by its own edits
    try:
        changed = Job.model_validate_json(json.dumps(data)).model_copy(update={"measured": job.measured})
        check_parts(changed, job)
    except ValidationError as wrong:
        raise RefusedError(explain(wrong, data)) from None
    except DoesNotFitError as wrong:
        raise RefusedError(_("{label}: {why}").format(label=declaration(wrong.path).label, why=wrong)) from None
    return changed
