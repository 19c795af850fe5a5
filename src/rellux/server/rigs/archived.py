"""An archived rig is looked at and not changed: one gate before every view, so that no view can forget it."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse, JsonResponse

from rellux.server.api.errors import body

from .models import Rig

LOOKING = ("GET", "HEAD", "OPTIONS")


class ArchivedGate:
    """Refuses changes of archived rigs. A view with ``changes_rig = False`` only works something out, copies the rig, or must
    never be kept from acting."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.get_response(request)

    def process_view(
        self, request: HttpRequest, view: Callable[..., HttpResponse], args: object, named: dict[str, str]
    ) -> HttpResponse | None:
        kind = getattr(view, "view_class", None) or getattr(view, "cls", None)
        if request.method in LOOKING or "slug" not in named or not getattr(kind, "changes_rig", True):
            return None
        if not Rig.objects.filter(slug=named["slug"], archived_at__isnull=False).exists():
            return None
        problem = {
            "field": "rig",
            "reason": "it is archived, and stays as it is",
            "accepted": "a rig taken out of the archive",
        }
        return JsonResponse(body("This rig is archived.", [problem]), status=409)
