"""Chambers: joining rigs as zones, what they do together, how they heat up, taking them apart."""

from dataclasses import dataclass, field

from django.db import transaction
from django.shortcuts import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import Problem, refuse, refuse_all
from rellux.core.explain import Figure
from rellux.core.findings import Finding, worst_first
from rellux.core.purpose.purpose import Effect
from rellux.core.zones.chamber import USUAL_PERCENT, neighbours_of
from rellux.core.zones.steady import drawn, figures_of, findings_of, headline, holding_figures, tuning_order
from rellux.server.api.endpoint import endpoint
from rellux.server.api.errors import Conflict
from rellux.server.api.shapes import read, reply
from rellux.server.rigs.change import difference, revision_in, stated
from rellux.server.rigs.domain import check_name
from rellux.server.rigs.models import Rig

from .domain import as_chamber, heated, noted, place_zones, steady, told
from .models import Chamber, ChamberZone
from .places import check_zones, zones_in


@dataclass(frozen=True)
class ChamberInput:
    """``zones``: the slugs of two or three rigs in the order they lie. ``along_percent``, of each pair of neighbours: with one of them
    heated alone, the other comes to so much of its rise. ``supply_w``: what all may draw at once. ``revision`` when changing one."""

    name: str
    zones: list[str] = field(default_factory=list)
    along_percent: list[float] = field(default_factory=list)
    supply_w: float | None = None
    revision: int | None = None


@dataclass(frozen=True)
class ZoneView:
    """One zone. ``kept_c``: where the others keep it with its own heater off; ``holds``: its output at work."""

    slug: str
    name: str
    working_c: float
    power_w: float
    kept_c: float
    holds: Figure


@dataclass(frozen=True)
class ChamberView:
    """``order``: slugs as they are tuned; ``draws_w``: all heaters at once."""

    id: int
    name: str
    revision: int
    zones: list[ZoneView]
    along_percent: list[float]
    supply_w: float | None
    draws_w: float
    headline: str
    figures: list[Figure]
    findings: list[Finding]
    order: list[str]


@dataclass(frozen=True)
class ChamberRow:
    id: int
    name: str
    revision: int
    zones: list[str]


@dataclass(frozen=True)
class FreeRig:
    """A rig that could be a zone."""

    slug: str
    name: str
    working_c: float


@dataclass(frozen=True)
class ChambersView:
    """``usual_percent``: what is taken of neighbours until it was tried."""

    chambers: list[ChamberRow]
    free: list[FreeRig]
    usual_percent: float


@dataclass(frozen=True)
class ZoneHeatUp:
    """``begins_s``: when its controller is switched on, ``holds_s``: when it first holds; ``over_c`` its set-point at the most."""

    slug: str
    name: str
    setpoint_c: float
    reading_c: list[float]
    begins_s: float | None
    holds_s: float | None
    over_c: float


@dataclass(frozen=True)
class HeatUpView:
    """All zones from cold; ``holds_s``: when all of them hold, ``None``: never; ``most_w`` drawn at once, and in words."""

    turns: bool
    time_s: list[float]
    zones: list[ZoneHeatUp]
    holds_s: float | None
    most_w: float
    draws: str


def _chambers() -> ChambersView:
    rows = [ChamberRow(c.pk, c.name, c.revision, [r.name for r in zones_in(c)]) for c in Chamber.objects.all()]
    free = Rig.objects.filter(zone__isnull=True, archived_at__isnull=True, effect=Effect.HEATS.value, fire={})
    return ChambersView(rows, [FreeRig(r.slug, r.name, r.working_c) for r in free], USUAL_PERCENT)


def _view(row: Chamber) -> ChamberView:
    rigs = zones_in(row)
    check_zones(rigs, row.along_percent, row.supply_w)
    chamber = as_chamber(row, rigs)
    found = steady(chamber)
    findings = worst_first(findings_of(found))
    zones = [
        ZoneView(
            rig.slug,
            rig.name,
            rig.working_c,
            found.powers_w[i],
            neighbours_of(chamber.rigs, chamber.along_percent, i).keep_at_c(rig.ambient_c),
            holds,
        )
        for i, (rig, holds) in enumerate(zip(rigs, holding_figures(found), strict=True))
    ]
    return ChamberView(
        row.pk,
        row.name,
        row.revision,
        zones,
        row.along_percent,
        row.supply_w,
        sum(found.powers_w),
        headline(found, findings),
        list(figures_of(found)),
        findings,
        [rigs[i].slug for i in tuning_order(found.gains)],
    )


def _rigs(given: ChamberInput, of: Chamber | None) -> list[Rig]:
    """The rigs that were named. Raises ``Refused`` for one that is not there, put aside, or in another chamber."""
    known = {r.slug: r for r in Rig.objects.select_for_update().filter(slug__in=given.zones)}
    taken = dict(
        ChamberZone.objects.exclude(chamber=of)
        .filter(rig__slug__in=given.zones)
        .values_list("rig__slug", "chamber__name")
    )
    problems = []
    for i, slug in enumerate(given.zones):
        rig = known.get(slug)
        if rig is None or rig.archived_at:
            problems.append(Problem(f"zones[{i}]", "there is no such rig in the workshop", "one that is"))
        elif slug in taken:
            problems.append(Problem(f"zones[{i}]", f"it is a zone of {taken[slug]}", "a rig of no other chamber"))
    refuse_all(problems)
    return [known[slug] for slug in given.zones]


def _become(row: Chamber, given: ChamberInput) -> list[Rig]:
    """The chamber as it was given; its zones."""
    check_name(given.name)
    if Chamber.objects.filter(name=given.name.strip()).exclude(pk=row.pk).exists():
        raise refuse("name", "there is a chamber of that name", "another name")
    rigs = _rigs(given, row if row.pk else None)
    check_zones(rigs, given.along_percent, given.supply_w)
    row.name, row.along_percent, row.supply_w = given.name.strip(), given.along_percent, given.supply_w
    row.save()
    place_zones(row, rigs)
    check_zones(
        rigs, given.along_percent, given.supply_w
    )  # what was found of them counts otherwise once they are zones
    return rigs


def _locked(pk: int, revision: int) -> Chamber:
    row = get_object_or_404(Chamber.objects.select_for_update(), pk=pk)
    if row.revision != revision:
        raise Conflict("another window changed this chamber after it was loaded", "look at the new state, then repeat")
    return row


class Chambers(APIView):
    @endpoint("chambers", ChambersView)
    def get(self, request: Request) -> Response:
        return reply(_chambers())

    @endpoint("joinZones", ChamberView, ChamberInput, status=201)
    def post(self, request: Request) -> Response:
        given = read(request, ChamberInput)
        with transaction.atomic():
            row = Chamber()
            rigs = _become(row, given)
            noted(rigs, request.user, f"Zone of {row.name}", before={}, after=told(row))
        return reply(_view(row), 201)


class ChamberDetail(APIView):
    @endpoint("chamber", ChamberView)
    def get(self, request: Request, id: int) -> Response:
        return reply(_view(get_object_or_404(Chamber, pk=id)))

    @endpoint("changeChamber", ChamberView, ChamberInput)
    def put(self, request: Request, id: int) -> Response:
        given = read(request, ChamberInput)
        with transaction.atomic():
            row = _locked(id, stated(given.revision))
            before, was = told(row), zones_in(row)
            row.revision += 1
            rigs = _become(row, given)
            old, new = difference(before, told(row))
            everyone = [*rigs, *(r for r in was if r not in rigs)]
            if new:
                noted(everyone, request.user, f"Zones of {row.name} changed", before=old, after=new)
        return reply(_view(row))

    @endpoint("partZones", ChambersView, query={"revision": int})
    def delete(self, request: Request, id: int) -> Response:
        """Every rig stays, by itself."""
        with transaction.atomic():
            row = _locked(id, revision_in(request.query_params))
            rigs = zones_in(row)
            noted(rigs, request.user, f"No zone of {row.name} any longer", before=told(row), after={})
            row.delete()
        return reply(_chambers())


class ChamberHeatUp(APIView):
    @endpoint("heatUpOfChamber", HeatUpView, query={"turns": bool})
    def get(self, request: Request, id: int) -> Response:
        """From cold, as simulated; ``turns``: one zone after the other."""
        row = get_object_or_404(Chamber, pk=id)
        rigs = zones_in(row)
        check_zones(rigs, row.along_percent, row.supply_w)
        chamber = as_chamber(row, rigs)
        turns = request.query_params.get("turns") == "true"
        found = heated(chamber, turns)
        zones = [
            ZoneHeatUp(
                zone.subject,
                zone.name,
                zone.rig.purpose.working_c,
                c.reading_c.round(2).tolist(),
                c.begins_s,
                c.holds_s,
                c.over_c,
            )
            for zone, c in zip(chamber.zones, found.zones, strict=True)
        ]
        return reply(
            HeatUpView(
                turns, found.time_s.tolist(), zones, found.holds_s, found.most_w, drawn(steady(chamber), found.most_w)
            )
        )
