"""Dates for any calendar (iCalendar, RFC 5545)."""

from collections.abc import Callable, Iterable
from datetime import date, timedelta
from logging import getLogger

from django.http import HttpResponse
from django.utils import timezone

log = getLogger("rellux.calendar")

Dated = tuple[str, str, date]
"""What makes it itself, what it says, and its day."""


def feed(name: str, of: Iterable[Callable[[], list[Dated]]]) -> HttpResponse:
    """One whole-day event for each date. What cannot be read is left out and logged: it must not hide the others."""
    from icalendar import Calendar, Event  # for this only: not while the server starts

    calendar = Calendar()
    calendar.add("prodid", f"-//Rellux//{name}//EN")
    calendar.add("version", "2.0")
    for dates in of:
        try:
            found = dates()
        except Exception:
            log.exception("dates of a rig cannot be read")
            continue
        for uid, says, day in found:
            event = Event()
            event.add("uid", f"{uid}@rellux")
            event.add("dtstamp", timezone.now())
            event.add("dtstart", day)
            event.add("dtend", day + timedelta(days=1))
            event.add("summary", says)
            calendar.add_component(event)
    response = HttpResponse(calendar.to_ical(), content_type="text/calendar; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{name}.ics"'
    return response
