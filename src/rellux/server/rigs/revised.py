"""Computed reads that a browser keeps: their tag is the rig's revision and the code's version."""

import hashlib
from collections.abc import Callable
from functools import cache
from typing import Any

from django.http import HttpRequest
from django.utils.decorators import method_decorator
from django.views.decorators.cache import cache_control
from django.views.decorators.http import condition

from rellux.places import PACKAGE

from .models import Rig


@cache
def code_version() -> str:
    """Changes with any source file of Rellux: an answer of the version before is not taken for this one's."""
    files = ((p.relative_to(PACKAGE).as_posix(), p.stat()) for p in sorted(PACKAGE.rglob("*.py")))
    told = "".join(f"{name} {s.st_size} {s.st_mtime_ns}\n" for name, s in files)
    return hashlib.sha256(told.encode()).hexdigest()[:16]


def _tag(request: HttpRequest, slug: str, **more: Any) -> str | None:
    row = Rig.objects.filter(slug=slug).values_list("pk", "created_at", "revision").first()
    return row and f'"{code_version()}-{row[0]}-{row[1].timestamp():.6f}-{row[2]}"'


def revised(read: Callable[..., Any]) -> Callable[..., Any]:
    """For a ``get`` whose answer depends on the rig at its revision and on the address alone: 304 where it is known already."""
    return method_decorator([cache_control(private=True, no_cache=True), condition(etag_func=_tag)])(read)
