"""When what is to be proved again, for any calendar."""

from functools import partial

from django.http import HttpResponse
from django.utils import timezone
from rest_framework.request import Request
from rest_framework.views import APIView

from rellux.server.api.calendar import Dated, feed
from rellux.server.api.endpoint import endpoint
from rellux.server.rigs.models import Rig

from .domain import dates_of


class ProvingCalendar(APIView):
    @endpoint("provingCalendar", None)
    def get(self, request: Request) -> HttpResponse:
        """One whole-day event for every rig that is proved, and for every proof of its guards."""
        return feed("proving", (partial(_dates, rig) for rig in Rig.objects.filter(archived_at__isnull=True)))


def _dates(rig: Rig) -> list[Dated]:
    return [
        (f"{rig.slug}-{what.split(' ')[0].lower()}", f"{rig.name}: {what}", timezone.localtime(at).date())
        for what, at in dates_of(rig)
    ]
