"""The purpose of a rig: described, tried with everything that hangs on it, and changed."""

import secrets
from dataclasses import asdict, dataclass, field
from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import refuse
from rellux.core.plant.rig_models import check_fire, check_heater_sensor
from rellux.core.purpose.consequences import Found, Hanging, consequences, other_process
from rellux.core.purpose.controls import Controls
from rellux.core.purpose.cooler import Cooler
from rellux.core.purpose.heater_sensor import HeaterSensor
from rellux.core.purpose.kinds import check_kind
from rellux.core.purpose.own_mains import OwnMains
from rellux.core.purpose.purpose import Effect, Fire, Limited, Purpose, RigKind, Supply, check_purpose
from rellux.core.spine import Station
from rellux.core.wiring.choice import fitting
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.equipment.models import Stay
from rellux.server.profiles.domain import outgrown, ran_on
from rellux.server.profiles.models import ProfileVersion
from rellux.server.wiring.domain import follow_purpose
from rellux.server.zones.domain import follow
from rellux.server.zones.places import unreadable, zones_beside

from .chain import chain_of
from .change import changing, difference, note, stated
from .domain import PARTS_FIELDS, PURPOSE_FIELDS, check_name, choice_of, purpose_of
from .keeping import check_left_alone
from .models import Rig
from .overview import RigView, findings_of, rig_view

NESTED = ("fire", "cooler", "controls", "own_mains", "heater_sensor")
"""Parts of a purpose that are fields of their own, or not there."""


@dataclass(frozen=True)
class PurposeInput:
    """Name, kind and purpose of a rig. ``revision`` is needed when changing one."""

    name: str
    kind: RigKind
    working_c: float
    highest_c: float
    highest_reason: str
    supply: Supply
    supply_voltage_v: float
    heater_power_w: float = 0.0
    heater_voltage_v: float = 0.0
    lowest_c: float | None = None
    lowest_reason: str = ""
    ambient_c: float = 21.0
    materials: list[Limited] = field(default_factory=list)
    effect: Effect = Effect.HEATS
    frequency_hz: float = 50.0
    fire: Fire | None = None
    cooler: Cooler | None = None
    controls: Controls | None = None
    own_mains: OwnMains | None = None
    heater_sensor: HeaterSensor | None = None
    revision: int | None = None

    def purpose(self) -> Purpose:
        values = {name: getattr(self, name) for name in PURPOSE_FIELDS}
        return Purpose(**{**values, "materials": tuple(self.materials)})

    def stored(self) -> dict[str, Any]:
        """The purpose as the rig's fields hold it."""
        values = {name: getattr(self, name) for name in PURPOSE_FIELDS}
        parts = {name: asdict(values[name]) if values[name] else {} for name in NESTED}
        return {**values, "materials": [asdict(m) for m in self.materials], **parts}


def checked(given: PurposeInput) -> PurposeInput:
    check_name(given.name)
    for name in ("highest_reason", "lowest_reason"):
        if len(getattr(given, name)) > 200:
            raise refuse(name, "is too long", "up to 200 characters")
    purpose = given.purpose()
    check_purpose(purpose)
    check_kind(given.kind, purpose)
    check_fire(given.kind, purpose)
    check_heater_sensor(given.kind, purpose)
    return given


def _become(rig: Rig, given: PurposeInput) -> tuple[dict[str, Any], dict[str, Any]]:
    """The rig with another purpose, its parts and wired loads following; what was changed, before and after."""
    if given.effect != rig.effect:
        check_left_alone(rig)
    before = {n: getattr(rig, n) for n in ("name", "kind", *PURPOSE_FIELDS, *PARTS_FIELDS)}
    for name, value in {"kind": given.kind, **given.stored()}.items():
        setattr(rig, name, value)
    rig.name = given.name.strip()
    Stay.objects.filter(rig=rig).update(rig_name=rig.name)
    if choice := choice_of(rig):
        fits = fitting(purpose_of(rig), choice)
        for name, value in asdict(fits).items():
            setattr(rig, name, value)
        chain_of(rig, fits)  # what nothing here carries is refused, and nothing of it stays
    rig.save()
    follow(rig)
    follow_purpose(rig)
    return difference(before, {n: getattr(rig, n) for n in before})


@dataclass(frozen=True)
class PartChange:
    """A chosen part that follows the purpose: by its field, before and after."""

    name: str
    before: Any
    after: Any


@dataclass(frozen=True)
class NeighbourTrial:
    """What hangs on it at another zone of the chamber."""

    slug: str
    name: str
    new: list[Hanging]
    settled: list[Hanging]


@dataclass(frozen=True)
class PurposeTrialView:
    """What hangs on a purpose, before it is saved."""

    parts: list[PartChange]
    new: list[Hanging]
    settled: list[Hanging]
    gone: list[Station]
    neighbours: list[NeighbourTrial]


class PurposeTrial(APIView):
    changes_rig = False

    @endpoint("tryPurpose", PurposeTrialView, PurposeInput)
    def post(self, request: Request, slug: str) -> Response:
        """The rig is changed, looked at, and put back: nothing of it stays."""
        given = checked(read(request, PurposeInput))
        with transaction.atomic():
            rig = get_object_or_404(Rig, slug=slug)
            before, was, profiles = findings_of(rig), purpose_of(rig), ran_on(rig)
            beside = {n.pk: _looked_at(n) for n in zones_beside(rig) if not unreadable(n)}
            changed = _become(rig, given)
            _as_no_other(rig)
            after, will_be = dict(findings_of(rig)), purpose_of(rig)
            found = other_process(was, will_be) if rig.identifications.exists() else ()
            after[Station.TUNING] = tuple(found)
            after[Station.PROFILES] = tuple(outgrown(rig, profiles)) if will_be.heats else ()
            neighbours = [_neighbour_trial(n, *beside[n.pk]) for n in zones_beside(rig) if n.pk in beside]
            transaction.set_rollback(True)
        told = consequences(before, after, was, will_be)
        parts = [PartChange(n, changed[0][n], changed[1][n]) for n in PARTS_FIELDS if n in changed[1]]
        return reply(PurposeTrialView(parts, list(told.new), list(told.settled), list(told.gone), neighbours))


NEVER = 2**30
"""No rig is changed so often."""


def _as_no_other(rig: Rig) -> None:
    """What is worked out of it by its revision is not taken for a real one's."""
    rig.revision = NEVER + secrets.randbelow(NEVER)
    rig.save()


def _looked_at(rig: Rig) -> tuple[Found, list[ProfileVersion]]:
    return findings_of(rig), ran_on(rig)


def _neighbour_trial(rig: Rig, before: Found, profiles: list[ProfileVersion]) -> NeighbourTrial:
    """At a zone that stays what it is, while another becomes something else."""
    _as_no_other(rig)
    after, purpose = {**findings_of(rig), Station.PROFILES: tuple(outgrown(rig, profiles))}, purpose_of(rig)
    told = consequences(before, after, purpose, purpose)
    return NeighbourTrial(rig.slug, rig.name, list(told.new), list(told.settled))


class PurposeDetail(APIView):
    @endpoint("changePurpose", RigView, PurposeInput)
    def put(self, request: Request, slug: str) -> Response:
        given = checked(read(request, PurposeInput))
        with changing(slug, stated(given.revision)) as rig:
            was, now = _become(rig, given)
            if now:
                note(rig, request.user, Station.PURPOSE, "Purpose changed", before=was, after=now)
        return reply(rig_view(rig))
