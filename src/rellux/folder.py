"""The data folder before anything is started on it: one Rellux at a time, writable, and a database this version can read."""

import contextlib
import fcntl
import os
import sqlite3
from pathlib import Path
from typing import IO

SERVER = Path(__file__).resolve().parent / "server"
LOCK, DATABASE = "rellux.lock", "rellux.sqlite3"


class Unusable(Exception):  # noqa: N818 - reads as a sentence
    """The folder cannot be used; the message is one plain sentence for whoever starts Rellux."""


def claim(folder: Path, address: str) -> IO[str]:
    """The folder's lock, held as long as the file stays open. Raises :class:`Unusable` naming the address that holds it."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        lock = (folder / LOCK).open("a+")
    except OSError as error:
        raise Unusable(f"The data folder {folder} cannot be written to ({error.strerror}).") from None
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        lock.seek(0)
        held = lock.read().strip() or "an address it has not told"
        lock.close()
        raise Unusable(
            f"Rellux already runs on the data folder {folder}, at {held}. Open that address, or stop it first."
        ) from None
    lock.truncate(0)
    lock.write(address)
    lock.flush()
    return lock


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
