"""When what is to be proved again, for any calendar (iCalendar, RFC 5545)."""

from datetime import timedelta

from django.http import HttpResponse
from django.utils import timezone
from icalendar import Calendar, Event
from rest_framework.request import Request
from rest_framework.views import APIView

from rellux.server.api.endpoint import endpoint
from rellux.server.rigs.models import Rig

from .domain import dates_of


class ProvingCalendar(APIView):
    @endpoint("provingCalendar", None)
    def get(self, request: Request) -> HttpResponse:
        """One whole-day event for every rig that is proved, and for every proof of its guards."""
        calendar = Calendar()
        calendar.add("prodid", "-//Rellux//proving//EN")
        calendar.add("version", "2.0")
        for rig in Rig.objects.filter(archived_at__isnull=True):
            for what, at in dates_of(rig):
                event = Event()
                event.add("uid", f"{rig.slug}-{what.split(' ')[0].lower()}@rellux")
                event.add("dtstamp", timezone.now())
                event.add("dtstart", timezone.localtime(at).date())
                event.add("dtend", timezone.localtime(at).date() + timedelta(days=1))
                event.add("summary", f"{rig.name}: {what}")
                calendar.add_component(event)
        response = HttpResponse(calendar.to_ical(), content_type="text/calendar; charset=utf-8")
        response["Content-Disposition"] = 'attachment; filename="proving.ics"'
        return response
