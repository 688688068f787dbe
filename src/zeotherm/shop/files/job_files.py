"""Jobs as JSON files, by a published schema."""

from __future__ import annotations

import difflib
import json
import os
import tempfile
from pathlib import Path
from typing import Any

from pydantic import BaseModel, ValidationError

from zeotherm.core.catalogue import Catalogue, shipped
from zeotherm.core.catalogue.lookup import DoesNotFitError
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.machine.documents import Job, Setup, patched
from zeotherm.core.parts.whole.run import check
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files.reading import utf8_of

LARGEST = 8_000_000  # bytes; an exported job has a few thousand


def schema() -> dict[str, Any]:
    """JSON schema of a job file."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **Job.model_json_schema()}


def dumps(job: Job) -> str:
    """A job as JSON text, stable in its order."""
    return json.dumps(job.model_dump(mode="json"), indent=2, ensure_ascii=False) + "\n"


def loads(text: str, name: str = "this text") -> Job:
    """A job from JSON text; raises ShopError that names the field and what it should be."""
    return validated(parsed(text, name, "job"), name)


def parsed(text: str, name: str, what: str) -> dict[str, Any]:
    """JSON text that says it is a Zeotherm job, or shelf: every key once, no number that is none. Raises ShopError."""
    if not text.strip():
        raise ShopError(f"{name} is empty. Export the {what} again.")
    try:
        data = json.loads(text, parse_constant=_no_constant, object_pairs_hook=_once)
    except json.JSONDecodeError as wrong:
        end = " It seems cut off." if wrong.pos >= len(text.rstrip()) - 1 else ""
        raise ShopError(f"{name} is no JSON: {wrong.msg} in line {wrong.lineno}, column {wrong.colno}.{end}") from None
    except RecursionError:
        raise ShopError(f"{name} is nested too deep for a {what}. Choose another file.") from None
    except ValueError as wrong:
        raise ShopError(f"{name}: {wrong}. Correct it and import again.") from None
    form = f"zeotherm-{what}"
    if not isinstance(data, dict) or data.get("format") != form:
        raise ShopError(f'{name} is no Zeotherm {what}: it lacks "format": "{form}".')
    return data


def validated(data: dict[str, Any], name: str) -> Job:
    """A checked job: fields, units' bounds, parts that exist and go together. Raises ShopError."""
    try:
        job = Job.model_validate_json(json.dumps(data))
    except ValidationError as wrong:
        raise ShopError(f"{name}: {explain(wrong, data)}") from None
    unknown = [key for key in job.readings if key not in STATIONS or not STATIONS[key].readable]
    if unknown:
        raise ShopError(
            f"{name}: readings.{unknown[0]} is no place that can be read.{_near(unknown[0], list(STATIONS))}"
        )
    try:
        check_parts(job)
    except ValidationError as wrong:
        raise ShopError(f"{name}: catalogue, {explain(wrong, {})}") from None
    except DoesNotFitError as wrong:
        raise ShopError(f"{name}: {wrong.path}: {wrong}") from None
    return job


def unknown_answers(job: Job, catalogue: Catalogue) -> list[str]:
    """What of a job's intake and work the catalogue does not know, with what was perhaps meant; it does not count."""
    found = []
    trouble = job.intake.trouble
    if trouble not in catalogue.troubles:
        found.append(f"intake.trouble is '{trouble}', no known trouble.{_near(trouble, list(catalogue.troubles))}")
    for asked, options in job.intake.answers.items():
        if asked not in catalogue.asked:
            found.append(f"intake.answers.{asked} is never asked.{_near(asked, list(catalogue.asked))}")
            continue
        known = list(catalogue.asked[asked].options)
        found += [
            f"intake.answers.{asked} has no answer '{one}'.{_near(one, known)}" for one in options if one not in known
        ]
    found += [
        f"doing.procedures names '{one}', no known procedure.{_near(one, list(catalogue.procedures))}"
        for one in job.doing.procedures
        if one not in catalogue.procedures
    ]
    decided = job.intake.decided
    if decided is not None and decided not in catalogue.causes:
        found.append(f"intake.decided is '{decided}', no known cause.{_near(decided, list(catalogue.causes))}")
    return found


def check_parts(job: Job, before: Job | None = None) -> None:
    """Whether the parts of a job, of its trial and of its options exist and go together.

    before: the job that was checked already, of which only what differs is looked at. Raises DoesNotFitError, or
    pydantic's ValidationError for the job's own catalogue.
    """
    catalogue = shipped().with_own(job.catalogue)
    setups = [job.setup()]
    if before is None or (before.found, before.catalogue) != (job.found, job.catalogue):
        setups += [job.found, *(patched(job.found, one.change) for one in job.variants.values())]
    else:
        fresh = [one for key, one in job.variants.items() if before.variants.get(key) != one]
        setups += [patched(job.found, one.change) for one in fresh]
    for setup in setups:
        check(setup, catalogue, job.tolerances)


def read_job(path: Path) -> Job:
    """A job from a file; raises ShopError."""
    return loads(utf8_of(path, LARGEST), path.name or str(path))


def write_text(path: Path, text: str) -> None:
    """Write a file whole or not at all; raises ShopError."""
    write_bytes(path, text.encode("utf-8"))


def write_bytes(path: Path, data: bytes) -> None:
    """Write a file whole or not at all: beside it first, then in its place. Raises ShopError."""
    beside = ""
    try:
        handle, beside = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        os.replace(beside, path)
    except OSError as wrong:
        if beside and os.path.exists(beside):
            os.unlink(beside)
        raise ShopError(
            f"{path} could not be written: {wrong.strerror}. Choose another place; nothing was changed."
        ) from None


def explain(wrong: ValidationError, data: dict[str, Any]) -> str:
    """The first fault in words: field, what was found, what was expected, what to do."""
    fault = wrong.errors(include_url=False)[0]
    where = ".".join(str(step) for step in fault["loc"]) or "the job"
    found = fault.get("input")
    more = f" ({wrong.error_count() - 1} more faults)" if wrong.error_count() > 1 else ""
    kind = fault["type"]
    if kind == "extra_forbidden":
        known = _fields_beside(fault["loc"])
        return f"{where} is not a known field.{_near(str(fault['loc'][-1]), known)}{more}"
    if kind == "missing":
        return f"{where} is missing. Add it.{more}"
    message = fault["msg"].removeprefix("Input ").removeprefix("Value error, ")
    if kind == "value_error" and isinstance(found, dict):  # two of its fields do not go together
        return f"{where}: {message}.{more}"
    shown = json.dumps(found, default=str)
    shown = shown if len(shown) < 40 else shown[:37] + "..."
    return f"{where} is {shown}: {message[:1].lower()}{message[1:]}.{more}"


def _once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for key, value in pairs:
        if key in found:
            raise ValueError(f"'{key}' is there twice, once with {json.dumps(found[key])[:40]}; keep one of them")
        found[key] = value
    return found


def _no_constant(text: str) -> float:
    raise ValueError(f"{text} is no number")


def _fields_beside(location: tuple[int | str, ...]) -> list[str]:
    kind: Any = Job
    for step in location[:-1]:
        field = kind.model_fields.get(str(step)) if isinstance(kind, type) and issubclass(kind, BaseModel) else None
        kind = field.annotation if field else Setup
    return list(kind.model_fields) if isinstance(kind, type) and issubclass(kind, BaseModel) else []


def _near(word: str, known: list[str]) -> str:
    close = difflib.get_close_matches(word, known, n=1, cutoff=0.5)
    return f" Did you mean {close[0]}?" if close else f" Known: {', '.join(known)}." if known else " Take it out."
