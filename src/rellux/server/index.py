"""The one page of the interface, with this response's nonce in it."""

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.views.decorators.csrf import ensure_csrf_cookie

NOT_BUILT = "The interface is not built yet. Run ./rellux demo or ./rellux serve, which builds it."


@ensure_csrf_cookie
def index(request: HttpRequest) -> HttpResponse:
    """``web/dist/index.html``; the placeholder for the nonce is filled in."""
    page = settings.WEB / "index.html"
    if not page.exists():
        return HttpResponse(NOT_BUILT, status=503, content_type="text/plain")
    html = page.read_text().replace("__NONCE__", str(request.csp_nonce))  # type: ignore[attr-defined]
    response = HttpResponse(html)
    response["Cache-Control"] = "no-store"
    return response
