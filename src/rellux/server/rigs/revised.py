"""Computed reads that a browser keeps: their tag is the rig's revision and the code's version."""

from collections.abc import Callable
from typing import Any

from django.http import HttpRequest
from django.utils.decorators import method_decorator
from django.views.decorators.cache import cache_control
from django.views.decorators.http import condition

from rellux.server.answers.version import code_version

from .models import Rig


def _tag(request: HttpRequest, slug: str, **more: Any) -> str | None:
    row = Rig.objects.filter(slug=slug).values_list("pk", "created_at", "revision").first()
    return row and f'"{code_version()}-{row[0]}-{row[1].timestamp():.6f}-{row[2]}"'


def revised(read: Callable[..., Any]) -> Callable[..., Any]:
    """For a ``get`` whose answer depends on the rig at its revision and on the address alone: 304 where it is known already."""
    return method_decorator([cache_control(private=True, no_cache=True), condition(etag_func=_tag)])(read)
