"""Chambers between the database and the core."""

from collections.abc import Sequence

from django.db.models import F

from rellux.core.errors import Refused
from rellux.core.findings import Finding, worst_first
from rellux.core.setup.parameters import settings_from
from rellux.core.spine import Station
from rellux.core.zones import chamber as core
from rellux.core.zones.heat_up import HeatUp, heat_up
from rellux.core.zones.steady import Steady, findings_of, found_elsewhere, not_reckoned
from rellux.server.accounts.models import User
from rellux.server.answers.once import remembered
from rellux.server.rigs.change import note
from rellux.server.rigs.domain import purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.setup.domain import working_values
from rellux.server.tuning.domain import among, identified_of

from .models import Chamber, ChamberZone
from .places import chamber_of, check_zones, heated_rig, not_one, part_rest, unreadable, zones_beside, zones_in


def as_chamber(chamber: Chamber, rigs: Sequence[Rig]) -> core.Chamber:
    """As the core knows it, with its zones as they were read, and checked, at once: it may be parted meanwhile."""
    zones = (
        core.Zone(rig.name, rig.slug, heated_rig(rig), settings_from(working_values(rig), purpose_of(rig)))
        for rig in rigs
    )
    return core.Chamber(tuple(zones), tuple(chamber.along_percent), chamber.supply_w)


@remembered(16, lasts=True)
def steady(chamber: core.Chamber) -> Steady:
    return core.steady_of(chamber)


@remembered(16, lasts=True)
def heated(chamber: core.Chamber, turns: bool) -> HeatUp:
    return heat_up(chamber, turns)


def zone_findings(rig: Rig) -> list[Finding]:
    """What of its chamber is to be known at a rig: what is of all zones, and its own; or that its process was found in one."""
    chamber, row = chamber_of(rig), rig.identifications.first()
    if chamber is None:
        return list(found_elsewhere(among(row))) if row and identified_of(row) else []
    rigs = zones_in(chamber)
    if reason := not_one(chamber, rigs):
        return [not_reckoned(chamber.name, reason)]
    return worst_first(
        [f for f in findings_of(steady(as_chamber(chamber, rigs))) if not f.subjects or rig.slug in f.subjects]
    )


def told(chamber: Chamber) -> dict[str, object]:
    """A chamber for the book."""
    return {
        "chamber": chamber.name,
        "zones": ", ".join(r.name for r in zones_in(chamber)),
        "along_percent": list(chamber.along_percent),
        "supply_w": chamber.supply_w,
    }


def noted(rigs: Sequence[Rig], by: User, title: str, *, before: dict[str, object], after: dict[str, object]) -> None:
    """A line in the book of every zone; what is worked out of them is worked out anew."""
    for rig in rigs:
        note(rig, by, Station.PURPOSE, title, before=before, after=after)
    Rig.objects.filter(pk__in=[r.pk for r in rigs]).update(revision=F("revision") + 1)


def follow(rig: Rig) -> None:
    """After a zone became another. Raises ``Refused`` where its chamber can no longer be one."""
    chamber = chamber_of(rig)
    if chamber is None:
        return
    rigs = zones_in(chamber)
    if not any(unreadable(r) for r in rigs if r.pk != rig.pk):
        check_zones(rigs, chamber.along_percent, chamber.supply_w)
    tell_neighbours(rig)


def follow_or_part(rig: Rig) -> None:
    """After a zone was repaired: it stays one where it can."""
    try:
        follow(rig)
    except Refused:
        part_rest(rig)


def place_zones(chamber: Chamber, rigs: Sequence[Rig]) -> None:
    """These rigs, in this order, and no others."""
    ChamberZone.objects.filter(chamber=chamber).delete()
    ChamberZone.objects.bulk_create(ChamberZone(chamber=chamber, rig=rig, place=i) for i, rig in enumerate(rigs))


def tell_neighbours(rig: Rig) -> None:
    """What is worked out of the other zones of its chamber is worked out anew."""
    Rig.objects.filter(pk__in=[r.pk for r in zones_beside(rig)]).update(revision=F("revision") + 1)
