"""The workshop file: every job and every edit, in SQLite.

An edit is one transaction, so a process that is killed loses nothing that was entered. Undo and redo move a cursor
along the job's edits and outlive the program.
"""

from __future__ import annotations

import hashlib
import json
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from pydantic import BaseModel

from zeotherm.core.machine.documents import Job
from zeotherm.core.machine.intake import Attachment
from zeotherm.shop import job_files
from zeotherm.shop.errors import ShopError
from zeotherm.shop.reading import content_of

MAJOR, MINOR = 1, 1
LAYOUT = MAJOR * 1000 + MINOR
EDITS_KEPT = 500

TABLES = (
    """CREATE TABLE jobs (
        id INTEGER PRIMARY KEY,
        cursor INTEGER NOT NULL
    ) STRICT""",
    """CREATE TABLE edits (
        job INTEGER NOT NULL REFERENCES jobs(id) ON DELETE CASCADE,
        step INTEGER NOT NULL,
        label TEXT NOT NULL,
        document TEXT NOT NULL,
        PRIMARY KEY (job, step)
    ) STRICT, WITHOUT ROWID""",
    "CREATE TABLE notes (key TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT, WITHOUT ROWID",
)
ATTACHED = "CREATE TABLE IF NOT EXISTS attached (digest TEXT PRIMARY KEY, content BLOB NOT NULL) STRICT"  # since 1.1
LARGEST_ATTACHMENT = 20_000_000  # bytes
ASIDE = {"runs": ("time_s", "values"), "pictures": ("cells",)}  # long fields of what was measured
MOST_ASIDE = 200  # documents that are remembered as kept
KEPT_ASIDE = "kept_aside"  # digest of them, in their place


class Workshop:
    """Jobs in one file. Methods raise ShopError when the file cannot be used."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._aside: dict[int, tuple[BaseModel, str]] = {}  # documents whose long fields are kept, by identity
        with self._told("opened"):
            path.parent.mkdir(parents=True, exist_ok=True)
            self._base = sqlite3.connect(path, isolation_level=None, timeout=5.0)
            self._base.execute("PRAGMA journal_mode = WAL")
            self._base.execute("PRAGMA synchronous = FULL")
            self._base.execute("PRAGMA foreign_keys = ON")
            self._prepare()

    def close(self) -> None:
        """Let go of the file."""
        self._base.close()

    def keys(self) -> list[int]:
        """The ids of all jobs, oldest first."""
        return [int(key) for (key,) in self._read("SELECT id FROM jobs ORDER BY id")]

    def jobs(self) -> list[tuple[int, Job]]:
        """Every job with its id, oldest first."""
        rows = self._read("SELECT id, document FROM jobs JOIN edits ON job = id AND step = cursor ORDER BY id")
        return [(int(key), self._job(text)) for key, text in rows]

    def job(self, key: int) -> Job:
        """One job as it stands."""
        rows = self._read("SELECT document FROM jobs JOIN edits ON job = id AND step = cursor WHERE id = ?", key)
        if not rows:
            raise ShopError(f"Job {key} is not in {self.path.name}.")
        return self._job(rows[0][0])

    def add(self, job: Job) -> int:
        """Put a job in; returns its id."""
        with self._transaction():
            key = self._base.execute("INSERT INTO jobs (cursor) VALUES (0)").lastrowid
            self._base.execute("INSERT INTO edits VALUES (?, 0, '', ?)", (key, self._text(job)))
        assert key is not None
        return key

    def edit(self, key: int, job: Job, label: str, *, amend: bool = False) -> None:
        """Record a changed job. amend: the change goes on from the last one, as along a drag, and takes its place."""
        with self._transaction():
            cursor = self._cursor(key)
            self._base.execute("DELETE FROM edits WHERE job = ? AND step > ?", (key, cursor))
            step = cursor if amend and cursor > 0 else cursor + 1
            self._base.execute("INSERT OR REPLACE INTO edits VALUES (?, ?, ?, ?)", (key, step, label, self._text(job)))
            self._base.execute("DELETE FROM edits WHERE job = ? AND step < ?", (key, step - EDITS_KEPT))
            self._base.execute("UPDATE jobs SET cursor = ? WHERE id = ?", (step, key))

    def undo(self, key: int) -> str | None:
        """Step back; returns what was undone, or None at the beginning."""
        return self._move(key, -1)

    def redo(self, key: int) -> str | None:
        """Step forward; returns what was redone, or None at the end."""
        return self._move(key, 1)

    def note(self, key: str, default: str = "") -> str:
        """A remembered setting of this workshop."""
        rows = self._read("SELECT value FROM notes WHERE key = ?", key)
        return str(rows[0][0]) if rows else default

    def set_note(self, key: str, value: str) -> None:
        """Remember a setting."""
        with self._transaction():
            self._base.execute("INSERT OR REPLACE INTO notes VALUES (?, ?)", (key, value))

    def attach(self, path: Path) -> Attachment:
        """Take a file's bytes in; returns what the job notes of it. Raises ShopError."""
        content = content_of(path, LARGEST_ATTACHMENT)
        return Attachment(name=path.name[:200], digest=self.keep(content), size=len(content))

    def keep(self, content: bytes) -> str:
        """Take bytes in, once however often they are kept; returns the digest by which they are found again."""
        digest = hashlib.sha256(content).hexdigest()
        with self._transaction():
            self._base.execute("INSERT OR IGNORE INTO attached VALUES (?, ?)", (digest, content))
        return digest

    def kept(self, digest: str) -> bytes | None:
        """Bytes that were kept; None where they are in another workshop file."""
        with self._told("read"):
            row = self._base.execute("SELECT content FROM attached WHERE digest = ?", (digest,)).fetchone()
        return bytes(row[0]) if row is not None else None

    def attached(self, attachment: Attachment) -> bytes:
        """The bytes of an attached file. Raises ShopError where they are not in this workshop."""
        content = self.kept(attachment.digest)
        if content is None:
            raise ShopError(f"{attachment.name} is noted, but its content is in another workshop file.")
        return content

    def _move(self, key: int, by: int) -> str | None:
        with self._transaction():
            cursor = self._cursor(key)
            rows = self._base.execute("SELECT step, label FROM edits WHERE job = ?", (key,)).fetchall()
            labels = {int(step): str(label) for step, label in rows}
            if cursor + by not in labels:
                return None
            self._base.execute("UPDATE jobs SET cursor = ? WHERE id = ?", (cursor + by, key))
            return labels[cursor if by < 0 else cursor + by]

    def _cursor(self, key: int) -> int:
        row = self._base.execute("SELECT cursor FROM jobs WHERE id = ?", (key,)).fetchone()
        if row is None:
            raise ShopError(f"Job {key} is not in {self.path.name}.")
        return int(row[0])

    def _text(self, job: Job) -> str:
        """A job as it is stored: the rows of runs and pictures are kept once, aside, not with every edit."""
        data = job.model_dump(mode="json", exclude={"measured": {
            shelf: {"__all__": set(names)} for shelf, names in ASIDE.items()
        }})  # fmt: skip
        for shelf, names in ASIDE.items():
            for key, one in getattr(job.measured, shelf).items():
                data["measured"][shelf][key][KEPT_ASIDE] = self._put_aside(one, names)
        return json.dumps(data, ensure_ascii=False)

    def _put_aside(self, one: BaseModel, names: tuple[str, ...]) -> str:
        """Keep the long fields of a document, once; returns their digest."""
        known = self._aside.get(id(one))
        if known is not None and known[0] is one:
            return known[1]
        long = json.dumps({name: getattr(one, name) for name in names}).encode()
        digest = hashlib.sha256(long).hexdigest()
        self._base.execute("INSERT OR IGNORE INTO attached VALUES (?, ?)", (digest, long))
        self._aside[id(one)] = (one, digest)
        while len(self._aside) > MOST_ASIDE:
            del self._aside[next(iter(self._aside))]
        return digest

    def _job(self, text: str) -> Job:
        data = json.loads(text)
        for shelf in ASIDE:
            for one in data.get("measured", {}).get(shelf, {}).values():
                long = self.kept(one.pop(KEPT_ASIDE))
                if long is None:
                    raise ShopError(f"{self.path.name} has lost the rows of a run. Open an earlier copy of the file.")
                one.update(json.loads(long))
        return job_files.validated(data, self.path.name)

    def _read(self, query: str, *values: object) -> list[tuple[str, ...]]:
        with self._told("read"):
            return self._base.execute(query, values).fetchall()

    def _prepare(self) -> None:
        found = int(self._base.execute("PRAGMA user_version").fetchone()[0])
        if found // 1000 > MAJOR:
            raise ShopError(
                f"{self.path.name} was made by a newer Zeotherm. Use that one, or open another workshop file."
            )
        if found == 0:
            if self._base.execute("SELECT count(*) FROM sqlite_master").fetchone()[0]:
                raise ShopError(f"{self.path.name} is no workshop file. Choose another.")
            with self._transaction():
                for table in TABLES:
                    self._base.execute(table)
        if found < LAYOUT:
            with self._transaction():
                self._base.execute(ATTACHED)
                self._base.execute(f"PRAGMA user_version = {LAYOUT}")

    @contextmanager
    def _transaction(self) -> Iterator[None]:
        with self._told("written"):
            self._base.execute("BEGIN IMMEDIATE")
            try:
                yield
            except BaseException:
                self._aside.clear()  # what was put aside in it is not kept either
                if self._base.in_transaction:
                    self._base.execute("ROLLBACK")
                raise
            self._base.execute("COMMIT")

    @contextmanager
    def _told(self, what: str) -> Iterator[None]:
        try:
            yield
        except (sqlite3.Error, OSError) as wrong:
            raise ShopError(f"{self.path} could not be {what}: {wrong}. {_advice(wrong)}") from wrong


def _advice(wrong: Exception) -> str:
    text = str(wrong)
    table: tuple[tuple[str, str], ...] = (
        ("full", "Free some space; what was entered before is safe."),
        ("not a database", "Choose another file."),
        ("locked", "Another program holds it; close that one."),
    )
    return next((advice for word, advice in table if word in text), "Check the place and its permissions.")


def open_or_make(path: Path, fill: Callable[[Workshop], None] | None) -> Workshop:
    """The workshop at a path; a new one is filled first."""
    workshop = Workshop(path)
    if fill is not None and not workshop.note("filled"):
        fill(workshop)
        workshop.set_note("filled", "yes")
    return workshop
