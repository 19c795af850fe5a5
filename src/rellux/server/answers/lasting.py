"""Answers that outlive the process. They stand in the database, beside the rows they were worked out of: a backup, a copy, a transaction
that is taken back or lost in a power cut has both or neither. Each is signed, since reading it back can run code: a database
that came from elsewhere is worked out anew."""

import hashlib
import io
import logging
import pickle
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from django.db import DatabaseError, connection, transaction
from django.db.models.functions import Length
from django.utils.crypto import constant_time_compare, salted_hmac

from .models import LastingAnswer
from .version import code_version

log = logging.getLogger("rellux.answers")

MOST = 500
"""Answers that are kept, the newest. Our choice: some ten times what a workshop of eight rigs has."""
MOST_BYTES = 32 * 1024**2
"""Of all of them together. Our choice."""
PATIENCE_MS = 100
"""For the database while another process writes. Our choice."""
MISSING = object()


def digest_of(of: str, key: tuple[Any, ...]) -> str:
    """Of what a function is asked. To be taken before it is: values may note in themselves what was worked out of them."""
    told = io.BytesIO()
    pickler = pickle.Pickler(told)
    pickler.fast = True  # equal values are the same bytes, also where one of them is in two places
    pickler.dump((of, code_version(), key))
    return hashlib.sha256(told.getvalue()).hexdigest()


def known(digest: str) -> Any:
    """What was answered to it, or ``MISSING``."""
    try:
        row = LastingAnswer.objects.filter(pk=digest).values_list("answer", flat=True).first()
        if row is None:
            return MISSING
        signature, packed = bytes(row)[:32], bytes(row)[32:]
        if constant_time_compare(signature, _signature(digest, packed)):
            return pickle.loads(zlib.decompress(packed))
    except Exception:  # whatever is wrong with it: it can be worked out
        log.warning("a lasting answer cannot be read", exc_info=True)
    return MISSING


def keep(digest: str, of: str, answer: Any) -> None:
    """Where the database takes nothing now, it is worked out again next time."""
    packed = zlib.compress(pickle.dumps(answer), 1)
    row = {"of": of, "code": code_version(), "answer": _signature(digest, packed) + packed}
    try:
        with _without_waiting(), transaction.atomic():
            LastingAnswer.objects.update_or_create(pk=digest, defaults=row)
            LastingAnswer.objects.filter(pk__in=_too_old()).delete()
    except DatabaseError as error:
        log.info("an answer of %s is not kept: %s", of, error)


def _too_old() -> list[str]:
    """What there is no room for beside the newer ones."""
    found, room = list[str](), MOST_BYTES
    sizes = LastingAnswer.objects.order_by("-at").values_list("pk", Length("answer"))
    for place, (digest, size) in enumerate(sizes):
        room -= size
        if place >= MOST or room < 0:
            found.append(digest)
    return found


@contextmanager
def _without_waiting() -> Iterator[None]:
    """Nobody who reads waits for somebody else's long write, an import for one: the answer is rather worked out again."""
    with connection.cursor() as cursor:
        cursor.execute(f"PRAGMA busy_timeout = {PATIENCE_MS}")
    try:
        yield
    finally:
        with connection.cursor() as cursor:
            cursor.execute(f"PRAGMA busy_timeout = {round(connection.settings_dict['OPTIONS']['timeout'] * 1000)}")


def forget(of: str) -> None:
    LastingAnswer.objects.filter(of=of).delete()


def _signature(digest: str, packed: bytes) -> bytes:
    return salted_hmac("rellux.answers", digest.encode() + packed, algorithm="sha256").digest()
