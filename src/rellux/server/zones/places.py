"""Which zone of a chamber a rig is, and what the others do to it while they work."""

from collections.abc import Collection, Iterator, Sequence
from dataclasses import replace
from itertools import pairwise

from rellux.core.errors import Problem, Refused, refuse, refuse_all
from rellux.core.guarding.family import HeatedRig, Identified, family
from rellux.core.purpose.heater import heat_w
from rellux.core.purpose.purpose import Purpose
from rellux.core.zones.chamber import as_now, between, check_chamber, losses_of, neighbours_of, times_as_hot_now
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


def zones_beside(rig: Rig) -> list[Rig]:
    """The other zones of its chamber."""
    chamber = chamber_of(rig)
    return [r for r in zones_in(chamber) if r.pk != rig.pk] if chamber else []


def heated_rig(rig: Rig) -> HeatedRig:
    """As it is by itself, and as it was found."""
    purpose, row = purpose_of(rig), rig.identifications.first()
    return HeatedRig(kind_of(rig), purpose, heat_w(purpose), known_of(rig, row))


def hot_together(rig: Rig) -> list[HeatedRig]:
    """It, and the other zones of its chamber that can be read."""
    return [heated_rig(r) for r in (rig, *zones_beside(rig)) if r.pk == rig.pk or not unreadable(r)]


def known_of(rig: Rig, row: Identification | None) -> Identified | None:
    """What was found of it, as it is now."""
    known = identified_of(row)
    if known is None or row is None:
        return None
    return as_now(known, among(row), ChamberZone.objects.filter(rig=rig).exists())


def at_work(rig: Rig, row: Identification) -> float:
    """How many times as hot it gets now as when it was found: less where others have since come to take their share of what it loses, more
    where those it was found among are gone."""
    neighbours = purpose_at_work(rig).neighbours
    is_zone = ChamberZone.objects.filter(rig=rig).exists()
    return times_as_hot_now(among(row), is_zone, neighbours.share if neighbours else 0.0)


def purpose_at_work(rig: Rig) -> Purpose:
    """Its purpose, with the zones beside it where there are some that can be reckoned with."""
    chamber = chamber_of(rig)
    rigs = zones_in(chamber) if chamber else []
    if chamber is None or rig not in rigs or not_one(chamber, rigs):
        return purpose_of(rig)
    i = [r.pk for r in rigs].index(rig.pk)
    neighbours = neighbours_of([heated_rig(r) for r in rigs], chamber.along_percent, i)
    return replace(purpose_of(rig), neighbours=neighbours)


def check_zones(rigs: Sequence[Rig], along_percent: Sequence[float], supply_w: float | None) -> None:
    """Raises ``Refused`` for rigs that cannot be read, and for what is no chamber."""
    refuse_all(
        Problem(f"zones[{i}]", f"{r.name} cannot be read", "one that is repaired, or another rig")
        for i, r in enumerate(rigs)
        if unreadable(r)
    )
    check_chamber([(r.name, heated_rig(r)) for r in rigs], along_percent, supply_w)


def not_one(chamber: Chamber, rigs: Sequence[Rig]) -> str:
    """Why its zones, ``rigs``, are not reckoned with as zones, as something changed since; empty where they are."""
    try:
        check_zones(rigs, chamber.along_percent, chamber.supply_w)
    except Refused as refused:
        return refused.problems[0].reason
    return ""


def joints_among(rigs: Collection[int]) -> Iterator[tuple[int, int, float]]:
    """Every pair of these rigs that are neighbours in a chamber, and what joins them as rigs of their kinds, W/K."""
    for chamber in Chamber.objects.filter(zones__rig__in=rigs).distinct():
        zones = zones_in(chamber)
        if len(zones) != len(chamber.along_percent) + 1:  # parted, or joined otherwise, while it is read
            continue
        try:
            each = [HeatedRig(kind_of(r), purpose_of(r), heat_w(purpose_of(r))) for r in zones]
        except Exception:  # one that cannot be read warms nobody
            continue
        joints = between(losses_of(each, chamber.along_percent), chamber.along_percent)
        for (a, b), g in zip(pairwise([r.pk for r in zones]), joints, strict=True):
            if a in rigs and b in rigs:
                yield a, b, g


def check_in_none(rig: Rig) -> None:
    """Raise ``Refused`` for a rig that the others of a chamber count on; one that cannot be read they no longer can."""
    chamber = chamber_of(rig)
    if chamber is not None and not unreadable(rig):
        raise refuse("rig", f"it is a zone of {chamber.name}", "taken out of it first, under Zones")


def unreadable(rig: Rig) -> bool:
    """Whether what others reckon with of a rig cannot be read."""
    try:
        family(heated_rig(rig))
    except Exception:  # whatever is wrong with its rows
        return True
    return False


def part_rest(rig: Rig) -> None:
    """Before a rig is gone for good: the chamber it was a zone of is none without it."""
    Chamber.objects.filter(zones__rig=rig).delete()
