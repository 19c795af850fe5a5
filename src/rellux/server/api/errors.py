"""One error format: a message and a list of problems, each with field, reason and accepted range."""

import logging
from typing import Any

from django.core.exceptions import PermissionDenied, RequestDataTooBig
from django.db import OperationalError
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from rest_framework import exceptions, status
from rest_framework.response import Response

from rellux.core.errors import Refused

log = logging.getLogger("rellux.api")


class Conflict(exceptions.APIException):
    """Somebody else changed it in between."""

    status_code = status.HTTP_409_CONFLICT

    def __init__(self, reason: str, accepted: str) -> None:
        super().__init__(reason)
        self.problems = [{"field": "revision", "reason": reason, "accepted": accepted}]


def body(message: str, problems: list[dict[str, str]]) -> dict[str, Any]:
    return {"message": message, "problems": problems}


def handle(error: Exception, context: dict[str, Any]) -> Response:
    """The exception handler of every API view. Unexpected errors are logged, never shown."""
    if isinstance(error, Refused):
        problems = [{"field": p.field, "reason": p.reason, "accepted": p.accepted} for p in error.problems]
        return Response(body("That cannot be used as it is.", problems), status.HTTP_400_BAD_REQUEST)
    if isinstance(error, Conflict):
        return Response(body("Somebody changed this rig in the meantime.", error.problems), error.status_code)
    if isinstance(error, exceptions.ValidationError):
        return Response(body("That cannot be used as it is.", _flatten(error.detail)), status.HTTP_400_BAD_REQUEST)
    if isinstance(error, Http404 | exceptions.NotFound):
        return Response(body("There is no such thing here.", []), status.HTTP_404_NOT_FOUND)
    if isinstance(error, PermissionDenied | exceptions.PermissionDenied):
        return Response(body("Reload the page and try again.", []), status.HTTP_403_FORBIDDEN)
    if isinstance(error, RequestDataTooBig):
        return Response(body("That is too large.", []), status.HTTP_413_REQUEST_ENTITY_TOO_LARGE)
    if isinstance(error, exceptions.ParseError):
        problem = {"field": "request", "reason": str(error.detail), "accepted": "JSON without NaN or Infinity"}
        return Response(body("That cannot be used as it is.", [problem]), status.HTTP_400_BAD_REQUEST)
    if isinstance(error, OperationalError):
        log.warning("the database takes nothing: %s", error)
        full = "full" in str(error) or "disk" in str(error)
        said = (
            "The disk takes nothing more: nothing was changed. Make room, and do it again."
            if full
            else ("The data is in use by something else: nothing was changed. Do it again in a moment.")
        )
        return Response(
            body(said, []), status.HTTP_507_INSUFFICIENT_STORAGE if full else status.HTTP_503_SERVICE_UNAVAILABLE
        )
    if isinstance(error, exceptions.APIException):
        return Response(body(str(error.detail), []), error.status_code)
    log.exception("unexpected error in %s", context.get("view"))
    return Response(
        body("Something went wrong inside Rellux; nothing was changed. The log has the details.", []),
        status.HTTP_500_INTERNAL_SERVER_ERROR,
    )


def _flatten(detail: Any, path: str = "") -> list[dict[str, str]]:
    if isinstance(detail, dict):
        return [p for key, value in detail.items() for p in _flatten(value, f"{path}.{key}" if path else str(key))]
    if isinstance(detail, list):
        found = []
        for i, value in enumerate(detail):
            if isinstance(value, dict | list):
                found.extend(_flatten(value, f"{path}[{i}]"))
            else:
                found.append({"field": path or "request", "reason": str(value), "accepted": ""})
        return found
    return [{"field": path or "request", "reason": str(detail), "accepted": ""}]


def csrf_failure(request: HttpRequest, reason: str = "") -> HttpResponse:
    return JsonResponse(body("Reload the page and try again.", []), status=403)


def not_found(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    return JsonResponse(body("There is no such thing here.", []), status=404)


def server_error(request: HttpRequest) -> HttpResponse:
    return JsonResponse(body("Something went wrong inside Rellux; nothing was changed.", []), status=500)
