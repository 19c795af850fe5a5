"""The data folder before anything is started on it: one Rellux at a time, writable, and a database this version can read."""

import contextlib
import importlib.util
import os
import sqlite3
from collections.abc import Iterator
from pathlib import Path

from filelock import FileLock, Timeout

SERVER = Path(__file__).resolve().parent / "server"
MIGRATIONS = "migrations/[0-9]*.py"
CONTRIB = ("auth", "contenttypes")
"""Applications of the framework's own that keep something in the database."""
LOCK, ADDRESS, DATABASE = "rellux.lock", "rellux.address", "rellux.sqlite3"


class Unusable(Exception):  # noqa: N818 - reads as a sentence
    """The folder cannot be used; the message is one plain sentence for whoever starts Rellux."""


@contextlib.contextmanager
def claim(folder: Path, address: str) -> Iterator[None]:
    """Holds the folder's lock meanwhile. Raises :class:`Unusable` naming the address that holds it."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        lock = FileLock(folder / LOCK, timeout=0, is_singleton=False)
        lock.acquire()
    except Timeout:
        held = _told(folder / ADDRESS) or "an address it has not told"
        raise Unusable(
            f"Rellux already runs on the data folder {folder}, at {held}. Open that address, or stop it first."
        ) from None
    except OSError as error:
        raise Unusable(f"The data folder {folder} cannot be written to ({error.strerror}).") from None
    try:
        with contextlib.suppress(OSError):  # a full disk: only the sentence of a second start is poorer
            (folder / ADDRESS).write_text(address)
        yield
    finally:
        lock.release()


def _told(path: Path) -> str:
    try:
        return path.read_text().strip()
    except OSError:
        return ""


def check_database(folder: Path) -> None:
    """Raise :class:`Unusable` for a database that is damaged, read-only or made by a newer Rellux."""
    path = folder / DATABASE
    if not path.exists():
        return
    if not os.access(path, os.W_OK):
        raise Unusable(f"The database {path} is read-only; give yourself the right to write to it.")
    try:
        with contextlib.closing(sqlite3.connect(path, timeout=5)) as base:
            base.execute("PRAGMA schema_version")
            known = base.execute("SELECT 1 FROM sqlite_master WHERE name = 'django_migrations'").fetchone()
            done = base.execute("SELECT app, name FROM django_migrations").fetchall() if known else []
            sound = base.execute("PRAGMA quick_check(1)").fetchone()[0]
    except sqlite3.OperationalError as error:
        raise Unusable(f"The database {path} cannot be opened ({error}).") from None
    except sqlite3.DatabaseError:
        sound, done = "not a database", []
    if sound != "ok":
        raise Unusable(f"The database {path} is damaged; move it away and put a copy in its place.")
    newer = [n for app, n in done if (SERVER / app).is_dir() and not (SERVER / app / "migrations" / f"{n}.py").exists()]
    if newer:
        raise Unusable(f"The data folder {folder} was used by a newer Rellux ({newer[0]}); start that one.")


def is_prepared(folder: Path, demo: bool) -> bool:
    """Whether the database is up to date, and for the demo somebody's rigs are in it: then a start need not load what would see to that."""
    path, framework = folder / DATABASE, importlib.util.find_spec("django")
    if not path.exists() or framework is None or framework.origin is None:
        return False
    contrib = Path(framework.origin).parent / "contrib"
    homes = [d for d in SERVER.iterdir() if d.is_dir()] + [contrib / app for app in CONTRIB]
    wanted = {(home.name, file.stem) for home in homes for file in home.glob(MIGRATIONS)}
    try:
        with contextlib.closing(sqlite3.connect(path, timeout=5)) as base:
            done = set(base.execute("SELECT app, name FROM django_migrations").fetchall())
            return wanted <= done and not (demo and base.execute("SELECT 1 FROM rigs_rig").fetchone() is None)
    except sqlite3.Error:
        return False
