"""Declaring endpoints: what goes in and what comes out, for the schema and for the reader."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from drf_spectacular.utils import OpenApiParameter, extend_schema

from rellux.core.errors import Problem

from .shapes import serializer


@dataclass(frozen=True)
class Error:
    """Every refusal has this shape."""

    message: str
    problems: list[Problem]


REFUSALS = (400, 403, 404, 409, 413, 415, 503, 507)
"""Cannot be used as it is; without the page's token; no such thing; changed meanwhile; too large; not JSON; in use; no room."""


def endpoint(
    name: str,
    response: type | None,
    request: type | None = None,
    query: dict[str, type] | None = None,
    many: bool = False,
    status: int = 200,
) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
    """Schema of one method of a view. ``query`` maps parameter names to their types."""
    answer: Any = None
    if response is not None:
        answer = serializer(response)(many=True) if many else serializer(response)
    return extend_schema(
        operation_id=name,
        request=serializer(request) if request else None,
        responses={status: answer, **dict.fromkeys(REFUSALS, serializer(Error))},
        parameters=[OpenApiParameter(k, v, required=False) for k, v in (query or {}).items()],
    )
