"""The file below a workshop: whose it is, who holds it, and how anything gets into it, whole or not at all.

A file is looked at before it is opened for writing, so that a foreign one is never altered. One window holds it; others
read. Before a change is made the file is still to be the one that was opened: one that was removed meanwhile is written
anew, one that was replaced is left alone and this one goes on beside it.
"""

from __future__ import annotations

import fcntl
import os
import sqlite3
import stat
import struct
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from zeotherm.shop.errors import ShopError
from zeotherm.wording.language import _

OURS = 0x5A454F54  # application_id in the file's head: "ZEOT"
MAGIC = b"SQLite format 3\x00"
HEAD = 100  # bytes of a database's head
OWNER_ONLY = 0o600
WAIT_S = 5.0  # for another program that writes just now
SIDES = ("-wal", "-shm", "-journal")
Prepare = Callable[[sqlite3.Connection, int], None]  # brings a file of an older layout, or a new one, up to date


class WorkshopFile:
    """An open database. Methods raise ShopError when the file cannot be used."""

    def __init__(self, path: Path, tables: frozenset[str], layout: int, prepare: Prepare) -> None:
        self.path = path
        self.layout = layout
        self.news: list[str] = []  # what a person is to be told
        self._prepare = prepare
        with self._told("opened"):
            path.parent.mkdir(parents=True, exist_ok=True)
            found = _identity(path, tables)
            if found is not None and found // 1000 > layout // 1000:
                raise ShopError(
                    _(
                        "{name} was made by a newer version of Zeotherm. Use that, or open another workshop file."
                    ).format(name=path.name)
                )
            self._lock = _lock(path)
            self.reading = self._lock is None
            if self.reading:
                if found is None:
                    raise ShopError(_("{name} cannot be made here: {why}").format(name=path.name, why=_locked(path)))
                self.news.append(_("Read only: {why} Nothing will be saved.").format(why=_locked(path)))
            self.base = self._opened()

    def close(self) -> None:
        """Let go of the file, and of its lock."""
        self.base.close()
        if self._lock is not None:
            os.close(self._lock)
            self._lock = None

    def _opened(self) -> sqlite3.Connection:
        if self.reading:
            name = f"{self.path.resolve().as_uri()}?mode=ro"
            return self._readable(sqlite3.connect(name, uri=True, isolation_level=None, timeout=WAIT_S))
        if not self.path.exists():
            os.close(os.open(self.path, os.O_CREAT | os.O_RDWR, OWNER_ONLY))
        _owner_only(self.path)
        base = sqlite3.connect(self.path, isolation_level=None, timeout=WAIT_S)
        try:
            base.execute("PRAGMA synchronous = FULL")
            base.execute("PRAGMA foreign_keys = ON")
            self._bring_up_to_date(base)
            base.execute("PRAGMA journal_mode = WAL")
        except BaseException:
            base.close()
            raise
        self._at = _place(self.path)
        for left in self.path.parent.glob(f".{self.path.name}.*"):  # of a process that was killed while it wrote
            left.unlink(missing_ok=True)
        for side in SIDES:
            _owner_only(Path(f"{self.path}{side}"))
        return self._readable(base)

    def _bring_up_to_date(self, base: sqlite3.Connection) -> None:
        """Make the tables, or bring an older layout up to date, in one transaction; an older file is copied first."""
        now = int(base.execute("PRAGMA user_version").fetchone()[0])
        mine = int(base.execute("PRAGMA application_id").fetchone()[0]) == OURS
        if now >= self.layout and mine:
            return
        if now:
            copy = free_name(self.path.with_name(f"{self.path.stem}.before-{_spoken(self.layout)}{self.path.suffix}"))
            copied(base, copy)
            self.news.append(_("The workshop file was updated; the old one is kept as {name}.").format(
                name=copy.name))  # fmt: skip
        base.execute("BEGIN EXCLUSIVE")
        try:
            now = int(base.execute("PRAGMA user_version").fetchone()[0])
            self._prepare(base, now)
            base.execute(f"PRAGMA application_id = {OURS}")
            base.execute(f"PRAGMA user_version = {max(self.layout, now)}")
            base.execute("COMMIT")
        except BaseException:
            if base.in_transaction:
                base.execute("ROLLBACK")
            raise

    def _readable(self, base: sqlite3.Connection) -> sqlite3.Connection:
        """Damaged letters are told by the row's digest, not by an error of the whole read."""
        base.text_factory = lambda data: data.decode("utf-8", "surrogateescape")
        return base

    @property
    def refusal(self) -> str:
        """Why nothing is written where it is open for reading only; nothing where it is not."""
        return _("Not written: {why}").format(why=_locked(self.path)) if self.reading else ""

    @contextmanager
    def transaction(self) -> Iterator[sqlite3.Connection]:
        """Everything that is done within it is kept, or nothing of it, and then ShopError says why."""
        if self.reading:
            raise ShopError(self.refusal)
        with self._told("written"):
            self._still_there()
            self.base.execute("BEGIN IMMEDIATE")
            try:
                yield self.base
                self.base.execute("COMMIT")
            except BaseException:
                if self.base.in_transaction:
                    with suppress(sqlite3.Error):
                        self.base.execute("ROLLBACK")
                raise

    def read(self, query: str, *values: object) -> list[tuple[object, ...]]:
        """All rows of a query."""
        with self._told("read"):
            return self.base.execute(query, values).fetchall()

    def _still_there(self) -> None:
        """See to it that the file is the one that was opened: what is written into a removed file is lost."""
        now = _place(self.path)
        if now == self._at:
            return
        if now is None and not self.path.parent.is_dir():
            raise ShopError(_("The folder of {name} is gone. Put it back, or export this job; nothing more is kept "
                              "meanwhile.").format(name=self.path.name))  # fmt: skip
        aim = self.path if now is None else free_name(self.path.with_name(f"{self.path.stem}-kept{self.path.suffix}"))
        handle, beside = tempfile.mkstemp(dir=self.path.parent, prefix=f".{self.path.name}.")
        os.close(handle)
        copied(self.base, Path(beside))
        for side in SIDES:
            Path(f"{aim}{side}").unlink(missing_ok=True)
        os.replace(beside, aim)
        self.base.close()
        told = _("{name} was removed while it was open; everything in it has been saved again.") if now is None else _(
            "{name} was replaced while it was open; the other file is left alone, this workshop goes on as {aim}."
        )  # fmt: skip
        self.news.append(told.format(name=self.path.name, aim=aim.name))
        self.path = aim
        self.base = self._opened()

    @contextmanager
    def _told(self, what: str) -> Iterator[None]:
        try:
            yield
        except (sqlite3.Error, OSError) as wrong:
            raise ShopError(f"{self.path} could not be {what}: {wrong}. {_advice(wrong)}") from wrong


def copied(base: sqlite3.Connection, path: Path) -> None:
    """A whole copy of an open database, readable by its owner only."""
    os.close(os.open(path, os.O_CREAT | os.O_RDWR, OWNER_ONLY))
    other = sqlite3.connect(path)
    try:
        base.backup(other)
    finally:
        other.close()
    _owner_only(path)


def free_name(path: Path) -> Path:
    """A name that is not taken: the one given, or with a number."""
    count, found = 1, path
    while found.exists():
        count += 1
        found = path.with_name(f"{path.stem}-{count}{path.suffix}")
    return found


def _identity(path: Path, tables: frozenset[str]) -> int | None:
    """The layout of a workshop file; None where there is none yet. Raises ShopError for a foreign file, which is only
    read: by its head, and where that says nothing by a copy."""
    if not path.exists():
        return None
    if not stat.S_ISREG(path.stat().st_mode):
        raise ShopError(_("{name} is no file. Choose another.").format(name=path.name))
    with path.open("rb") as file:
        head = file.read(HEAD)
    if not head:
        return None
    if not head.startswith(MAGIC):
        raise ShopError(_("{name} is no workshop file. Choose another file.").format(name=path.name))
    version, name = struct.unpack(">I", head[60:64])[0], struct.unpack(">I", head[68:72])[0]
    if name == OURS or (name == 0 and version // 1000 > 1):
        return int(version)
    with tempfile.TemporaryDirectory(prefix=f"zeotherm-{os.getpid()}-") as folder:
        there = Path(folder) / "look.sqlite"
        for side in ("", "-wal", "-journal"):
            if Path(f"{path}{side}").exists():
                there.with_name(f"{there.name}{side}").write_bytes(Path(f"{path}{side}").read_bytes())
        look = sqlite3.connect(there)
        try:
            found = {str(one) for (one,) in look.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
            version = int(look.execute("PRAGMA user_version").fetchone()[0])
            name = int(look.execute("PRAGMA application_id").fetchone()[0])
        finally:
            look.close()
    if not found and not version and not name:
        return None  # begun and never written to
    if name not in (0, OURS) or not found <= tables or (not version and not found):
        raise ShopError(_("{name} is no workshop file. Choose another file.").format(name=path.name))
    return version


def _lock(path: Path) -> int | None:
    """Hold the file for writing; None: somebody else does, or nothing can be written here."""
    try:
        handle = os.open(f"{path}.lock", os.O_CREAT | os.O_RDWR | os.O_CLOEXEC, OWNER_ONLY)
    except OSError:
        return None
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        os.close(handle)
        return None
    if path.exists() and not os.access(path, os.W_OK):
        os.close(handle)
        return None
    os.ftruncate(handle, 0)
    os.write(handle, str(os.getpid()).encode())
    return handle


def _locked(path: Path) -> str:
    """Why nothing may be written."""
    if not os.access(path.parent, os.W_OK) or (path.exists() and not os.access(path, os.W_OK)):
        return _("its folder or the file may not be written to. Change its permissions, or copy it elsewhere.")
    holder = ""
    with suppress(OSError):
        holder = Path(f"{path}.lock").read_text(encoding="ascii", errors="replace").strip()
    return _("another window has this workshop open (process {number}). Close that one first.").format(
        number=holder or "?"
    )


def _place(path: Path) -> tuple[int, int] | None:
    """Which file stands under a name; None: none does."""
    try:
        about = os.stat(path)
    except OSError:
        return None
    return about.st_dev, about.st_ino


def _owner_only(path: Path) -> None:
    with suppress(OSError):
        if stat.S_IMODE(os.stat(path).st_mode) & 0o077:
            os.chmod(path, OWNER_ONLY)


def _spoken(layout: int) -> str:
    return f"{layout // 1000}.{layout % 1000}"


ADVICE = (
    ("full", _("Free some space; what was entered before is safe.")),
    ("disk i/o", _("Look whether the disk is full or broken; what was entered before is safe.")),
    ("too large", _("Free some space; what was entered before is safe.")),
    ("not a database", _("Choose another file.")),
    ("malformed", _("The file is damaged: 'zeotherm workshop-check' lists what is still good.")),
    ("locked", _("Another program holds it; close that one.")),
)


def _advice(wrong: Exception) -> str:
    text = str(wrong).lower()
    return next((advice for word, advice in ADVICE if word in text), _("Check the place and its permissions."))
