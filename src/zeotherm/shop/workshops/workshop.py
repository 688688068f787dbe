"""The workshop: every job and every edit, in one file.

An edit is one transaction, so a process that is killed loses nothing that was entered. Undo and redo move a cursor
along the job's edits and outlive the program. Every row carries its digest: a damaged one is told, set aside and can be
exported, and the rest goes on.
"""

from __future__ import annotations

import hashlib
import json
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from pydantic import BaseModel

from zeotherm.core.machine.documents import Job
from zeotherm.core.machine.intake import Attachment
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files import job_files
from zeotherm.shop.files.reading import content_of
from zeotherm.shop.workshops.workshop_file import WorkshopFile
from zeotherm.wording.language import _

MAJOR, MINOR = 1, 2
LAYOUT = MAJOR * 1000 + MINOR
EDITS_KEPT = 500

TABLES = {
    "jobs": """(
        id INTEGER PRIMARY KEY,
        cursor INTEGER NOT NULL
    ) STRICT""",
    "edits": """(
        job INTEGER NOT NULL REFERENCES jobs(id) ON DELETE CASCADE,
        step INTEGER NOT NULL,
        label TEXT NOT NULL,
        document TEXT NOT NULL,
        PRIMARY KEY (job, step)
    ) STRICT, WITHOUT ROWID""",
    "notes": "(key TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT, WITHOUT ROWID",
    "attached": "(digest TEXT PRIMARY KEY, content BLOB NOT NULL) STRICT",  # since 1.1
    "aside": """(
        id INTEGER PRIMARY KEY,
        job INTEGER NOT NULL,
        what TEXT NOT NULL,
        content BLOB NOT NULL
    ) STRICT""",  # since 1.2
}
DIGESTED = "ALTER TABLE edits ADD COLUMN digest TEXT NOT NULL DEFAULT ''"  # since 1.2
LARGEST_ATTACHMENT = 20_000_000  # bytes
ASIDE = {"runs": ("time_s", "values"), "pictures": ("cells",)}  # long fields of what was measured
MOST_ASIDE = 200  # documents that are remembered as kept
KEPT_ASIDE = "kept_aside"  # digest of them, in their place


@dataclass(frozen=True, slots=True)
class Trouble:
    """Something of a workshop that is damaged."""

    job: int
    what: str  # in words


class _DamagedError(Exception):
    """A row that is not what was written."""


class Workshop:
    """Jobs in one file. Methods raise ShopError when the file cannot be used."""

    def __init__(self, path: Path) -> None:
        self._aside: dict[int, tuple[BaseModel, str]] = {}  # documents whose long fields are kept, by identity
        self._troubles: dict[tuple[int, str], Trouble] = {}
        self._file = WorkshopFile(path, frozenset(TABLES), LAYOUT, _prepared)

    @property
    def path(self) -> Path:
        """Where the file stands."""
        return self._file.path

    @property
    def reading(self) -> bool:
        """Whether it is open for reading only."""
        return self._file.reading

    @property
    def refusal(self) -> str:
        """Why nothing is written to a file that is open for reading only; nothing where it is not."""
        return self._file.refusal

    @property
    def troubles(self) -> tuple[Trouble, ...]:
        """What was found damaged since it was opened."""
        return tuple(self._troubles.values())

    def news(self) -> list[str]:
        """What a person is to be told since it was last asked."""
        told, self._file.news = self._file.news, []
        return told

    def close(self) -> None:
        """Let go of the file."""
        self._file.close()

    def keys(self) -> list[int]:
        """The ids of all jobs, oldest first."""
        return [int(str(key)) for (key,) in self._file.read("SELECT id FROM jobs ORDER BY id")]

    def jobs(self) -> list[tuple[int, Job]]:
        """Every job that can be read with its id, oldest first; `troubles` tells of the others."""
        read = ((key, self.readable(key)) for key in self.keys())
        return [(key, job) for key, job in read if job is not None]

    def readable(self, key: int) -> Job | None:
        """One job as `job` has it; None where it is damaged throughout, which `troubles` tells."""
        try:
            return self.job(key)
        except ShopError as wrong:
            self._trouble(key, str(wrong))
            return None

    def job(self, key: int) -> Job:
        """One job as it stands; where its last edit is damaged, as the last one before it that is whole."""
        rows = self._file.read("SELECT cursor FROM jobs WHERE id = ?", key)
        if not rows:
            raise ShopError(_("Job {key} is not in {name}.").format(key=key, name=self.path.name))
        cursor = int(str(rows[0][0]))
        try:
            return self._at(key, cursor)
        except (_DamagedError, ShopError) as wrong:
            self._trouble(key, _("job {key}: its last edit is damaged ({why})").format(key=key, why=wrong))
        return self._before(key, cursor)

    def _before(self, key: int, cursor: int) -> Job:
        """The last edit of a job before a damaged one that is whole."""
        steps = self._steps(key)
        for step in sorted((one for one in steps if one < cursor), reverse=True):
            try:
                return self._at(key, step)
            except (_DamagedError, ShopError):
                continue
        raise ShopError(_("Job {key} of {name} is damaged throughout. Export what is left of it, or open an earlier "
                          "copy of the file.").format(key=key, name=self.path.name))  # fmt: skip

    def _steps(self, key: int) -> list[int]:
        return [int(str(step)) for (step,) in self._file.read("SELECT step FROM edits WHERE job = ?", key)]

    def _at(self, key: int, step: int) -> Job:
        """One edit of a job. Raises _DamagedError, or ShopError where what it holds does not fit."""
        rows = self._file.read("SELECT label, document, digest FROM edits WHERE job = ? AND step = ?", key, step)
        if not rows:
            raise _DamagedError(_("it is not there"))
        label, document, digest = (str(one) for one in rows[0])
        if digest and digest != _digest(label, document):
            raise _DamagedError(_("it does not match its checksum"))
        return self._job(document, key)

    def add(self, job: Job) -> int:
        """Put a job in; returns its id."""
        with self._transaction() as base:
            key = base.execute("INSERT INTO jobs (cursor) VALUES (0)").lastrowid
            assert key is not None
            self._put(base, key, 0, "", job)
        return key

    def edit(self, key: int, job: Job, label: str, *, amend: bool = False) -> None:
        """Record a changed job. amend: the change goes on from the last one, as along a drag, and takes its place."""
        with self._transaction() as base:
            cursor = self._cursor(base, key)
            self._keep_damaged(base, key)
            base.execute("DELETE FROM edits WHERE job = ? AND step > ?", (key, cursor))
            step = cursor if amend and cursor > 0 else cursor + 1
            self._put(base, key, step, label, job)
            base.execute("DELETE FROM edits WHERE job = ? AND step < ?", (key, step - EDITS_KEPT))
            base.execute("UPDATE jobs SET cursor = ? WHERE id = ?", (step, key))

    def _put(self, base: sqlite3.Connection, key: int, step: int, label: str, job: Job) -> None:
        text = self._text(base, job)
        base.execute(
            "INSERT OR REPLACE INTO edits (job, step, label, document, digest) VALUES (?, ?, ?, ?, ?)",
            (key, step, label, text, _digest(label, text)),
        )

    def _keep_damaged(self, base: sqlite3.Connection, key: int) -> None:
        """Before a job goes on from an earlier edit, set its damaged ones aside."""
        if not any(one.job == key for one in self.troubles):
            return
        rows = base.execute("SELECT step, label, document, digest FROM edits WHERE job = ?", (key,)).fetchall()
        for step, label, document, digest in rows:
            if digest and digest != _digest(str(label), str(document)):
                what = _("edit {step} of job {key}").format(step=step, key=key)
                base.execute("INSERT INTO aside (job, what, content) VALUES (?, ?, ?)",
                             (key, what, str(document).encode("utf-8", "surrogateescape")))  # fmt: skip
                base.execute("DELETE FROM edits WHERE job = ? AND step = ?", (key, step))

    def undo(self, key: int) -> str | None:
        """Step back; returns what was undone, or None at the beginning."""
        return self._move(key, -1)

    def redo(self, key: int) -> str | None:
        """Step forward; returns what was redone, or None at the end."""
        return self._move(key, 1)

    def note(self, key: str, default: str = "") -> str:
        """A remembered setting of this workshop."""
        rows = self._file.read("SELECT value FROM notes WHERE key = ?", key)
        return str(rows[0][0]) if rows else default

    def notes(self) -> dict[str, str]:
        """All remembered settings."""
        return {str(key): str(value) for key, value in self._file.read("SELECT key, value FROM notes")}

    def numbers(self) -> list[str]:
        """The numbers that jobs have, or had: of every edit that is kept."""
        rows = self._file.read(
            "SELECT DISTINCT json_extract(document, '$.number') FROM edits WHERE json_valid(document)"
        )
        return [str(number) for (number,) in rows if number is not None]

    def set_note(self, key: str, value: str) -> None:
        """Remember a setting; one that is for reading only remembers nothing."""
        if self.reading:
            return
        with self._transaction() as base:
            base.execute("INSERT OR REPLACE INTO notes VALUES (?, ?)", (key, value))

    def fill_once(self, fill: Callable[[Workshop], None]) -> None:
        """Fill a new workshop; a process that is killed meanwhile leaves it as new as it was."""
        if self.reading or self.note("filled"):
            return
        with self._transaction() as base:
            if not base.execute("SELECT 1 FROM notes WHERE key = 'filled'").fetchone():
                fill(self)
                base.execute("INSERT INTO notes VALUES ('filled', 'yes')")

    def attach(self, path: Path) -> Attachment:
        """Take a file's bytes in; returns what the job notes of it. Raises ShopError."""
        content = content_of(path, LARGEST_ATTACHMENT)
        return Attachment(name=path.name[:200], digest=self.keep(content), size=len(content))

    def keep(self, content: bytes) -> str:
        """Take bytes in, once however often they are kept; returns the digest by which they are found again."""
        digest = hashlib.sha256(content).hexdigest()
        with self._transaction() as base:
            _keep(base, digest, content)
        return digest

    def kept(self, digest: str) -> bytes | None:
        """Bytes that were kept; None where they are in another workshop file. Raises ShopError for damaged ones."""
        rows = self._file.read("SELECT content FROM attached WHERE digest = ?", digest)
        if not rows:
            return None
        content: bytes = bytes(rows[0][0])  # type: ignore[call-overload]  # a blob, by the table's own rule
        if hashlib.sha256(content).hexdigest() != digest:
            raise ShopError(_("A file or run in {name} is damaged ({digest}). Import it again.").format(
                name=self.path.name, digest=digest[:12]))  # fmt: skip
        return content

    def attached(self, attachment: Attachment) -> bytes:
        """The bytes of an attached file. Raises ShopError where they are not in this workshop."""
        content = self.kept(attachment.digest)
        if content is None:
            raise ShopError(_("{name} is noted, but its content is in another workshop file.").format(
                name=attachment.name))  # fmt: skip
        return content

    def look_over(self) -> list[Trouble]:
        """Everything that is damaged, by looking at every row. Slow for a large file."""
        for key in self.keys():
            for step in self._steps(key):
                try:
                    self._at(key, step)
                except (_DamagedError, ShopError) as wrong:
                    self._trouble(key, _("edit {step} of job {key}: {why}").format(step=step, key=key, why=wrong))
        for (digest,) in self._file.read("SELECT digest FROM attached"):
            try:
                self.kept(str(digest))
            except ShopError as wrong:
                self._trouble(0, str(wrong))
        wrong_pages = [str(row[0]) for row in self._file.read("PRAGMA quick_check(20)")]
        for page in wrong_pages if wrong_pages != ["ok"] else []:
            self._trouble(0, page)
        return list(self.troubles)

    def damaged_rows(self) -> Iterator[tuple[str, bytes]]:
        """What is left of every damaged edit, and what was set aside: a name for a file, and its bytes."""
        for number, what, content in self._file.read("SELECT id, what, content FROM aside ORDER BY id"):
            yield f"aside-{number}-{'-'.join(str(what).split())}.txt", bytes(content)  # type: ignore[call-overload]
        for key in self.keys():
            for step in self._steps(key):
                try:
                    self._at(key, step)
                except (_DamagedError, ShopError):
                    rows = self._file.read("SELECT document FROM edits WHERE job = ? AND step = ?", key, step)
                    yield f"job-{key}-edit-{step}.txt", str(rows[0][0]).encode("utf-8", "surrogateescape")

    def _move(self, key: int, by: int) -> str | None:
        with self._transaction() as base:
            cursor = self._cursor(base, key)
            rows = base.execute("SELECT step, label FROM edits WHERE job = ?", (key,)).fetchall()
            labels = {int(step): str(label) for step, label in rows}
            if cursor + by not in labels:
                return None
            base.execute("UPDATE jobs SET cursor = ? WHERE id = ?", (cursor + by, key))
            return labels[cursor if by < 0 else cursor + by]

    def _cursor(self, base: sqlite3.Connection, key: int) -> int:
        row = base.execute("SELECT cursor FROM jobs WHERE id = ?", (key,)).fetchone()
        if row is None:
            raise ShopError(_("Job {key} is not in {name}.").format(key=key, name=self.path.name))
        return int(row[0])

    def _text(self, base: sqlite3.Connection, job: Job) -> str:
        """A job as it is stored: the rows of runs and pictures are kept once, aside, not with every edit."""
        data = job.model_dump(mode="json", exclude={"measured": {
            shelf: {"__all__": set(names)} for shelf, names in ASIDE.items()
        }})  # fmt: skip
        for shelf, names in ASIDE.items():
            for key, one in getattr(job.measured, shelf).items():
                data["measured"][shelf][key][KEPT_ASIDE] = self._put_aside(base, one, names)
        return json.dumps(data, ensure_ascii=False)

    def _put_aside(self, base: sqlite3.Connection, one: BaseModel, names: tuple[str, ...]) -> str:
        """Keep the long fields of a document, once; returns their digest."""
        known = self._aside.get(id(one))
        if known is not None and known[0] is one:
            return known[1]
        long = json.dumps({name: getattr(one, name) for name in names}).encode()
        digest = hashlib.sha256(long).hexdigest()
        _keep(base, digest, long)
        self._aside[id(one)] = (one, digest)
        while len(self._aside) > MOST_ASIDE:
            del self._aside[next(iter(self._aside))]
        return digest

    def _job(self, text: str, key: int) -> Job:
        """A job with what was kept aside of it; a run or picture whose rows are damaged is left out, and told."""
        try:
            data: dict[str, Any] = json.loads(text)
        except ValueError as wrong:
            raise _DamagedError(str(wrong)) from None
        for shelf in ASIDE:
            whole: dict[str, Any] = {}
            for name, one in data.get("measured", {}).get(shelf, {}).items():
                digest = one.pop(KEPT_ASIDE, "")
                try:
                    long = self.kept(digest)
                    if long is None:
                        raise ShopError(_("its rows are not in this file"))
                except ShopError as wrong:
                    label = one.get("label", name)
                    self._trouble(key, _("{label} of job {key} is left out: {why}").format(
                        label=label, key=key, why=wrong))  # fmt: skip
                    continue
                whole[name] = {**one, **json.loads(long)}
            if shelf in data.get("measured", {}):
                data["measured"][shelf] = whole
        measured = data.get("measured", {})
        runs = measured.get("runs", {})
        if measured.get("laid") is not None and measured["laid"] not in runs:
            measured["laid"] = None
        measured["hidden"] = [one for one in measured.get("hidden", []) if one in runs]
        return job_files.validated(data, self.path.name)

    def _trouble(self, job: int, what: str) -> None:
        if (job, what) not in self._troubles:
            self._troubles[job, what] = Trouble(job, what)
            self._file.news.append(_("Damaged, everything else is fine: {what}").format(what=what))

    @contextmanager
    def _transaction(self) -> Iterator[sqlite3.Connection]:
        """One transaction; within another it is part of that one."""
        if self._file.base.in_transaction:
            yield self._file.base
            return
        try:
            with self._file.transaction() as base:
                yield base
        except BaseException:
            self._aside.clear()  # what was put aside in it is not kept either
            raise


def _keep(base: sqlite3.Connection, digest: str, content: bytes) -> None:
    """Keep bytes by their digest; damaged ones under it are made whole again."""
    row = base.execute("SELECT content FROM attached WHERE digest = ?", (digest,)).fetchone()
    if row is None or bytes(row[0]) != content:
        base.execute("INSERT OR REPLACE INTO attached VALUES (?, ?)", (digest, content))


def _digest(label: str, document: str) -> str:
    return hashlib.sha256(f"{label}\x00{document}".encode("utf-8", "surrogateescape")).hexdigest()


def _prepared(base: sqlite3.Connection, found: int) -> None:
    """Make what a file of an older layout lacks; found: that layout, zero for a new file."""
    for name, columns in TABLES.items():
        base.execute(f"CREATE TABLE IF NOT EXISTS {name} {columns}")
    known = {str(row[1]) for row in base.execute("PRAGMA table_info(edits)")}
    if "digest" not in known:
        base.execute(DIGESTED)
        for key, step, label, document in base.execute("SELECT job, step, label, document FROM edits").fetchall():
            base.execute("UPDATE edits SET digest = ? WHERE job = ? AND step = ?",
                         (_digest(str(label), str(document)), key, step))  # fmt: skip


def open_or_make(path: Path, fill: Callable[[Workshop], None] | None) -> Workshop:
    """The workshop at a path; a new one is filled first."""
    workshop = Workshop(path)
    if fill is not None:
        try:
            workshop.fill_once(fill)
        except BaseException:
            workshop.close()
            raise
    return workshop
