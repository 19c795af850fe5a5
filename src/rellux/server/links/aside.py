"""What the recorder says while the database takes nothing: a file made in advance and written in place, so that it needs no room.

One JSON object, padded with spaces: what is said by link. Empty while all is well.
"""

import json
import threading
from dataclasses import asdict, dataclass
from datetime import datetime, timedelta
from pathlib import Path

from django.conf import settings
from django.utils import timezone

from rellux.core.setup.dictionary.parameter import Value

SIZE = 16_384
FRESH_S = 5.0
"""What is older was said by a recorder that has ended."""

_lock = threading.Lock()
_said: dict[str, dict[str, object]] = {}


@dataclass(frozen=True)
class Said:
    """The newest poll of a link, when the database first refused to take its samples, and how long they are still kept."""

    at: str
    values: dict[str, Value | None]
    kept: int
    left_s: float


def _path() -> Path:
    return Path(settings.DATA) / "recorder.aside"


def prepare() -> None:
    """Make the file while there is room; what a former recorder said is gone."""
    with _lock:
        _said.clear()
        _path().write_bytes(b" " * SIZE)


def say(link: int, said: Said | None) -> None:
    """Say something of a link, or with ``None`` that all is well again."""
    with _lock:
        if said is None and str(link) not in _said:
            return
        if said is None:
            del _said[str(link)]
        else:
            _said[str(link)] = asdict(said)
        text = json.dumps(_said).encode() if _said else b""
        if len(text) > SIZE:
            return
        try:
            with _path().open("r+b", buffering=0) as file:
                file.write(text.ljust(SIZE))
        except OSError:
            return  # nothing more can be said; the reading goes stale by itself


def heard(link: int) -> Said | None:
    """What is said of a link now."""
    try:
        with _path().open("rb") as file:
            if file.read(1) != b"{":
                return None
            found = json.loads(b"{" + file.read(SIZE)).get(str(link))
        said = Said(**found) if found else None
    except (OSError, ValueError, TypeError, AttributeError):
        return None  # not there, or caught in the middle of being written
    if said is None or timezone.now() - datetime.fromisoformat(said.at) > timedelta(seconds=FRESH_S):
        return None
    return said
