"""Response headers: a content-security policy without inline code, and nothing from outside."""

import secrets
from collections.abc import Callable

from asgiref.sync import iscoroutinefunction
from django.http import HttpRequest, HttpResponse
from django.utils.decorators import sync_and_async_middleware


def policy(nonce: str) -> str:
    """The policy for one response. Styles made at run time by the interface carry the nonce."""
    return "; ".join(
        (
            "default-src 'none'",
            "script-src 'self'",
            f"style-src 'self' 'nonce-{nonce}'",
            "img-src 'self' data: blob:",
            "font-src 'self'",
            "connect-src 'self'",
            "worker-src 'self'",
            "form-action 'self'",
            "base-uri 'none'",
            "frame-ancestors 'none'",
        )
    )


def _prepare(request: HttpRequest) -> None:
    request.csp_nonce = secrets.token_urlsafe(16)  # type: ignore[attr-defined]


def _finish(request: HttpRequest, response: HttpResponse) -> HttpResponse:
    response.setdefault("Content-Security-Policy", policy(request.csp_nonce))  # type: ignore[attr-defined]
    response["X-Content-Type-Options"] = "nosniff"
    response["Referrer-Policy"] = "no-referrer"
    response["Cross-Origin-Opener-Policy"] = "same-origin"
    return response


@sync_and_async_middleware
def SecurityHeaders(get_response: Callable) -> Callable:  # type: ignore[type-arg]  # noqa: N802 - named like Django's own
    """Adds the headers to every response, in either world."""
    if iscoroutinefunction(get_response):

        async def in_async(request: HttpRequest) -> HttpResponse:
            _prepare(request)
            return _finish(request, await get_response(request))

        return in_async

    def in_sync(request: HttpRequest) -> HttpResponse:
        _prepare(request)
        return _finish(request, get_response(request))

    return in_sync
