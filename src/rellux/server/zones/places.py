"""Which zone of a chamber a rig is, and what the others do to it while they work."""

from collections.abc import Collection, Iterator
from dataclasses import replace
from itertools import pairwise

from rellux.core.errors import refuse
from rellux.core.guarding.family import HeatedRig, Identified
from rellux.core.purpose.heater import heat_w
from rellux.core.purpose.purpose import Purpose
from rellux.core.zones.chamber import between, losses_of, neighbours_of
from rellux.server.rigs.domain import kind_of, purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.tuning.domain import among, identified_of
from rellux.server.tuning.models import Identification

from .models import Chamber, ChamberZone


def chamber_of(rig: Rig) -> Chamber | None:
    """The chamber it is a zone of."""
    return Chamber.objects.filter(zones__rig=rig).first()


def zones_in(chamber: Chamber) -> list[Rig]:
    """Its rigs in the order they lie."""
    return [z.rig for z in ChamberZone.objects.filter(chamber=chamber).select_related("rig")]


def heated_rig(rig: Rig) -> HeatedRig:
    """As it is by itself, and as it was found."""
    purpose, row = purpose_of(rig), rig.identifications.first()
    return HeatedRig(kind_of(rig), purpose, heat_w(purpose), known_of(rig, row))


def hot_together(rig: Rig) -> list[HeatedRig]:
    """It, and the other zones of its chamber."""
    chamber = chamber_of(rig)
    return [heated_rig(r) for r in (zones_in(chamber) if chamber else [rig])]


def known_of(rig: Rig, row: Identification | None) -> Identified | None:
    """What was found of it, as it is now. A zone that was found by itself says so; one that was found among others and is by itself now
    gets as much hotter as they no longer carry away."""
    known = identified_of(row)
    if known is None or row is None:
        return None
    share, is_zone = among(row), ChamberZone.objects.filter(rig=rig).exists()
    if is_zone:
        return known if share else replace(known, by_itself=True)
    return known.times(1.0 / (1.0 - share))


def purpose_at_work(rig: Rig) -> Purpose:
    """Its purpose, with the zones beside it where there are some."""
    chamber = chamber_of(rig)
    if chamber is None:
        return purpose_of(rig)
    rigs = zones_in(chamber)
    i = [r.pk for r in rigs].index(rig.pk)
    neighbours = neighbours_of(hot_together(rig), chamber.along_percent, i)
    return replace(purpose_of(rig), neighbours=neighbours)


def joints_among(rigs: Collection[int]) -> Iterator[tuple[int, int, float]]:
    """Every pair of these rigs that are neighbours in a chamber, and what joins them as rigs of their kinds, W/K."""
    for chamber in Chamber.objects.filter(zones__rig__in=rigs).distinct():
        each = [(r.pk, HeatedRig(kind_of(r), purpose_of(r), heat_w(purpose_of(r)))) for r in zones_in(chamber)]
        joints = between(losses_of([rig for _, rig in each], chamber.along_percent), chamber.along_percent)
        for (a, b), g in zip(pairwise([key for key, _ in each]), joints, strict=True):
            if a in rigs and b in rigs:
                yield a, b, g


def check_in_none(rig: Rig) -> None:
    """Raise ``Refused`` for a rig that the others of a chamber count on."""
    chamber = chamber_of(rig)
    if chamber is not None:
        raise refuse("rig", f"it is a zone of {chamber.name}", "taken out of it first, under Zones")
