"""A command for each part of a machine: what it does, against every limit, and what would help."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from zeotherm.cli.group import JOB, Subject, ToldError, subject

if TYPE_CHECKING:
    from zeotherm.core.parts.part import Part
    from zeotherm.core.questions import Question


def with_part(job_file: Path, key: str) -> tuple[Subject, Part[Any]]:
    """A job that has a part, and that part; or one sentence of what is not in it."""
    from zeotherm.core.parts.registry import PARTS
    from zeotherm.wording.parts import words_of

    about, part = subject(job_file), PARTS[key]
    if not part.present(about.setup, about.catalogue):
        raise ToldError(f"{about.name}: {words_of(part).NEEDS}")
    return about, part


def at_rest(job_file: Path, key: str) -> tuple[Subject, Question[Any]]:
    """A job and a part of it at rest, late in its print."""
    about, part = with_part(job_file, key)
    return about, part.at_rest(about.setup, about.job, about.catalogue, about.hours)


def over_its_course(job_file: Path, key: str) -> tuple[Subject, Question[Any]]:
    """A job and a part of it over its course, in what its machine's hours put about it."""
    about, part = with_part(job_file, key)
    return about, part.over_its_course(about.setup, about.job, about.catalogue, about.hours)


def command_of(part: Part[Any]) -> click.Command:
    """The command of a part."""
    from dataclasses import replace

    from zeotherm.core.judgement.standing import not_told
    from zeotherm.wording.parts import as_data, printed, words_of

    def run(job_file: Path, as_json: bool) -> None:
        about, _part = with_part(job_file, part.key)
        asked = (about.setup, about.job, about.catalogue, about.hours)
        found = part.found(about.job, about.ask(part.in_full(*asked)))
        for name in words_of(part).ASKED:
            found = found.with_aside(name, about.ask(part.aside(name, *asked)))
        if not_told(about.job, part.key, about.catalogue):
            found = replace(found, deciding=about.ask(part.deciding(*asked)))
        if as_json:
            click.echo(json.dumps(as_data(part, about.job, found), indent=2, ensure_ascii=False))
            return
        for line in printed(part, found):
            click.echo(line)

    told = click.option("--json", "as_json", is_flag=True, help="Print everything as JSON.")(run)
    return click.command(part.command, help=words_of(part).COMMAND)(JOB(told))
