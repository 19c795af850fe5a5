"""What a piece of equipment has gone through, put together from where it was and what was recorded there meanwhile."""

from dataclasses import dataclass
from datetime import datetime

from django.db.models import Max, Sum

from rellux.core.messages import difference
from rellux.server.guarding.models import Proof

from .domain import compared_with, proved_with, runs_with
from .models import Equipment


@dataclass(frozen=True)
class RecordLine:
    """One line of a record: a message. ``rig`` is the slug of the rig it happened at, if any; ``what`` says of what sort it is."""

    at: datetime
    what: str
    text: str
    rig: str = ""
    who: str = ""


@dataclass(frozen=True)
class Use:
    hours: float
    hottest_c: float | None


def used(row: Equipment) -> Use:
    """How long it was in recorded runs, and the hottest that was read in them."""
    found = runs_with(row).aggregate(length=Sum("length_s"), peak=Max("peak_c"))
    return Use((found["length"] or 0.0) / 3600.0, found["peak"])


def record_of(row: Equipment) -> list[RecordLine]:
    """Newest first."""
    lines = [RecordLine(r.at, "remark", r.text, who=r.who) for r in row.remarks.all()]
    for s in row.stays.select_related("rig"):
        rig, name = (s.rig.slug, s.rig.name) if s.rig else ("", f"{s.rig_name}, which was removed")
        lines.append(RecordLine(s.since, "fitted", f"Fitted to {name}", rig))
        if s.until:
            lines.append(RecordLine(s.until, "taken_out", f"Taken out of {name}", rig))
    for c in compared_with(row).select_related("rig"):
        found = f"{difference(c.error_c, '+.2f')} ± {difference(c.uncertainty_c, '.2f')}"
        against = f"against {c.reference}" if row.role == "sensor" else f"with the sensor of {c.rig.name}"
        lines.append(
            RecordLine(c.at, "compared", f"Compared {against}: the display was off by {found}", c.rig.slug, c.who)
        )
    lines += [_proved(p) for p in proved_with(row).select_related("rig")]
    return sorted(lines, key=lambda line: line.at, reverse=True)


def _proved(p: Proof) -> RecordLine:
    return RecordLine(p.at, "proved", f"Made to act: {p.says}", p.rig.slug, p.who)
